/** A path of an API that is asked as well. */
export interface AlsoRequest {
  method: string;
  path: string;
  /** The file with the body. */
  bodyFile?: string;
}

/** Parses `[METHOD] PATH [@FILE]`; undefined if it is not of that form. */
export function parseAlso(text: string): AlsoRequest | undefined {
  const match = /^\s*(?:(GET|HEAD|POST|PUT|PATCH|DELETE|OPTIONS)\s+)?(\/\S*|https?:\/\/\S+)(?:\s+@(\S+))?\s*$/i.exec(
    text,
  );
  if (!match) return undefined;
  const [, method, path = '', bodyFile] = match;
  const usual = bodyFile === undefined ? 'GET' : 'POST';
  return { method: (method ?? usual).toUpperCase(), path, ...(bodyFile !== undefined && { bodyFile }) };
}

/** A header as `Name: value`, where `{NAME}` stands for a variable. */
export function parseHeader(text: string): [name: string, template: string] | undefined {
  const match = /^\s*([A-Za-z0-9-]+)\s*:\s*(.+?)\s*$/.exec(text);
  return match ? [match[1] as string, match[2] as string] : undefined;
}
