import type { Problem } from '@ephoros/core/problem';

interface Told {
  readonly slug: string;
  readonly detail: string;
  readonly requestId: string;
  readonly errors?: readonly Problem[] | undefined;
}

/** An error as OData has it (JSON Format 4.01, 21.1), each error of the request among its details. */
export function odataError({ slug, detail, requestId, errors = [] }: Told): string {
  const [first, ...others] = errors.map(({ code, parameter, position, length, message, hint }) => ({
    code,
    message: hint === undefined ? message : `${message} ${hint}`,
    ...(parameter === undefined ? {} : { target: written(parameter) }),
    ...(position === undefined
      ? {}
      : { '@Ephoros.position': position, '@Ephoros.length': length ?? 0 }),
  }));
  const error =
    first === undefined
      ? { code: slug, message: detail }
      : { ...first, ...(others.length === 0 ? {} : { details: others }) };
  return JSON.stringify({ error: { ...error, '@Ephoros.requestId': requestId } });
}

/** What our own parameters are called there. */
const names: Readonly<Record<string, string>> = {
  sort: '$orderby',
  columns: '$select',
  filter: '$filter',
  search: '$search',
  group: '$apply',
  aggregate: '$apply',
  offset: '$skip',
  limit: '$top',
  after: '$skiptoken',
};

function written(parameter: string): string {
  return names[parameter] ?? parameter;
}
