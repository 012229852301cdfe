import { limits } from '../../limits/index.js';
import { byteSize } from '../../text/display.js';
import { numberLists } from '../../text/number-lists.js';
import { once } from '../../text/once.js';
import { textPositions } from '../../text/positions.js';
import type { ValueHit } from '../hits.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { marksFor } from '../token-runs.js';
import { decodedFindings } from './decoded.js';

/** The kind of marks that stand beside lists of numbers that become texts. */
const LIST = 'number-list';

/** Words of code that makes a text of numbers, and of data that was one. */
const words = [
  'fromCharCode',
  'fromCodePoint',
  'Uint8Array',
  'Uint16Array',
  'ArrayBuffer',
  'TextDecoder',
  'Buffer.from',
  '"Buffer"',
  '<Buffer ',
];

/** Secrets that are spelled as lists of numbers, in any layout. Files of data have no words that say so. */
export const spelledValues: ArtifactRule = {
  codes: ['leak/known-value', 'leak/part-of-value'],
  marks: ({ fragments }) => (fragments.length > 0 ? marksFor(LIST, words) : []),
  wants: ({ fileName }) => /\.(json|txt|log|csv)$/.test(fileName),
  async check(_, surroundings) {
    const { content, unread } = surroundings;
    if (content.size > limits.listBytes.value) {
      unread(`is larger than ${byteSize(limits.listBytes.value)}: values in lists of numbers were not searched for`);
      return [];
    }
    const text = await content.text();
    // Most files have no such list, and need no positions.
    const positions = once(() => textPositions(text));
    return numberLists(text).flatMap(({ start, end, bytes }) => {
      const hits = secretsIn(bytes, surroundings);
      if (hits.length === 0) return [];
      const decoded = { start: positions()(start), end: positions()(end), step: 'char-codes' };
      return decodedFindings(hits, decoded, surroundings, (code) => code.startsWith('leak/'));
    });
  },
};

/** Secrets in decoded bytes, each once; a part of one only where the whole is not. */
function secretsIn(bytes: Uint8Array, { valuesIn }: Surroundings): ValueHit[] {
  const secrets = valuesIn(bytes).filter(({ owner }) => owner.role === 'secret');
  const each = [...new Map(secrets.map((hit) => [hit.owner, hit])).values()];
  const whole = new Set(each.flatMap(({ owner }) => (owner.part ? [] : [owner])));
  return each.filter(({ owner }) => !owner.part || !whole.has(owner.part.of));
}
