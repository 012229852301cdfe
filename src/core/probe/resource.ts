/** Purpose of a file of a site. */
export const resourceKinds = [
  'page',
  'script',
  'style',
  'font',
  'image',
  'map',
  'manifest',
  'worker',
  'data',
  'answer',
] as const;
export type ResourceKind = (typeof resourceKinds)[number];

/** A reference from one file of a site to another. */
export interface Link {
  /** Absolute, without a fragment. */
  url: string;
  kind: ResourceKind;
  /** True if the browser checks the origin: modules, fonts, and what has `crossorigin` or `integrity`. */
  isCors: boolean;
  /** Found by a name in a script or by habit: it may not exist. */
  isGuess: boolean;
}

/** A file of a site that was asked for. Its content is not kept. */
export interface Resource extends Link {
  /** The file that refers to it; absent for the first page. */
  from?: string;
  status: number;
  /** By their names in lower case. */
  headers: Readonly<Record<string, string>>;
  bytes: number;
  /** SHA-256 in hexadecimal. */
  sha256: string;
}

/** The media type of an answer, without parameters. */
export function typeOf({ headers }: Pick<Resource, 'headers'>): string {
  return (headers['content-type'] ?? '').split(';')[0]?.trim().toLowerCase() ?? '';
}

/** Tells whether a site has a resource: an answer with its content. */
export function isThere({ status }: Pick<Resource, 'status'>): boolean {
  return status >= 200 && status < 300;
}

/** Statuses of a server or proxy that is too busy to say whether there is such a file (RFC 9110, RFC 6585). */
export function isUnanswered(status: number): boolean {
  return [408, 425, 429, 502, 503, 504].includes(status);
}

/** Tells whether an answer is a page, whatever was asked for: servers of single-page apps answer any path with theirs. */
export function isPage(resource: Pick<Resource, 'headers'>): boolean {
  return typeOf(resource) === 'text/html';
}

/** Tells whether the status reports an error (4xx or 5xx). */
export function isError({ status }: Pick<Resource, 'status'>): boolean {
  return status >= 400;
}
