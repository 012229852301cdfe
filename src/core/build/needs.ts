import { type Contract, isRequired, type Variable } from '../contract/contract.js';
import { belongsTo, nameIn, settableNames } from '../contract/names.js';
import { scopesOf } from '../contract/scopes.js';
import type { Resolution } from '../resolve/resolve.js';
import { oneLine } from '../text/display.js';

/** A value that a stage needs from outside its files. */
export interface Need {
  /** The name to set: a server's code may read it under another name than the contract's. */
  name: string;
  variable: string;
  /** Who provides it: the pipeline, to the build; the host, to the running server. */
  by: 'pipeline' | 'host';
  reach: Variable['reach'];
  form: string;
  required: boolean;
  about?: string;
}

/**
 * The values that a pipeline provides (public and build values that no file of the repository has) and those that a host
 * provides, required or not.
 * @param isShared whether a clone of the repository has a file: `adder with` finds no others in a pipeline
 */
export function needsOf(
  contract: Contract,
  { stage, values, layers }: Resolution,
  isShared: (path: string) => boolean,
): Need[] {
  const shared = layers.filter(({ name, path }) => name !== 'process' && (path === undefined || isShared(path)));
  const scope = scopesOf(contract).find(({ bundle }) => bundle !== undefined && bundle.name === stage.bundle);
  return [...values.values()].flatMap(({ variable }): Need[] => {
    if (scope && !scope.shows(variable)) return [];
    const { name, reach, form, about } = variable;
    const names = settableNames(contract, variable);
    const atHost = hostNames(contract, variable);
    const inFiles = shared.some(({ offers }) => offers.some((offer) => names.includes(offer.name)));
    // A server that reads its own environment does not know the contract's default.
    const isGiven = variable.default !== undefined || inFiles;
    if (atHost.length === 0 && isGiven) return [];
    const required = isRequired(variable, stage.name) && variable.default === undefined;
    const facts = { variable: name, reach, form: form.name, required, ...(about && { about: oneLine(about) }) };
    if (atHost.length === 0) return [{ name, by: 'pipeline', ...facts }];
    return atHost.map((one) => ({ name: one, by: 'host', ...facts }));
  });
}

/** The names under which servers read a variable; none if no server needs it. */
function hostNames({ bundles }: Contract, variable: Variable): string[] {
  if (variable.reach !== 'server' && variable.delivery !== 'runtime') return [];
  const servers = [...bundles.values()].filter((bundle) => bundle.runs === 'server' && belongsTo(bundle, variable));
  const names = servers.map((bundle) => nameIn(bundle, variable));
  return names.length === 0 && variable.reach === 'server' ? [variable.name] : [...new Set(names)];
}
