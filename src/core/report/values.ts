import type { Contract } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { settle, summarize } from '../findings/finding.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal } from '../secret.js';
import { REPORT_VERSION, type ValueRow, type ValuesReport } from './report.js';

export interface ValuesOptions {
  /** Only these variables; all where it is empty. */
  only?: readonly string[];
  /** Build and server variables whose value the person asked to see. */
  revealed?: readonly string[];
}

/** A stage's resolution as a report. This is where values leave their wrapper, and by which rule. */
export function valuesReport(
  contract: Contract,
  resolution: Resolution,
  { only = [], revealed = [] }: ValuesOptions = {},
): ValuesReport {
  const wanted = (name: string | undefined) => only.length === 0 || (name !== undefined && only.includes(name));
  const values = [...resolution.values.values()].filter(({ variable }) => wanted(variable.name));
  const findings = settle(
    resolution.findings.filter(({ variable }) => wanted(variable)),
    contract.levels,
  );
  return {
    report: REPORT_VERSION,
    command: 'values',
    stage: resolution.stage.name,
    values: values.map((value) => row(contract, value, revealed)),
    findings,
    summary: summarize(findings),
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
