import type { Doubt } from '../findings/check.js';
import { someWords } from '../text/nearest.js';
import type { Facts } from './facts.js';

/** Longer lists of names say no more. */
const MOST_NAMES = 5;

/** Build and server variables without a value here: whether they leaked is unknown. */
export function unknownSecrets({ withoutValue: names }: Facts): Doubt[] {
  if (names.length === 0) return [];
  const [has, them] = names.length === 1 ? ['has', 'it'] : ['have', 'them'];
  return [
    {
      question: 'nothingLeaked',
      because: `${someWords(names, MOST_NAMES)} ${has} no value here, so inspect cannot search for ${them}`,
      remedy: `set ${them} in this environment, pass --allow-incomplete, or write \`search: never\` if no build can have ${them}`,
      isWithoutValue: true,
    },
  ];
}

/** The contract requires the history, and it does not help here. */
export function requiredHistory({ withoutHistory: because }: Facts): Doubt[] {
  if (because === undefined) return [];
  const remedy = 'set ADDER_KEY to the key of the project, which `adder key --print` shows where it is';
  return [{ question: 'nothingLeaked', because: `${because}, and the contract says \`history: required\``, remedy }];
}
