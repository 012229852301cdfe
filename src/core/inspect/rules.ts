import type { Finding, Origin, Place, RawFinding } from '../findings/finding.js';
import { count } from '../text/display.js';
import type { ValueHit } from './hits.js';
import type { Owner } from './plan.js';

/** A value's occurrence with all that could be learnt about its place. */
export interface LocatedHit extends Pick<ValueHit, 'owner' | 'encoding'> {
  place: Place;
  origin?: Origin;
  excerpt?: Finding['excerpt'];
}

/** What occurrences of secrets and of other stages' values amount to. */
export function hitFindings(hits: readonly LocatedHit[], stage: string, bundle: string | undefined): RawFinding[] {
  return hits.flatMap((hit) => {
    const said =
      hit.owner.role === 'secret'
        ? leak(hit.owner)
        : hit.owner.role === 'foreign'
          ? foreign(hit.owner, stage)
          : undefined;
    if (!said) return [];
    const { owner, encoding, place, origin, excerpt } = hit;
    return [
      {
        ...said,
        variable: owner.variable,
        stage: owner.stage,
        ...(bundle && { bundle }),
        place,
        encoding: [...encoding],
        ...(origin && { origin }),
        ...(excerpt && { excerpt }),
      },
    ];
  });
}

/** The places beyond those that are told one by one. */
export function manyMoreFinding(
  owner: Owner,
  path: string,
  more: number,
  stage: string,
  bundle: string | undefined,
): RawFinding {
  const said = owner.role === 'foreign' ? foreign(owner, stage) : leak(owner);
  const message = `${said.message}, in ${count(more, 'more place')} of this file`;
  return {
    ...said,
    message,
    variable: owner.variable,
    stage: owner.stage,
    ...(bundle && { bundle }),
    place: { path, inside: [] },
  };
}

function leak({ variable, reach }: Owner): Pick<RawFinding, 'code' | 'message' | 'remedy'> {
  const forWhom = reach === 'build' ? 'for the build alone' : 'for the server alone';
  const remedy =
    reach === 'build'
      ? 'use it in the scripts of the build only; then change it, as it must be taken as known'
      : 'read it in a server route; then change it, as it must be taken as known';
  return { code: 'leak/known-value', message: `holds the value of ${variable}, which is ${forWhom}`, remedy };
}

function foreign({ variable, stage }: Owner, inspected: string): Pick<RawFinding, 'code' | 'message' | 'remedy'> {
  return {
    code: 'stage/foreign-value',
    message: `holds the value that ${variable} has in ${stage}, not the one of ${inspected}`,
    remedy: `build it for ${inspected}: adder with ${inspected} -- COMMAND`,
  };
}
