import type { ColumnType } from '../schema/index.ts';

/** A primitive type of OData (CSDL 4.01, 3.3), or a list of one. */
export interface EdmType {
  readonly name:
    | 'Edm.Binary'
    | 'Edm.Boolean'
    | 'Edm.Date'
    | 'Edm.DateTimeOffset'
    | 'Edm.Decimal'
    | 'Edm.Double'
    | 'Edm.Guid'
    | 'Edm.Int16'
    | 'Edm.Int32'
    | 'Edm.Int64'
    | 'Edm.Single'
    | 'Edm.String'
    | 'Edm.TimeOfDay';
  readonly isCollection: boolean;
  readonly maxLength?: number;
  readonly precision?: number;
  /** Digits behind the point; `variable` where each value has its own. */
  readonly scale?: number | 'variable';
}

const one = (name: EdmType['name'], facets: Partial<EdmType> = {}): EdmType => ({
  name,
  isCollection: false,
  ...facets,
});

/** PostgreSQL keeps microseconds. */
const precision = 6;

/**
 * The type of a column. What OData has no type for is a string as answers write it: JSON, enum values, ranges, times
 * with a zone, and intervals, which may have months where OData's durations have none.
 */
export function edmTypeOf(type: ColumnType): EdmType {
  switch (type.kind) {
    case 'integer':
      return one(type.bits === 16 ? 'Edm.Int16' : type.bits === 32 ? 'Edm.Int32' : 'Edm.Int64');
    case 'numeric':
      return one('Edm.Decimal', decimalFacets(type));
    case 'float':
      return one(type.bits === 32 ? 'Edm.Single' : 'Edm.Double');
    case 'boolean':
      return one('Edm.Boolean');
    case 'date':
      return one('Edm.Date');
    case 'time':
      return type.zone ? one('Edm.String') : one('Edm.TimeOfDay', { precision });
    case 'timestamp':
      return one('Edm.DateTimeOffset', { precision });
    case 'uuid':
      return one('Edm.Guid');
    case 'binary':
      return one('Edm.Binary');
    case 'text':
      return one('Edm.String', type.maxLength === undefined ? {} : { maxLength: type.maxLength });
    case 'array':
      return { ...edmTypeOf(type.element), isCollection: true };
    case 'interval':
    case 'enum':
    case 'json':
    case 'range':
    case 'opaque':
      return one('Edm.String');
    default:
      throw new Error(`no type for ${JSON.stringify(type satisfies never)}`);
  }
}

function decimalFacets({
  precision: digits,
  scale,
}: Extract<ColumnType, { kind: 'numeric' }>): Partial<EdmType> {
  if (digits === undefined || scale === undefined) return { scale: 'variable' };
  // PostgreSQL rounds to tens and hundreds where the scale is below zero.
  return scale < 0
    ? { precision: digits - scale, scale: 0 }
    : { precision: Math.max(digits, scale), scale };
}

const keyTypes: ReadonlySet<EdmType['name']> = new Set([
  'Edm.Boolean',
  'Edm.Date',
  'Edm.DateTimeOffset',
  'Edm.Decimal',
  'Edm.Guid',
  'Edm.Int16',
  'Edm.Int32',
  'Edm.Int64',
  'Edm.String',
  'Edm.TimeOfDay',
]);

/** Whether a key may be made of it (CSDL 4.01, 6.5). */
export function isKeyType({ name, isCollection }: EdmType): boolean {
  return !isCollection && keyTypes.has(name);
}
