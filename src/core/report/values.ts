import type { Contract, Variable } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { rulesOf } from '../contract/rules.js';
import type { Scope } from '../contract/scopes.js';
import { changesWhere, type Since } from '../findings/change.js';
import type { CheckResult } from '../findings/check.js';
import type { Resolution, ResolvedValue } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import type { AllValuesReport, ValueRow, ValuesReport } from './documents.js';
import { undecidedNames } from './undecided.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** The values of a part of the project with layers of its own. */
export interface ValuesPart {
  scope: Scope;
  resolutions: readonly Resolution[];
}

export interface ValuesOptions {
  /** As 2026-11-24, for acceptances. */
  today: string;
  /** Whose names are shown. */
  bundle?: string | undefined;
  /** Only these variables; all where it is empty. */
  only?: readonly string[];
  /** Build and server variables whose value the person asked to see. */
  revealed?: readonly string[];
  /** Changes since the last builds. */
  since?: readonly Since[];
}

/** A stage's values as a report. This is where values leave their wrapper, and by which rule. */
export function valuesReport(
  contract: Contract,
  parts: readonly ValuesPart[],
  { findings, groups }: CheckResult,
  { today, bundle, only = [], revealed = [], since = [] }: ValuesOptions,
): ValuesReport {
  const isAsked = (name: string | undefined) => only.length === 0 || (name !== undefined && only.includes(name));
  const resolutions = parts.flatMap((part) => part.resolutions);
  const show = shownValues(contract, today, resolutions, revealed);
  const values = parts.flatMap((part) => rows(contract, part, part.resolutions, show));
  const changed = changesWhere(since, ({ variable }) => isAsked(variable));
  const raw = findings.filter((finding) => isAsked(finding.variable));
  return {
    report: REPORT_VERSION,
    kind: 'values',
    command: 'values',
    stage: resolutions[0]?.stage.name ?? '',
    ...(bundle !== undefined && { bundle }),
    layers: parts.flatMap(({ scope, resolutions: all }) =>
      all.flatMap(({ layers }) => layers.map(({ name, state }) => ({ name, state, ...ownerOf(scope) }))),
    ),
    values: values.filter(({ name }) => isAsked(name)),
    ...(changed.length > 0 && { since: changed }),
    ...wordedFindings(raw, rulesOf(contract), today, only.length === 0 ? groups : []),
  };
}

/** All stages as one report. */
export function allValuesReport(
  contract: Contract,
  parts: readonly ValuesPart[],
  { findings, groups }: CheckResult,
  { today, revealed = [] }: ValuesOptions,
): AllValuesReport {
  const names = [...contract.stages.keys()];
  const show = shownValues(
    contract,
    today,
    parts.flatMap((part) => part.resolutions),
    revealed,
  );
  const stages = names.map((stage) => ({
    stage,
    values: parts.flatMap((part) =>
      rows(
        contract,
        part,
        part.resolutions.filter((one) => one.stage.name === stage),
        show,
      ),
    ),
  }));
  return {
    report: REPORT_VERSION,
    kind: 'all-values',
    command: 'values',
    stages,
    ...wordedFindings(findings, rulesOf(contract), today, groups),
  };
}

/** Tells whether a variable's value is shown. */
type Shown = (variable: Variable) => boolean;

function shownValues(
  contract: Contract,
  today: string,
  resolutions: readonly Resolution[],
  revealed: readonly string[],
): Shown {
  const undecided = undecidedNames(contract, today, resolutions);
  return ({ name, reach }) => revealed.includes(name) || (reach === 'public' && !undecided.has(name));
}

function ownerOf({ bundle }: Scope): { bundle?: string } {
  return bundle ? { bundle: bundle.name } : {};
}

/** One row for each variable that the part gets, or has a value for. */
function rows(
  contract: Contract,
  { scope, resolutions: all }: ValuesPart,
  resolutions: readonly Resolution[],
  show: Shown,
): ValueRow[] {
  const isShown = ({ variable }: ResolvedValue) =>
    all.some(({ values }) => scope.shows(variable, values.get(variable.name)?.from?.layer));
  return resolutions.flatMap(({ values }) =>
    [...values.values()].filter(isShown).map((value) => ({ ...ownerOf(scope), ...row(contract, value, show) })),
  );
}

function row(contract: Contract, { variable, state, value, from, overrides }: ResolvedValue, show: Shown): ValueRow {
  const shown = value && show(variable) ? { value: reveal(value) } : {};
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
