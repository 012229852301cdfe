import type { AcceptedFinding, Finding, JudgedFinding, RawFinding, Summary } from '../findings/finding.js';
import { type AcceptedRaw, type CodeGroups, type Judged, judge, type Rules } from '../findings/judge.js';
import { describe } from '../words/describe.js';
import { remedyText } from '../words/remedy.js';

/** The fields of every report with findings. */
export interface WordedFindings {
  findings: Finding[];
  summary: Summary;
  accepted?: AcceptedFinding[];
}

/** A finding with what is said about it. */
export function worded<Of extends JudgedFinding>(finding: Of): Of & Pick<Finding, 'message' | 'remedy'> {
  const { message, remedy } = describe(finding);
  return { ...finding, message, remedy: remedyText(remedy) };
}

/** Judged findings with their words, for a report. */
export function withWords({ findings, summary, accepted }: Judged): WordedFindings {
  return {
    findings: findings.map((one) => worded(one)),
    summary,
    ...(accepted && { accepted: accepted.map((one: AcceptedRaw) => worded(one)) }),
  };
}

/** Judges findings for a report, and words them. @param today as 2026-11-24, UTC */
export function wordedFindings(
  raw: readonly RawFinding[],
  rules: Rules,
  today: string,
  groups: CodeGroups,
): WordedFindings {
  return withWords(judge(raw, rules, today, groups));
}
