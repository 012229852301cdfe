import { groupBy } from '../../../text/group-by.js';
import type { FindingsReport, HistoryReport, TrialReport } from '../../documents.js';

export type PageReport = Pick<
  FindingsReport,
  'command' | 'stage' | 'findings' | 'summary' | 'coverage' | 'checked' | 'answers' | 'contents' | 'accepted'
> & {
  /** The table of a trial build. */
  trial?: TrialReport['rows'];
  history?: HistoryReport;
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
  /** File, as {@link fileOf} names it, or a directory. */
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

/** Tells whether a file is a path or below it. */
function isBelow(file: string, path: string): boolean {
  return path === '' || file === path || file.startsWith(`${path}/`);
}

export function filtered(findings: readonly PageFinding[], filter: Filter): PageFinding[] {
  const words = filter.text.toLowerCase().split(/\s+/).filter(Boolean);
  return findings.filter(
    (one) =>
      filter.levels.has(one.level) &&
      (filter.code === '' || one.code === filter.code) &&
      (filter.variable === '' || one.variable === filter.variable) &&
      (filter.stage === '' || one.stage === filter.stage) &&
      isBelow(fileOf(one), filter.file) &&
      words.every((word) => searchText(one).includes(word)),
  );
}

/** Findings of one level and code. */
export interface Cause {
  level: Level;
  code: string;
  findings: PageFinding[];
  /** By variable, the most frequent first; findings about no variable have an empty name. */
  groups: Group[];
}

/** Findings of one cause about one variable. */
export interface Group {
  /** Fragment of the page, for links. */
  id: string;
  variable: string;
  findings: PageFinding[];
  files: ReadonlySet<string>;
}

/** Findings by level and code, the gravest and most frequent first, and in each by variable. */
export function causesOf(findings: readonly PageFinding[]): Cause[] {
  const byCause = [...groupBy(findings, ({ level, code }) => `${level} ${code}`).values()];
  const causes = byCause.map((all): Cause => {
    const { level, code } = all[0] as PageFinding;
    const byVariable = [...groupBy(all, ({ variable = '' }) => variable).values()];
    const groups = byVariable.map((own): Group => {
      const { variable = '' } = own[0] as PageFinding;
      return { id: `${level}-${code}-${variable}`, variable, findings: own, files: new Set(own.map(fileOf)) };
    });
    return { level, code, findings: all, groups: groups.sort((a, b) => b.findings.length - a.findings.length) };
  });
  return causes.sort(
    (a, b) => levels.indexOf(a.level) - levels.indexOf(b.level) || b.findings.length - a.findings.length,
  );
}

/** Writes a filter as the fragment of a URL; empty if it filters nothing. */
export function fragmentOf(filter: Filter): string {
  const { levels: chosen, ...texts } = filter;
  const parts = new URLSearchParams(Object.entries(texts).filter(([, value]) => value !== ''));
  if (chosen.size < levels.length) parts.set('levels', [...chosen].join(','));
  return parts.toString();
}

/** Reads a filter from the fragment of a URL; undefined if the fragment is no filter. */
export function filterIn(fragment: string): Filter | undefined {
  const parts = new URLSearchParams(fragment.replace(/^#/, ''));
  const text = (name: string) => parts.get(name) ?? '';
  const named = ['code', 'variable', 'stage', 'file', 'text', 'levels'];
  if (!named.some((name) => parts.has(name))) return undefined;
  const chosen = parts.has('levels') ? levels.filter((level) => text('levels').split(',').includes(level)) : levels;
  return {
    levels: new Set(chosen),
    code: text('code'),
    variable: text('variable'),
    stage: text('stage'),
    file: text('file'),
    text: text('text'),
  };
}
