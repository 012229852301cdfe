import type { Contract } from '../contract/contract.js';
import { rulesOf } from '../contract/rules.js';
import { judge } from '../findings/judge.js';
import type { Resolution } from '../resolve/resolve.js';

/**
 * Public variables that may be secrets, by name or value, and that nobody has accepted: their values stay masked.
 * @param today as 2026-11-24, for acceptances
 */
export function undecidedNames(
  contract: Contract,
  today: string,
  resolutions: readonly Resolution[],
): ReadonlySet<string> {
  const risky = resolutions.flatMap(({ findings }) => findings.filter(({ code }) => code === 'contract/risky-public'));
  const { findings } = judge(risky, rulesOf(contract), today, []);
  return new Set(findings.flatMap(({ variable }) => variable ?? []));
}
