import type { Variable } from '../contract/contract.js';
import type { HostScope } from '../contract/hosts.js';
import { valueProblem } from '../resolve/value-rules.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { type HostComparison, type HostNeeds, type HostState, ownValue, wrongStates } from './compare.js';

/** One value to set on a host. */
export interface HostStep {
  name: string;
  /** True if the host has the name already. */
  replaces: boolean;
  scopes: HostScope[];
  value: Secret;
  variable: Variable;
  /** The value that the host has now, if it shows it. */
  old?: Secret;
  /** The host's own identifier, of a value that it has. */
  id?: string;
}

/** Steps of `--apply`, and the steps that it cannot do. */
export interface HostPlan {
  steps: HostStep[];
  /** Names that need a value that this machine does not have, or that is invalid. */
  without: { name: string; because: string }[];
}

/** States of a name that the host does not have. */
const unset: ReadonlySet<HostState> = new Set(['missing', 'misspelt', 'absent']);

/** @param named names that the user gave: they are set even if the host hides its value */
export function planFor(
  asked: HostNeeds,
  { rows, ids, wrong }: Pick<HostComparison, 'rows' | 'ids' | 'wrong'>,
  named: readonly string[],
): HostPlan {
  const plan: HostPlan = { steps: [], without: [] };
  for (const { name, variable: of, scopes, state } of rows) {
    const variable = asked.contract.variables.get(of ?? '');
    const isNamed = named.includes(name) || (of !== undefined && named.includes(of));
    if (!variable || state === 'same' || (named.length > 0 ? !isNamed : !wrongStates.has(state))) continue;
    const value = ownValue(asked, variable);
    const problem = value && valueProblem(variable, reveal(value), asked.stage);
    if (!value) plan.without.push({ name, because: 'has no value here' });
    else if (problem !== undefined) plan.without.push({ name, because: problem });
    else {
      const gets: HostScope[] = scopes.length > 0 ? scopes : [variable.reach === 'server' ? 'server' : 'build'];
      const id = ids.get(name);
      const old = wrong.get(name);
      plan.steps.push({
        ...{ name, replaces: !unset.has(state), scopes: gets, value, variable },
        ...(old && { old }),
        ...(id !== undefined && { id }),
      });
    }
  }
  return plan;
}
