import type { Contract } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { rulesOf } from '../contract/rules.js';
import type { RawFinding } from '../findings/finding.js';
import { judge } from '../findings/judge.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import type { AllValuesReport, ValueRow, ValuesReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

/** What the commands about values look for. */
const VALUE_GROUPS = ['value/', 'file/', 'contract/', 'repo/misnamed'];

export interface ValuesOptions {
  /** As 2026-11-24, for acceptances. */
  today: string;
  /** Whose names are shown. */
  bundle?: string | undefined;
  /** Only these variables; all where it is empty. */
  only?: readonly string[];
  /** Build and server variables whose value the person asked to see. */
  revealed?: readonly string[];
}

/** A stage's resolution as a report. This is where values leave their wrapper, and by which rule. */
export function valuesReport(
  contract: Contract,
  resolution: Resolution,
  { today, bundle, only = [], revealed = [] }: ValuesOptions,
): ValuesReport {
  const isAsked = (name: string | undefined) => only.length === 0 || (name !== undefined && only.includes(name));
  const values = [...resolution.values.values()].filter(({ variable }) => isAsked(variable.name));
  const raw = resolution.findings.filter((finding) => isAsked(finding.variable) && !concernsOtherReaders(finding));
  return {
    report: REPORT_VERSION,
    kind: 'values',
    command: 'values',
    stage: resolution.stage.name,
    ...(bundle !== undefined && { bundle }),
    layers: resolution.layers.map(({ name, state }) => ({ name, state })),
    values: values.map((value) => row(contract, value, revealed)),
    ...judge(raw, rulesOf(contract), today, only.length === 0 ? VALUE_GROUPS : []),
  };
}

/** All stages as one report. A finding with the same words in several stages is reported once, without a stage. */
export function allValuesReport(
  contract: Contract,
  resolutions: readonly Resolution[],
  together: readonly RawFinding[],
  { today, revealed = [] }: ValuesOptions,
): AllValuesReport {
  const raw = merged([...resolutions.flatMap((one) => one.findings), ...together]);
  const stages = resolutions.map(({ stage, values }) => ({
    stage: stage.name,
    values: [...values.values()].map((value) => row(contract, value, revealed)),
  }));
  return {
    report: REPORT_VERSION,
    kind: 'all-values',
    command: 'values',
    stages,
    ...judge(raw, rulesOf(contract), today, VALUE_GROUPS),
  };
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

/** Notes about other programs that read env files are reported only when all stages are checked. */
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
