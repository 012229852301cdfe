import { variablesByName } from '../contract/names.js';
import type { TrialOf } from './conclude.js';
import type { Evidence } from './evidence.js';

/**
 * Names whose made-up value of the environment arrived, that `adder with` would not put there, and that a file sets too: the
 * environment may have hidden that the file's value arrives.
 */
export function hiddenNames({ evidence, given }: Pick<TrialOf, 'evidence' | 'given'>): Set<string> {
  const { arrivals, markers } = evidence;
  const names = arrivals.flatMap(({ marker: { name, setAt }, audience }) =>
    audience === 'browser' && setAt.path === undefined && !given.has(name) ? [name] : [],
  );
  return new Set(names.filter((one) => markers.some(({ name, setAt }) => name === one && setAt.path !== undefined)));
}

/**
 * Names whose value arrived from another file than that of the contract, although `adder with` puts the contract's into the
 * environment: a tool may let that win.
 */
export function disputedNames({
  evidence,
  given,
  contract,
  resolution,
}: Pick<TrialOf, 'evidence' | 'given' | 'contract' | 'resolution'>): Set<string> {
  const variables = variablesByName(contract);
  const names = evidence.arrivals.flatMap(({ marker: { name, setAt }, audience }) => {
    const from = resolution.values.get(variables.get(name)?.name ?? '')?.from;
    const isOther = setAt.path !== undefined && from !== undefined && from.path !== setAt.path;
    return audience === 'browser' && isOther && given.has(name) ? [name] : [];
  });
  return new Set(names);
}

/** Names of {@link disputedNames} for which the environment won in a build that had them there. */
export function overriddenNames({ arrivals }: Pick<Evidence, 'arrivals'>, disputed: ReadonlySet<string>): string[] {
  const own = arrivals.filter(({ marker, audience }) => audience === 'browser' && disputed.has(marker.name));
  const fromFiles = new Set(own.flatMap(({ marker: { name, setAt } }) => (setAt.path === undefined ? [] : [name])));
  return [...new Set(own.map(({ marker }) => marker.name))].filter((name) => !fromFiles.has(name));
}

/** Joins the evidence of two builds. The second had no such names in its environment. */
export function withUnhidden(widest: Evidence, second: Evidence, hidden: ReadonlySet<string>): Evidence {
  const arrivals = second.arrivals.filter(({ marker }) => hidden.has(marker.name));
  const fromFiles = new Set(arrivals.map(({ marker }) => marker.name));
  const isMarkedAgain = ({ name }: { name: string }) => fromFiles.has(name);
  return {
    ...widest,
    markers: [
      ...second.markers.filter(isMarkedAgain),
      ...widest.markers.filter((one) => !isMarkedAgain(one) || one.setAt.path === undefined),
    ],
    arrivals: [...widest.arrivals.filter(({ marker }) => !isMarkedAgain(marker)), ...arrivals],
  };
}
