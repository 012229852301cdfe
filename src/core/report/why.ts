import type { Contract } from '../contract/contract.js';
import { namesOf, settableNames } from '../contract/names.js';
import { rulesOf } from '../contract/rules.js';
import type { RawFinding } from '../findings/finding.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import type { WhyBundle, WhyReport, WhyStage } from './documents.js';
import { undecidedNames } from './undecided.js';
import type { ValuesPart } from './values.js';
import { REPORT_VERSION } from './version.js';
import { wordedFindings } from './worded.js';

/** A bundle as the outside world knows it: where its code names the variable, and what its last build held. */
export type BundleFacts = (bundle: string) => Pick<WhyBundle, 'code' | 'built'>;

/** Everything about one name, which a layer offers or the contract declares. */
export function whyReport(
  contract: Contract,
  name: string,
  check: { parts: readonly ValuesPart[]; findings: readonly RawFinding[] },
  facts: BundleFacts,
  today: string,
): WhyReport {
  const variable = contract.variables.get(name);
  const findings = check.findings.filter((finding) => finding.variable === name);
  const about = variable && {
    form: variable.form.name,
    ...(variable.about && { about: variable.about }),
    at: { path: contract.path, line: variable.at.line },
  };
  const names = variable ? namesOf(contract, variable) : {};
  const all = check.parts.flatMap(({ resolutions }) => resolutions);
  const isShown = variable?.reach === 'public' && !undecidedNames(contract, today, all).has(name);
  return {
    report: REPORT_VERSION,
    kind: 'why',
    command: 'why',
    variable: { name, reach: variable?.reach ?? 'server', declared: variable !== undefined, ...about },
    stages: check.parts.flatMap(({ scope, resolutions }) =>
      resolutions.flatMap((resolution) =>
        stageOf(variable ? settableNames(contract, variable) : [name], resolution, isShown)
          .filter(({ from }) => !variable || scope.shows(variable, from?.layer))
          .map(({ stage, ...rest }) => ({ stage, ...(scope.bundle && { bundle: scope.bundle.name }), ...rest })),
      ),
    ),
    bundles: Object.entries(names).map(([bundle, readAs]) => ({ bundle, name: readAs, ...facts(bundle) })),
    ...wordedFindings(findings, rulesOf(contract), today, []),
  };
}

/** @param names the name, and the older ones that layers may use for it */
function stageOf(
  names: readonly string[],
  { stage, values, undeclared, layers }: Resolution,
  isShown: boolean,
): WhyStage[] {
  const [name = ''] = names;
  const without = layers
    .filter(({ offers }) => !offers.some((offer) => names.includes(offer.name)))
    .map((layer) => layer.name);
  const stray = undeclared.find((one) => one.name === name);
  if (stray) return [{ stage: stage.name, state: 'undeclared', from: stray.from, overrides: [], tookIn: [], without }];
  const held = values.get(name);
  if (!held) return [];
  const { state, value, from, overrides, tookIn } = held;
  const shown = value && isShown ? { value: reveal(value) } : {};
  return [{ stage: stage.name, state, ...shown, ...(from && { from }), overrides, tookIn, without }];
}
