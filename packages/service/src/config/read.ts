import { readFile } from 'node:fs/promises';
import { isNode, LineCounter, parseDocument, type Document } from 'yaml';
import type { z } from 'zod';
import { configurationSchema, type Configuration } from './schema.ts';

/** One error of a configuration file. Line and column count from 1. */
export interface ConfigurationIssue {
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

/** Every error of a configuration file, as `file:line:column: message` lines. */
export class ConfigurationError extends Error {
  readonly errors: readonly ConfigurationIssue[];

  constructor(file: string, errors: readonly ConfigurationIssue[]) {
    const lines = errors.map(
      ({ line, column, message }) => `${file}:${line}:${column}: ${message}`,
    );
    super(lines.join('\n'));
    this.name = 'ConfigurationError';
    this.errors = errors;
  }
}

/** A configuration with the places of its parts, for errors that show later. */
export interface ConfigurationFile {
  readonly configuration: Configuration;
  /** An error that names the places of these parts, each given by its path. */
  refuse(errors: readonly { path: readonly PropertyKey[]; message: string }[]): ConfigurationError;
}

/** No file: everything at its default. */
export const noConfiguration: ConfigurationFile = {
  configuration: {},
  refuse: (errors) =>
    new ConfigurationError(
      'configuration',
      errors.map(({ message }) => ({ line: 1, column: 1, message })),
    ),
};

/** A configuration that a program gives. @throws ConfigurationError with every error */
export function configurationOf(given: Configuration | ConfigurationFile): ConfigurationFile {
  if (isFile(given)) return given;
  const read = configurationSchema.safeParse(given);
  if (!read.success) throw noConfiguration.refuse(read.error.issues.flatMap(errorsOf));
  return { ...noConfiguration, configuration: read.data };
}

function isFile(given: Configuration | ConfigurationFile): given is ConfigurationFile {
  return 'refuse' in given;
}

/** Reads `ephoros.yaml`. @throws ConfigurationError with every error; an I/O error. */
export async function readConfiguration(file: string): Promise<ConfigurationFile> {
  return parseConfiguration(await readFile(file, 'utf8'), file);
}

/** Reads a configuration's text; `file` names it in messages. @throws ConfigurationError */
export function parseConfiguration(text: string, file: string): ConfigurationFile {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines });
  const place = (offset: number): { line: number; column: number } => {
    const { line, col } = lines.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col) };
  };
  if (document.errors.length > 0) {
    throw new ConfigurationError(
      file,
      document.errors.map(({ message, pos: [offset] }) => ({
        ...place(offset),
        message: message.split(' at line ')[0] ?? message,
      })),
    );
  }
  const refuse: ConfigurationFile['refuse'] = (errors) =>
    new ConfigurationError(
      file,
      errors
        .map(({ path, message }) => ({ offset: offsetOf(document, path), message }))
        .sort((one, other) => one.offset - other.offset)
        .map(({ offset, message }) => ({ ...place(offset), message })),
    );
  // An empty file is an empty configuration.
  const read = configurationSchema.safeParse(document.toJS() ?? {});
  if (!read.success) throw refuse(read.error.issues.flatMap(errorsOf));
  return { configuration: read.data, refuse };
}

function errorsOf(issue: z.core.$ZodIssue): { path: PropertyKey[]; message: string }[] {
  const at = issue.path.map(String).join('.');
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((key) => ({
      path: [...issue.path, key],
      message: `unknown setting ${key}${at === '' ? '' : ` in ${at}`}`,
    }));
  }
  return [{ path: issue.path, message: `${at === '' ? 'the file' : at}: ${issue.message}` }];
}

/** Where the part at a path stands; of a setting, where its name stands. */
function offsetOf(document: Document, path: readonly PropertyKey[]): number {
  for (let length = path.length; length > 0; length -= 1) {
    const parent: unknown = document.getIn(path.slice(0, length - 1), true);
    const contents = length === 1 ? document.contents : parent;
    const name = path[length - 1];
    const items = (contents as { items?: unknown[] } | null)?.items ?? [];
    for (const item of items) {
      const { key } = (item ?? {}) as { key?: { value?: unknown; range?: [number] } };
      if (key?.range && String(key.value) === String(name)) return key.range[0];
    }
    const node: unknown = document.getIn(path.slice(0, length), true);
    if (isNode(node) && node.range) return node.range[0];
  }
  return 0;
}
