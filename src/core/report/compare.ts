import type { Contract, Reach, Variable } from '../contract/contract.js';
import { type Finding, type RawFinding, type Summary, settle, summarize } from '../findings/finding.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal, sameSecret } from '../secret.js';
import { REPORT_VERSION } from './report.js';

/** `only-first`: the second stage has no value. */
export type Relation = 'same' | 'different' | 'only-first' | 'only-second' | 'neither';

export interface ComparedRow {
  name: string;
  reach: Reach;
  relation: Relation;
  /** The values of public variables; others are compared, never shown. */
  first?: string;
  second?: string;
}

/** The result of `adder compare`. */
export interface CompareReport {
  report: typeof REPORT_VERSION;
  command: 'compare';
  stages: [first: string, second: string];
  compared: ComparedRow[];
  findings: Finding[];
  summary: Summary;
}

/** Two stages side by side. @param together what the contract's rules say about the two */
export function compareReport(
  contract: Contract,
  first: Resolution,
  second: Resolution,
  together: readonly RawFinding[],
): CompareReport {
  const findings = settle(together, contract.levels);
  return {
    report: REPORT_VERSION,
    command: 'compare',
    stages: [first.stage.name, second.stage.name],
    compared: [...contract.variables.values()].map((variable) => compareOne(variable, first, second)),
    findings,
    summary: summarize(findings),
  };
}

function compareOne({ name, reach }: Variable, first: Resolution, second: Resolution): ComparedRow {
  const [a, b] = [first.values.get(name), second.values.get(name)];
  const shown = (value: ResolvedValue | undefined) =>
    reach === 'public' && value?.value ? reveal(value.value) : undefined;
  const [one, other] = [shown(a), shown(b)];
  return {
    name,
    reach,
    relation: relationOf(a, b),
    ...(one !== undefined && { first: one }),
    ...(other !== undefined && { second: other }),
  };
}

function relationOf(a: ResolvedValue | undefined, b: ResolvedValue | undefined): Relation {
  if (a?.value && b?.value) return sameSecret(a.value, b.value) ? 'same' : 'different';
  if (a?.value) return 'only-first';
  return b?.value ? 'only-second' : 'neither';
}
