import type { Contract } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { rulesOf } from '../contract/rules.js';
import type { CheckResult } from '../findings/check.js';
import { judge } from '../findings/judge.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import type { AllValuesReport, ValueRow, ValuesReport } from './documents.js';
import { REPORT_VERSION } from './version.js';

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

/** A stage's values as a report. This is where values leave their wrapper, and by which rule. */
export function valuesReport(
  contract: Contract,
  resolution: Resolution,
  { findings, groups }: CheckResult,
  { today, bundle, only = [], revealed = [] }: ValuesOptions,
): ValuesReport {
  const isAsked = (name: string | undefined) => only.length === 0 || (name !== undefined && only.includes(name));
  const values = [...resolution.values.values()].filter(({ variable }) => isAsked(variable.name));
  const raw = findings.filter((finding) => isAsked(finding.variable));
  return {
    report: REPORT_VERSION,
    kind: 'values',
    command: 'values',
    stage: resolution.stage.name,
    ...(bundle !== undefined && { bundle }),
    layers: resolution.layers.map(({ name, state }) => ({ name, state })),
    values: values.map((value) => row(contract, value, revealed)),
    ...judge(raw, rulesOf(contract), today, only.length === 0 ? groups : []),
  };
}

/** All stages as one report. */
export function allValuesReport(
  contract: Contract,
  resolutions: readonly Resolution[],
  { findings, groups }: CheckResult,
  { today, revealed = [] }: ValuesOptions,
): AllValuesReport {
  const stages = resolutions.map(({ stage, values }) => ({
    stage: stage.name,
    values: [...values.values()].map((value) => row(contract, value, revealed)),
  }));
  return {
    report: REPORT_VERSION,
    kind: 'all-values',
    command: 'values',
    stages,
    ...judge(findings, rulesOf(contract), today, groups),
  };
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
