import type { Contract } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import type { RawFinding } from '../findings/finding.js';
import { judge } from '../findings/judge.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal } from '../secret.js';
import { type AllValuesReport, REPORT_VERSION, type ValueRow, type ValuesReport } from './report.js';

/** What the commands about values look for. */
const VALUE_GROUPS = ['value/', 'file/', 'contract/', 'repo/misnamed'];

export interface ValuesOptions {
  /** As 2026-11-24, for acceptances. */
  today: string;
  /** Only these variables; all where it is empty. */
  only?: readonly string[];
  /** Build and server variables whose value the person asked to see. */
  revealed?: readonly string[];
}

/** A stage's resolution as a report. This is where values leave their wrapper, and by which rule. */
export function valuesReport(
  contract: Contract,
  resolution: Resolution,
  { today, only = [], revealed = [] }: ValuesOptions,
): ValuesReport {
  const wanted = (name: string | undefined) => only.length === 0 || (name !== undefined && only.includes(name));
  const values = [...resolution.values.values()].filter(({ variable }) => wanted(variable.name));
  const raw = resolution.findings.filter((finding) => wanted(finding.variable) && !concernsOtherReaders(finding));
  const { findings, summary } = judge(raw, contract, today, only.length === 0 ? VALUE_GROUPS : []);
  return {
    report: REPORT_VERSION,
    command: 'values',
    stage: resolution.stage.name,
    values: values.map((value) => row(contract, value, revealed)),
    findings,
    summary,
  };
}

/** All stages as one report. What is said of several stages with the same words is said once, of none in particular. */
export function allValuesReport(
  contract: Contract,
  resolutions: readonly Resolution[],
  together: readonly RawFinding[],
  { today, revealed = [] }: ValuesOptions,
): AllValuesReport {
  const raw = merged([...resolutions.flatMap((one) => one.findings), ...together]);
  const { findings, summary } = judge(raw, contract, today, VALUE_GROUPS);
  const stages = resolutions.map(({ stage, values }) => ({
    stage: stage.name,
    values: [...values.values()].map((value) => row(contract, value, revealed)),
  }));
  return { report: REPORT_VERSION, command: 'values', stages, findings, summary };
}

function merged(findings: readonly RawFinding[]): RawFinding[] {
  const known = new Map<string, RawFinding>();
  for (const finding of findings) {
    const { code, variable, place, message } = finding;
    const key = JSON.stringify([code, variable, place, message]);
    const earlier = known.get(key);
    if (!earlier) known.set(key, finding);
    else if (earlier.stage !== finding.stage) known.set(key, withoutStage(earlier));
  }
  return [...known.values()];
}

/** What plain readers would make of the files is told where everything is told: when all stages are checked. */
function concernsOtherReaders({ code, level }: RawFinding): boolean {
  return code === 'value/ambiguous' && level === 'note';
}

function withoutStage({ stage: _, ...finding }: RawFinding): RawFinding {
  return finding;
}

function row(
  contract: Contract,
  { variable, state, value, from, overrides }: ResolvedValue,
  revealed: readonly string[],
): ValueRow {
  const shown =
    value && (variable.reach === 'public' || revealed.includes(variable.name)) ? { value: reveal(value) } : {};
  const { name, reach, form } = variable;
  return {
    name,
    reach,
    form: form.name,
    state,
    ...shown,
    ...(from && { from }),
    overrides,
    names: namesOf(contract, variable),
  };
}
