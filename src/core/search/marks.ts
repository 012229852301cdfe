import { limits } from '../limits/index.js';
import { hasContent } from '../unpack/data-uri.js';

/** A byte string that a scan looks for, and why: its kind decides who gets the hits. */
export interface Mark {
  kind: string;
  bytes: Uint8Array;
}

/** How hits of one kind are kept. */
interface KindSettings {
  /** Hits kept per byte string; all are counted. */
  most: number;
  /** Tells whether many texts have such a hit, and nothing in the sources of a map is reported for it. */
  isCommon?: true;
  /** Rejects a hit by the bytes that follow it, as far as they are in the same chunk. */
  accepts?(following: Uint8Array): boolean;
}

/** The kind of hits that are stretches with a window of a recorded value; see windows/. */
export const WINDOW = 'window';

/** The kind of hits that are runs of token characters; see runs.ts. */
export const RUN = 'run';

const usual: KindSettings = { most: limits.placesPerValue.value };

/** Kinds that differ from the usual. More data: URIs than any limit of embedded files; of a fragment, only that it is there. */
const settings: ReadonlyMap<string, KindSettings> = new Map<string, KindSettings>([
  // Each hit is compared with the value, and most of a common anchor are not the value.
  ['anchor', { most: limits.anchorPlaces.value }],
  [WINDOW, { most: limits.anchorPlaces.value }],
  ['data-uri', { most: 250_000, accepts: hasContent }],
  ['fragment', { most: 1 }],
  [RUN, { most: limits.runsPerFile.value, isCommon: true }],
  ...['local-address', 'node-env', 'development-text', 'inline-map'].map((kind): [string, KindSettings] => [
    kind,
    { ...usual, isCommon: true },
  ]),
]);

export function settingsOf(kind: string): KindSettings {
  return settings.get(kind) ?? usual;
}
