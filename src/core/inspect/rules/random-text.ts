import { finding, type RawFinding } from '../../findings/finding.js';
import { RUN } from '../../search/marks.js';
import { isProbablySecret, LONGEST_SECRET } from '../../tokens/random.js';
import { latin1Reader } from '../reader.js';
import { type ArtifactRule, subject } from '../rule.js';
import { isKnown, textIn } from './token-shape.js';

/** The name that says what a text is stands right before it. */
const BEFORE = 80;

/** Text that looks like a secret, beside a name that says so. */
export const randomText: ArtifactRule = {
  codes: ['leak/random-text'],
  marks: () => [],
  kinds: [RUN],
  async check(hits, surroundings) {
    const { content, inspected, describe } = surroundings;
    // Frameworks generate keys of their own for their servers.
    if (inspected.audience !== 'browser') return [];
    const read = latin1Reader(content);
    const ranges = hits.filter((hit) => {
      const { start, end } = hit;
      if (end - start > LONGEST_SECRET) return false;
      const from = Math.max(0, start - BEFORE);
      const text = read(from, end);
      return isProbablySecret(text.slice(start - from), text.slice(0, start - from)) && !isKnown(hit, surroundings);
    });
    const described = await describe(
      ranges.map(({ start, end }) => {
        const text = read(start, end);
        return { start, end, locate: (line) => textIn(line, text) };
      }),
    );
    return ranges.map(({ start, end }, index): RawFinding => {
      const at = described[index] ?? { place: { ...content.where } };
      return finding('leak/random-text', 'named', { characters: end - start }, { ...subject(inspected), ...at });
    });
  },
};
