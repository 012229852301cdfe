import { globMatcher } from '../files/glob.js';
import { sha256 } from '../text/hash.js';
import type { Acceptance } from './acceptance.js';
import { codes, compareLevels, type Level } from './codes.js';
import { finding as findingOf, type JudgedFinding, type RawFinding, type Summary } from './finding.js';
import type { Reach } from './reach.js';

/** The level that a contract gives a code. */
export type Levels = Readonly<Record<string, Level>>;

/** Rules of a contract about findings. */
export interface Rules {
  /** The contract's path, where acceptances are. */
  path: string;
  levels: Levels;
  accept: readonly Acceptance[];
  /** The reach of a declared variable. */
  reachOf(variable: string): Reach | undefined;
}

/** For findings without a contract, such as those about the contract itself. */
export const noRules: Rules = { path: '', levels: {}, accept: [], reachOf: () => undefined };

/** Groups of codes that were checked completely: only for these can an acceptance be unused. */
export type CodeGroups = readonly string[];

/** An accepted finding without its words. */
export type AcceptedRaw = JudgedFinding & { because: string; until: string };

export interface Judged {
  findings: JudgedFinding[];
  summary: Summary;
  /** If there are some. */
  accepted?: AcceptedRaw[];
}

/**
 * Turns what rules returned into a report's findings: sorted by place, with level, reach and fingerprint. Accepted findings
 * are counted and listed apart; expired and unused acceptances become findings. Every report calls this exactly once.
 * @param today as 2026-11-24, UTC
 * @param gaps acceptances of unread files that were used
 */
export function judge(
  raw: readonly RawFinding[],
  rules: Rules,
  today: string,
  groups: CodeGroups,
  gaps: readonly Acceptance[] = [],
): Judged {
  const settled = settle(raw, rules);
  const valid = rules.accept
    .filter(({ until }) => until >= today)
    .map((acceptance) => ({ acceptance, matches: matcherOf(acceptance) }));
  const used = new Set(gaps);
  const accepted: AcceptedRaw[] = [];
  const left = settled.filter((finding) => {
    const found = valid.find(({ matches }) => matches(finding));
    if (!found) return true;
    const { because, until } = found.acceptance;
    used.add(found.acceptance);
    accepted.push({ ...finding, because, until });
    return false;
  });
  // Unread files are those of an inspection, which searches for leaks.
  const isChecked = ({ finding = 'leak/' }: Acceptance) => groups.some((group) => finding.startsWith(group));
  const about = rules.accept.flatMap((acceptance) => {
    // If only a part of the project was checked, an acceptance matters only if it would apply.
    const isAbout = isChecked(acceptance) || (acceptance.until < today && left.some(matcherOf(acceptance)));
    return isAbout ? aboutAcceptance(acceptance, used, today, rules.path) : [];
  });
  const findings = about.length === 0 ? left : settle([...left, ...about], rules);
  const summary = { ...summarize(findings), accepted: accepted.length };
  return { findings, summary, ...(accepted.length > 0 && { accepted }) };
}

export function summarize(findings: readonly Pick<JudgedFinding, 'level'>[]): Summary {
  const summary: Summary = { error: 0, warning: 0, note: 0, accepted: 0 };
  for (const { level } of findings) summary[level]++;
  return summary;
}

function settle(raw: readonly RawFinding[], { levels, reachOf }: Rules): JudgedFinding[] {
  return [...raw].sort(byPlace).map((finding) => {
    const level = levels[finding.code] ?? finding.level ?? codes[finding.code].level;
    const reach = finding.variable === undefined ? undefined : reachOf(finding.variable);
    return { ...finding, ...(reach && { reach }), level, fingerprint: fingerprintOf(finding) };
  });
}

function matcherOf({ finding: code, variable, fingerprint, where }: Acceptance): (finding: JudgedFinding) => boolean {
  const isThere = where === undefined ? () => true : globMatcher(where);
  return (finding) =>
    finding.code === code &&
    (variable === undefined || finding.variable === variable) &&
    (fingerprint === undefined || finding.fingerprint === fingerprint) &&
    isThere(finding.place?.path ?? '');
}

function aboutAcceptance(
  acceptance: Acceptance,
  used: ReadonlySet<Acceptance>,
  today: string,
  path: string,
): RawFinding[] {
  const { unread, finding: code = 'unread', where = unread, until, at } = acceptance;
  const place = { path, inside: [], ...at };
  const about = { code, ...(where !== undefined && { where }) };
  if (until < today) return [findingOf('contract/expired-acceptance', 'expired', { ...about, until }, { place })];
  return used.has(acceptance) ? [] : [findingOf('contract/unused-acceptance', 'unused', about, { place })];
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
 * Identifies a finding over time by the code, the variant and the facts that the table of codes names. A content
 * hash in a file name (`index-4fd1c2ab.js`) counts as any other, so that the next build's finding is recognised.
 */
function fingerprintOf(finding: RawFinding): string {
  const { code, variant, facts, variable, stage, bundle, encoding, place } = finding;
  const file = place && [withoutHash(place.path), ...place.inside];
  const known: Readonly<Record<string, unknown>> = { ...facts, variable, stage, bundle, encoding, place: file };
  const identity = codes[code].identity.map((name) => known[name] ?? null);
  return sha256(JSON.stringify([code, variant, ...identity])).slice(0, 32);
}

function withoutHash(path: string): string {
  return path.replace(/([-.])(?=[\w-]*\d)[\w-]{6,}(?=\.)/g, '$1*');
}
