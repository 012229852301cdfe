import type { Audience } from '../inspect/artifact.js';
import type { Marker } from './marker.js';
import type { Asked } from './observed.js';

/** The path of what arrives in the build's output on the terminal. */
export const LOG = "the build's log";

/** A place of the output in which a marker was found. */
export interface Arrival {
  marker: Marker;
  path: string;
  inside: readonly string[];
  /** Absent for a file outside of every output. */
  audience?: Audience;
  encoding: readonly string[];
  /** The source line that brought it, by the map. */
  origin?: { path: string; line: number };
}

/** All that a trial saw. */
export interface Evidence {
  markers: readonly Marker[];
  /** Names whose values had no room for a marker. */
  unmarked: readonly string[];
  /** The places that set these. */
  unmarkedAt: readonly Pick<Marker, 'name' | 'setAt'>[];
  /** Names that were followed by the difference of two builds. */
  compared?: readonly string[];
  /** Names that a file sets, and for which the environment wins if it has them. */
  overridden?: readonly string[];
  arrivals: readonly Arrival[];
  asked: readonly Asked[];
  /** False if the build wrote nothing into any output, so that nothing is known of what arrives nowhere. */
  hasOutput: boolean;
}
