import type { Rules } from '../findings/judge.js';
import type { Contract } from './contract.js';

/** Rules of the contract about findings. */
export function rulesOf({ path, levels, accept, variables }: Contract): Rules {
  return { path, levels, accept, reachOf: (name) => variables.get(name)?.reach };
}
