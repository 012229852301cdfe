import picomatch from 'picomatch';
import type { Acceptance, Contract } from '../contract/contract.js';
import { type Finding, type RawFinding, type Summary, settle, summarize } from './finding.js';

/** The groups of codes of which a command looks for everything: only of these can it say that an acceptance is not used. */
export type CodeGroups = readonly string[];

export interface Judgement {
  findings: Finding[];
  summary: Summary;
}

/**
 * Findings as the team sees them: levels as the contract sets them, and without those that it accepts, which are counted.
 * @param today as 2026-11-24, UTC
 */
export function judge(raw: readonly RawFinding[], contract: Contract, today: string, groups: CodeGroups): Judgement {
  const settled = settle(raw, contract.levels);
  const valid = contract.accept
    .filter(({ until }) => until >= today)
    .map((acceptance) => ({ acceptance, matches: matcherOf(acceptance) }));
  const used = new Set<Acceptance>();
  const left = settled.filter((finding) => {
    const found = valid.find(({ matches }) => matches(finding));
    if (found) used.add(found.acceptance);
    return found === undefined;
  });
  const inSight = contract.accept.filter(({ finding }) => groups.some((group) => finding.startsWith(group)));
  const about = inSight.flatMap((acceptance) => aboutAcceptance(acceptance, used, today, contract));
  const findings = about.length === 0 ? left : settle([...left, ...about], contract.levels);
  return { findings, summary: { ...summarize(findings), accepted: settled.length - left.length } };
}

function matcherOf({ finding: code, variable, fingerprint, where }: Acceptance): (finding: Finding) => boolean {
  const isThere = where === undefined ? () => true : picomatch(where, { dot: true });
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
  contract: Contract,
): RawFinding[] {
  const { finding, where, until, at } = acceptance;
  const place = { path: contract.path, inside: [], ...at };
  const what = `the acceptance of ${finding}${where ? ` in ${where}` : ''}`;
  if (until < today) {
    return [
      {
        code: 'contract/expired-acceptance',
        message: `${what} ended on ${until}`,
        remedy: 'mend what it was about, or decide again and write a later day',
        place,
      },
    ];
  }
  if (used.has(acceptance)) return [];
  return [
    {
      code: 'contract/unused-acceptance',
      message: `${what} is for nothing that was found`,
      remedy: 'take it out, so that it does not hide the next one',
      place,
    },
  ];
}
