import { isNumeric, type ResultColumn } from '@ephoros/core/schema';

/** Whether values stand at the end of their cells, so that their digits do under each other. */
export function isEndAligned({ type, format, valueLabels }: ResultColumn): boolean {
  const drawn = format?.kind === 'badge' || format?.kind === 'link' || valueLabels !== undefined;
  return !drawn && (isNumeric(type) || type.kind === 'interval');
}

/** In px, from what the type can hold; the view shares what is left. */
export function widthOf(column: ResultColumn): number {
  const named = Object.values(column.valueLabels ?? {}).map((label) => label.length * 7.5 + 32);
  return Math.max(widthOfType(column), ...named);
}

function widthOfType({ type, format }: ResultColumn): number {
  if (format?.kind === 'picture') return 84;
  switch (type.kind) {
    case 'integer':
      return type.bits === 64 ? 96 : 76;
    case 'boolean':
      return 72;
    case 'numeric':
    case 'float':
      return 100;
    case 'date':
    case 'time':
      return 116;
    case 'timestamp':
      return 168;
    case 'interval':
      return 112;
    case 'enum':
      return 108;
    case 'uuid':
      return 290;
    case 'text':
      return 190;
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return 170;
    default:
      throw new Error(`no width for ${JSON.stringify(type satisfies never)}`);
  }
}
