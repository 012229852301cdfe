import { builtins } from '../builtins.js';
import { type Code, codes, compareLevels, type Level } from './codes.js';

/** Where a finding stands: a file, or a piece of a file inside containers. Units as in {@link Position}. */
export interface Place {
  /** Relative to the contract's folder, with `/`; as it was given where it lies outside. */
  path: string;
  /** The chain of containers from the file inwards; empty for the file itself. */
  inside: string[];
  line?: number;
  column?: number;
  /** In bytes of the innermost member. */
  offset?: number;
  /** In bytes. */
  length?: number;
}

/** The line of source that wrote what was found, as a source map tells. */
export interface Origin {
  path: string;
  line: number;
  column: number;
}

/** One line to show, already masked. `column` (from 1) and `length` are UTF-16 units of `text`. */
export interface Excerpt {
  line: number;
  text: string;
  column: number;
  length: number;
}

/** One thing to say. No text in it may hold a value of reach build or server. */
export interface Finding {
  code: Code;
  level: Level;
  variable?: string;
  stage?: string;
  bundle?: string;
  place?: Place;
  /** From the outside inwards; `["plain"]` for a value as it stands. */
  encoding?: string[];
  origin?: Origin;
  message: string;
  remedy: string;
  fingerprint: string;
  /** For printers that show source; not part of the JSON. */
  excerpt?: Excerpt;
}

/** What rules return: the level and the fingerprint are settled when the report is made. */
export type RawFinding = Omit<Finding, 'fingerprint' | 'level'> & { level?: Level };

export interface Summary {
  error: number;
  warning: number;
  note: number;
  accepted: number;
}

/** Code to the level that the contract gives it. */
export type Levels = Readonly<Record<string, Level>>;

/** Sorts by place, sets levels (the contract's own `levels` win) and gives each finding its fingerprint. */
export function settle(raw: readonly RawFinding[], levels: Levels = {}): Finding[] {
  const seen = new Map<string, number>();
  return [...raw].sort(byPlace).map((finding) => {
    const key = identity(finding);
    const ordinal = seen.get(key) ?? 0;
    seen.set(key, ordinal + 1);
    const level = levels[finding.code] ?? finding.level ?? codes[finding.code].level;
    return { ...finding, level, fingerprint: digest(`${key}\n${ordinal}`) };
  });
}

export function summarize(findings: readonly Finding[]): Summary {
  const summary: Summary = { error: 0, warning: 0, note: 0, accepted: 0 };
  for (const { level } of findings) summary[level]++;
  return summary;
}

function byPlace(a: RawFinding, b: RawFinding): number {
  return (
    compareText(a.place?.path, b.place?.path) ||
    (a.place?.line ?? 0) - (b.place?.line ?? 0) ||
    (a.place?.column ?? 0) - (b.place?.column ?? 0) ||
    compareLevels(a.level ?? codes[a.code].level, b.level ?? codes[b.code].level) ||
    compareText(a.code, b.code) ||
    compareText(a.variable, b.variable)
  );
}

function compareText(a = '', b = ''): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/**
 * What makes two findings the same one over time. Neither lines nor columns count, and a content hash in a file name
 * (`index-4fd1c2ab.js`) counts as any other, so that the next build's finding is recognised.
 */
function identity(finding: RawFinding): string {
  const { code, variable, bundle, place, encoding, message } = finding;
  const what = variable ?? message.replace(/\d+/g, '#');
  const where = place ? [withoutHash(place.path), ...place.inside] : [];
  return JSON.stringify([code, what, bundle ?? '', where, encoding ?? []]);
}

function withoutHash(path: string): string {
  return path.replace(/([-.])(?=[\w-]*\d)[\w-]{6,}(?=\.)/g, '$1*');
}

function digest(text: string): string {
  return builtins.crypto.createHash('sha256').update(text).digest('hex').slice(0, 32);
}
