/** How long a browser may use an answer without asking again. */
export interface Lifetime {
  seconds: number;
  /** The header that says so, as `name: value`. */
  header: string;
}

/**
 * The freshness lifetime of an answer in a browser (RFC 9111, 4.2.1). Undefined if it must ask each time, or if no header says anything:
 * browsers then choose a short time by themselves.
 */
export function lifetimeOf(headers: Readonly<Record<string, string>>): Lifetime | undefined {
  const control = headers['cache-control'];
  if (control !== undefined) {
    if (/\bno-(cache|store)\b/i.test(control)) return undefined;
    const age = /\bmax-age\s*=\s*"?(\d+)/i.exec(control)?.[1];
    if (age !== undefined) return { seconds: Number(age), header: shown('cache-control', control) };
    if (/\bimmutable\b/i.test(control)) return { seconds: YEAR, header: shown('cache-control', control) };
  }
  const expires = headers.expires;
  const date = Date.parse(headers.date ?? '');
  const until = Date.parse(expires ?? '');
  if (expires === undefined || Number.isNaN(until) || Number.isNaN(date)) return undefined;
  return { seconds: Math.max(0, (until - date) / 1000), header: shown('expires', expires) };
}

/** A cache in front of a site. */
export interface CacheState {
  answered: boolean;
  /** The header that says so, as `name: value`. */
  header: string;
}

/**
 * Tells whether a cache between server and client gave an answer: by its age (RFC 9111, 5.1), or the header of a cache. Undefined if no
 * header says anything.
 */
export function cacheStateOf(headers: Readonly<Record<string, string>>): CacheState | undefined {
  const age = Number(headers.age ?? '0');
  if (age > 0) return { answered: true, header: `age: ${age}` };
  for (const name of ['x-cache', 'cf-cache-status', 'x-cache-status', 'cache-status']) {
    const value = headers[name];
    if (value === undefined) continue;
    if (/\b(hit|stale|updating|revalidated)\b/i.test(value)) return { answered: true, header: shown(name, value) };
    if (/\b(miss|expired|bypass|dynamic|fwd)\b/i.test(value)) return { answered: false, header: shown(name, value) };
  }
  return undefined;
}

const YEAR = 365 * 24 * 3600;
const MOST_SHOWN = 120;

function shown(name: string, value: string): string {
  return `${name}: ${value.slice(0, MOST_SHOWN)}`;
}

/** `10 minutes`, `30 days`. */
export function durationText(seconds: number): string {
  const units: readonly [number, string][] = [
    [24 * 3600, 'day'],
    [3600, 'hour'],
    [60, 'minute'],
  ];
  const [size, word] = units.find(([one]) => seconds >= one) ?? [1, 'second'];
  const number = Math.round(seconds / size);
  return `${number} ${word}${number === 1 ? '' : 's'}`;
}

/** Tells whether a file's name changes with its content: it contains a digest, or is one. @param path of a URL */
export function hasDigest(path: string): boolean {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const [stem = '', ...parts] = name.split(/[.~]|(?<=[A-Za-z0-9_])-(?=[A-Za-z0-9_-]{8,}(?:\.|$))/);
  const isDigest = (part: string) =>
    /^[A-Za-z0-9_-]{8,}$/.test(part) && (/\d/.test(part) || /[a-z][A-Z]|[A-Z][a-z]+[A-Z]/.test(part));
  // Some tools name files by nothing else.
  const isBare =
    /^[a-z0-9_-]{10,}$/i.test(stem) && (stem.match(/\d/g) ?? []).length >= 2 && !/[aeiou]{2}|[a-z]{7}/i.test(stem);
  return parts.some(isDigest) || isBare;
}
