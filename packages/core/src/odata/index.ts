/** OData 4.01 (ISO/IEC 20802) as another spelling of a query: model, options, values. Read-only. */
export { entityOf, type Entity } from './model.ts';
export { csdlJson, csdlXml } from './csdl.ts';
export { edmTypeOf } from './edm.ts';
export { parseAddress, type AddressPart } from './address.ts';
export {
  optionsOf,
  printPageToken,
  readOptionNames,
  readQueryOptions,
  type Options,
  type QueryOptionTexts,
} from './options.ts';
export { reading } from './reader.ts';
export { placesOfJson, printPlaced, rowPrinter, selectedIn } from './rows.ts';
export { printValue, type ValueForm } from './value.ts';
