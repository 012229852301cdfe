import type { Owner, SearchPlan } from '../inspect/plan.js';
import { AnchoredNeedles, NeedleSet } from '../needles/needle-set.js';
import type { Marker } from './marker.js';

/** A search for markers alone, in all encodings. Each is a value that may be there, named by its text. */
export function trialPlan(markers: readonly Marker[]): SearchPlan {
  const sought = markers.map(({ text }) => {
    const owner: Owner = { role: 'present', variable: text, reach: 'public' };
    return { value: text, owner };
  });
  return {
    needles: new NeedleSet(sought),
    ...{
      fragments: [],
      notSearched: [],
      reads: [],
      browserBundles: [],
      unknownSecrets: false,
      names: [],
      serverNames: [],
    },
    ...{ ships: false, hasLocalAddresses: false, directories: [], hostNames: [] },
    anchoredSecrets: () => new AnchoredNeedles([]),
    masked: () => [],
  };
}
