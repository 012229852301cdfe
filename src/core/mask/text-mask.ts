import { findAll, type Matcher } from '../search/matcher.js';
import { MASK } from '../secrets/secret.js';

/** Masks needles in whole texts. */
export class TextMask {
  /** @param isMasked which of the matcher's needles */
  constructor(
    readonly matcher: Matcher,
    readonly isMasked: (needle: number) => boolean = () => true,
  ) {}

  mask(text: string): string {
    const bytes = Buffer.from(text);
    const hits = findAll(this.matcher, bytes).filter(({ needle }) => this.isMasked(needle));
    if (hits.length === 0) return text;
    let masked = '';
    let at = 0;
    for (const { start, end } of hits) {
      if (start >= at) masked += bytes.toString('utf8', at, start) + MASK;
      at = Math.max(at, end);
    }
    return masked + bytes.toString('utf8', at);
  }
}
