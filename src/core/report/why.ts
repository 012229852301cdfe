import type { Contract, Reach } from '../contract/contract.js';
import { namesOf } from '../contract/names.js';
import { type Finding, type Summary, settle, summarize } from '../findings/finding.js';
import type { Source } from '../resolve/layers.js';
import type { Resolution } from '../resolve/resolve.js';
import type { ValueState } from '../resolve/value-state.js';
import { reveal } from '../secret.js';
import { REPORT_VERSION } from './report.js';

export interface WhyStage {
  stage: string;
  state: ValueState | 'undeclared';
  /** For public variables. */
  value?: string;
  from?: Source;
  /** What offered the name too, and lost, in the order of the layers. */
  overrides: Source[];
  /** The names whose values were taken in by references. */
  tookIn: string[];
  /** Layers of the stage that do not offer the name. */
  without: string[];
}

export interface CodePlace {
  path: string;
  line: number;
  column: number;
}

export interface WhyBundle {
  bundle: string;
  /** The name that its code reads. */
  name: string;
  code: CodePlace[];
  /** The last build, and where its files held the value. */
  built?: { stage: string; at: string; places: { path: string; offset: number; length: number }[]; modules: string[] };
}

/** The result of `adder why`: one variable in all stages and bundles. */
export interface WhyReport {
  report: typeof REPORT_VERSION;
  command: 'why';
  variable: {
    name: string;
    reach: Reach;
    declared: boolean;
    form?: string;
    about?: string;
    at?: { path: string; line: number };
  };
  stages: WhyStage[];
  bundles: WhyBundle[];
  findings: Finding[];
  summary: Summary;
}

/** A bundle as the outside world knows it: where its code names the variable, and what its last build held. */
export type BundleFacts = (bundle: string) => Pick<WhyBundle, 'code' | 'built'>;

/** Everything about one name, which a layer offers or the contract declares. */
export function whyReport(
  contract: Contract,
  name: string,
  resolutions: readonly Resolution[],
  facts: BundleFacts,
): WhyReport {
  const variable = contract.variables.get(name);
  const findings = settle(
    resolutions.flatMap((one) => one.findings.filter((finding) => finding.variable === name)),
    contract.levels,
  );
  const about = variable && {
    form: variable.form.name,
    ...(variable.about && { about: variable.about }),
    at: { path: contract.path, line: variable.at.line },
  };
  const names = variable ? namesOf(contract, variable) : {};
  return {
    report: REPORT_VERSION,
    command: 'why',
    variable: { name, reach: variable?.reach ?? 'server', declared: variable !== undefined, ...about },
    stages: resolutions.flatMap((resolution) => stageOf([name, ...(variable?.aka ?? [])], resolution)),
    bundles: Object.entries(names).map(([bundle, readAs]) => ({ bundle, name: readAs, ...facts(bundle) })),
    findings,
    summary: summarize(findings),
  };
}

/** @param names the name, and the older ones that layers may use for it */
function stageOf(names: readonly string[], { stage, values, undeclared, layers }: Resolution): WhyStage[] {
  const [name = ''] = names;
  const without = layers
    .filter(({ offers }) => !offers.some((offer) => names.includes(offer.name)))
    .map((layer) => layer.name);
  const stray = undeclared.find((one) => one.name === name);
  if (stray) return [{ stage: stage.name, state: 'undeclared', from: stray.from, overrides: [], tookIn: [], without }];
  const held = values.get(name);
  if (!held) return [];
  const { variable, state, value, from, overrides, tookIn } = held;
  const shown = value && variable.reach === 'public' ? { value: reveal(value) } : {};
  return [{ stage: stage.name, state, ...shown, ...(from && { from }), overrides, tookIn, without }];
}
