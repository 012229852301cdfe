import { type Owner, planForValues, type SearchPlan } from '../inspect/plan.js';
import type { Marker } from './marker.js';

/** A search for markers alone, in all encodings. Each is a value that may be there, named by its text. */
export function trialPlan(markers: readonly Marker[]): SearchPlan {
  return planForValues(
    markers.map(({ text }) => {
      const owner: Owner = { role: 'present', variable: text, reach: 'public' };
      return { value: text, owner };
    }),
  );
}
