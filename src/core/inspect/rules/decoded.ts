import type { RawFinding } from '../../findings/finding.js';
import { placeBetween } from '../../findings/place.js';
import type { Position } from '../../text/positions.js';
import type { ValueHit } from '../hits.js';
import type { Surroundings } from '../rule.js';
import { valueFinding } from './known-values.js';

/** The stretch of a content that was decoded, and the step that decodes it. */
export interface Decoded {
  start: Position;
  end: Position;
  step: string;
}

/**
 * Findings about values in decoded text, except those that an earlier rule found in the same stretch.
 * @param known tells which findings of the earlier rules say the same
 */
export function decodedFindings(
  hits: readonly ValueHit[],
  { start, end, step }: Decoded,
  { content, inspected, found }: Surroundings,
  known: (code: string) => boolean,
): RawFinding[] {
  const isFound = (variable: string) =>
    found.some((one) => known(one.code) && one.variable === variable && isWithin(one.place?.offset, start, end));
  const { where, original } = content;
  const origin = original === undefined ? {} : { origin: { path: original, line: start.line, column: start.column } };
  // No excerpt: a mask knows whole values, not their pieces and layouts.
  const described = { place: placeBetween(where, start, end), ...origin };
  return hits
    .filter(({ owner }) => !isFound(owner.variable))
    .flatMap(({ owner, encoding }) => {
      const steps = [step, ...encoding.filter((name) => name !== 'plain')];
      return valueFinding({ owner, encoding: steps }, described, inspected);
    });
}

function isWithin(offset: number | undefined, start: Position, end: Position): boolean {
  return offset !== undefined && start.offset <= offset && offset < end.offset;
}
