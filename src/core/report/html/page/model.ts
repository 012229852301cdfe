import type { FindingsReport, TrialReport } from '../../documents.js';

export type PageReport = Pick<
  FindingsReport,
  'command' | 'stage' | 'findings' | 'summary' | 'coverage' | 'checked' | 'answers' | 'contents' | 'accepted'
> & {
  /** The table of a trial build. */
  trial?: TrialReport['rows'];
  /** Findings of an earlier report that are gone, and those that are still there. */
  gone?: FindingsReport['findings'];
  same?: FindingsReport['findings'];
  /** Code to its meaning and help. */
  codes: Readonly<Record<string, { meaning: string; help: string }>>;
};
export type PageFinding = PageReport['findings'][number];
export type Level = PageFinding['level'];

export const levels: readonly Level[] = ['error', 'warning', 'note'];

/** Filters for findings; empty texts filter nothing. */
export interface Filter {
  levels: ReadonlySet<Level>;
  code: string;
  variable: string;
  stage: string;
  /** File, as {@link fileOf} names it. */
  file: string;
  text: string;
}

/** The artifact of a finding: the outermost file. */
export function fileOf({ place }: PageFinding): string {
  return place?.path ?? '';
}

/** `web/dist/a.zip » b.js:3:14` */
export function placeText(place: { path: string; inside: readonly string[]; line?: number; column?: number }): string {
  const position =
    place.line === undefined ? '' : `:${place.line}${place.column === undefined ? '' : `:${place.column}`}`;
  return [place.path, ...place.inside].join(' » ') + position;
}

const texts = new WeakMap<PageFinding, string>();

/** Searchable text of a finding, made once. */
function searchText(finding: PageFinding): string {
  let text = texts.get(finding);
  if (text === undefined) {
    const { code, variable = '', message, remedy, place, origin, fingerprint, bundle = '' } = finding;
    const parts = [code, variable, bundle, message, remedy, place && placeText(place), origin?.path, fingerprint];
    text = parts.filter(Boolean).join('\n').toLowerCase();
    texts.set(finding, text);
  }
  return text;
}

export function filtered(findings: readonly PageFinding[], filter: Filter): PageFinding[] {
  const words = filter.text.toLowerCase().split(/\s+/).filter(Boolean);
  return findings.filter(
    (one) =>
      filter.levels.has(one.level) &&
      (filter.code === '' || one.code === filter.code) &&
      (filter.variable === '' || one.variable === filter.variable) &&
      (filter.stage === '' || one.stage === filter.stage) &&
      (filter.file === '' || fileOf(one) === filter.file) &&
      words.every((word) => searchText(one).includes(word)),
  );
}

/** Findings by level and code, the gravest and most frequent first. */
export function causesOf(findings: readonly PageFinding[]): PageFinding[][] {
  const causes = new Map<string, PageFinding[]>();
  for (const finding of findings) {
    const key = `${finding.level} ${finding.code}`;
    const known = causes.get(key);
    if (known) known.push(finding);
    else causes.set(key, [finding]);
  }
  const rank = ([first]: PageFinding[]) => levels.indexOf(first?.level ?? 'note');
  return [...causes.values()].sort((a, b) => rank(a) - rank(b) || b.length - a.length);
}
