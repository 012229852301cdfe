import { type Document, type DocumentOptions, type ParseOptions, parse, parseDocument, type SchemaOptions } from 'yaml';

/** The library writes its warnings to the process's standard error, with text of the file, which may be a secret. */
const quiet = { prettyErrors: false, logLevel: 'error' } as const;

/** Parses a YAML text, with the place of each node. The document has the errors and warnings. */
export function yamlDocument(text: string, options: ParseOptions & DocumentOptions & SchemaOptions = {}): Document {
  return parseDocument(text, { ...options, ...quiet });
}

/** Parses a YAML text: null if it is empty, undefined if it is not valid YAML. */
export function yamlIn(text: string): unknown {
  try {
    return parse(text, quiet);
  } catch {
    return undefined;
  }
}
