import { findAll, type Matcher } from '../search/matcher.js';
import { MASK } from '../secrets/secret.js';
import type { Range } from '../text/ranges.js';

/** Masks needles in whole texts. */
export class TextMask {
  /** @param isMasked which of the matcher's needles */
  constructor(
    readonly matcher: Matcher,
    readonly isMasked: (needle: number) => boolean = () => true,
  ) {}

  mask(text: string): string {
    const bytes = Buffer.from(text);
    return replaced(bytes, this.#ranges(bytes)) ?? text;
  }

  /** Masks whole components: half a name would look like another file. @param path with `/` */
  maskPath(path: string): string {
    const bytes = Buffer.from(path);
    const ranges = this.#ranges(bytes).map(({ start, end }) => {
      const next = bytes.indexOf('/', end);
      return { start: bytes.lastIndexOf('/', start) + 1, end: next < 0 ? bytes.length : next };
    });
    return replaced(bytes, ranges) ?? path;
  }

  #ranges(bytes: Uint8Array): Range[] {
    return findAll(this.matcher, bytes).filter(({ needle }) => this.isMasked(needle));
  }
}

/** @param ranges by their start @returns undefined if there are none */
function replaced(bytes: Buffer, ranges: readonly Range[]): string | undefined {
  if (ranges.length === 0) return undefined;
  let masked = '';
  let at = 0;
  for (const { start, end } of ranges) {
    if (start >= at) masked += bytes.toString('utf8', at, start) + MASK;
    at = Math.max(at, end);
  }
  return masked + bytes.toString('utf8', at);
}
