import { prefixOf } from '../../contract/names.js';
import { joinWords } from '../../text/nearest.js';
import type { Guess, Judged } from './guess.js';

/** Where there are several bundles and only some need a public value, the others do not get it. */
export function neededBy(evidence: Judged): Guess {
  const { name: variable, reach, bundles, uses, constants } = evidence;
  const ofPackages = byPackage(evidence);
  if (ofPackages) return ofPackages;
  const clients = bundles.filter(({ runs }) => runs !== 'server');
  if (reach !== 'public' || clients.length < 2) return {};
  const needing = clients.filter(
    ({ name, prefixes, folder }) =>
      prefixOf({ prefixes }, variable) !== undefined ||
      uses.some(({ bundle }) => bundle?.name === name) ||
      constants.some((path) => path.startsWith(folder)),
  );
  if (needing.length === 0 || needing.length === clients.length) return {};
  const names = needing.map(({ name }) => name);
  return { fields: { bundles: names }, reason: `bundles: only ${joinWords(names)} reads it` };
}

/** A name that only some packages' files set belongs to their bundles, and to those that read it. Undefined for any other. */
function byPackage({ reach, bundles, uses, present }: Judged): Guess | undefined {
  const owners = new Set(present.map(({ owner }) => owner));
  if (owners.size === 0 || owners.has('')) return undefined;
  const inPackages = bundles.filter(
    ({ name, folder, runs }) =>
      owners.has(folder) || (runs !== 'server' && uses.some(({ bundle }) => bundle?.name === name)),
  );
  const servers = inPackages.filter(({ runs }) => runs === 'server');
  const own = reach === 'server' && servers.length > 0 ? servers : inPackages;
  if (own.length === bundles.length) return {};
  return {
    fields: { bundles: own.map(({ name }) => name) },
    reason: `bundles: only ${joinWords([...owners])} ${owners.size === 1 ? 'sets' : 'set'} it`,
  };
}
