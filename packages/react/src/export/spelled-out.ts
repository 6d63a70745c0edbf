import { shellText } from '../request-log/code-text.ts';

/** The same file by curl; `address` is where it is found. */
export function curlOfFile(address: string, name: string): string {
  return `curl --fail --output ${shellText(name)} \\\n  ${shellText(address)}`;
}

/** Options of the command line that are called otherwise than their parameters. */
const otherwise: Readonly<Record<string, string>> = { header: 'first-line' };
const alone = new Set(['bom', 'formulas', 'value-labels']);

/** The same file by the command line. */
export function commandOfFile(address: string, table: string, name: string): string {
  const { origin, searchParams } = new URL(address);
  const options = [...searchParams].flatMap(([parameter, text]) => {
    if (parameter === 'format') return [];
    const option = `--${otherwise[parameter] ?? parameter}`;
    if (alone.has(parameter)) return text === 'true' ? [option] : [];
    return [`${option} ${shellText(text)}`];
  });
  return [
    `ephoros export ${shellText(table)} --out ${shellText(name)}`,
    ...options,
    `--url ${shellText(origin)}`,
  ].join(' \\\n  ');
}
