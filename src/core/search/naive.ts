import type { Hit } from './matcher.js';

/** The judge of the other matchers: one `indexOf` a needle, nothing to get wrong. */
export function naiveFindAll(needles: readonly Uint8Array[], bytes: Uint8Array): Hit[] {
  const text = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const hits: Hit[] = [];
  needles.forEach((bytes, needle) => {
    for (let start = text.indexOf(bytes); start >= 0; start = text.indexOf(bytes, start + 1)) {
      hits.push({ needle, start, end: start + bytes.length });
    }
  });
  return hits.sort((a, b) => a.start - b.start || a.needle - b.needle);
}
