/** One of the types that a client takes (RFC 9110, 12.5.1). */
export interface MediaType {
  /** In small letters. */
  readonly name: string;
  /** By their names in small letters, without the prefix that OData 4.0 wants. */
  readonly parameters: ReadonlyMap<string, string>;
  /** 0 to 1. */
  readonly weight: number;
}

export function parseMediaType(text: string): MediaType {
  const [name = '', ...rest] = text.split(';').map((part) => part.trim().toLowerCase());
  const parameters = new Map(
    rest.map((part): [string, string] => {
      const [key = '', value = ''] = part.split('=');
      return [key.trim().replace(/^odata\./, ''), value.trim().replaceAll('"', '')];
    }),
  );
  const weight = Number(parameters.get('q') ?? 1);
  return { name, parameters, weight: Number.isFinite(weight) ? weight : 0 };
}
