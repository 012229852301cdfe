import type { Encoding } from './encoding.js';
import { base64, base64url } from './encodings/base64.js';
import { jsString } from './encodings/js-string.js';
import { percent } from './encodings/percent.js';
import { plain } from './encodings/plain.js';
import { SHORTEST_NEEDLE } from './weak.js';

/** In this order a byte string that several encodings share gets its name. */
export const encodings: readonly Encoding[] = [plain, jsString, percent, base64, base64url];

/** One byte string to look for. */
export interface Needle<Owner> {
  bytes: Uint8Array;
  /** From the outside inwards. */
  encoding: readonly string[];
  /** Whose value it is; several variables may have one value. */
  owners: Owner[];
}

/** A value to look for, in every encoding. */
export interface Sought<Owner> {
  value: string;
  owner: Owner;
}

/** All needles of some values, each byte string once. Values must have passed `weakness`. */
export function needlesFor<Owner>(sought: Iterable<Sought<Owner>>): Needle<Owner>[] {
  const needles = new Map<string, Needle<Owner>>();
  for (const { value, owner } of sought) {
    for (const encoding of encodings) {
      for (const bytes of encoding.encode(value)) {
        if (bytes.length < SHORTEST_NEEDLE) continue;
        const key = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('latin1');
        const known = needles.get(key);
        if (!known) needles.set(key, { bytes, encoding: [encoding.name], owners: [owner] });
        else if (!known.owners.includes(owner)) known.owners.push(owner);
      }
    }
  }
  return [...needles.values()];
}
