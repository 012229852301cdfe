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

/** The evidence of two builds, of which the second had no such names in its environment. */
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
