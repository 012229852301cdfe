import { placeBetween } from '../../findings/place.js';
import { limits } from '../../limits/index.js';
import { byteSize } from '../../text/display.js';
import { numberLists } from '../../text/number-lists.js';
import { LineMap } from '../../text/positions.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { marksFor } from '../token-runs.js';
import { valueFinding } from './known-values.js';

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
    const lists = numberLists(text).filter(({ bytes }) => surroundings.valuesIn(bytes).length > 0);
    return lists.length === 0 ? [] : findingsIn(text, lists, surroundings);
  },
};

function findingsIn(text: string, lists: ReturnType<typeof numberLists>, surroundings: Surroundings) {
  const { content, inspected, valuesIn } = surroundings;
  const lines = new LineMap(Buffer.from(text));
  const at = (offset: number) => lines.at(Buffer.byteLength(text.slice(0, offset)));
  return lists.flatMap(({ start, end, bytes }) => {
    const place = placeBetween(content.where, at(start), at(end));
    const hits = new Map(valuesIn(bytes).map((hit) => [hit.owner, hit]));
    const secrets = [...hits.values()].filter(({ owner }) => owner.role === 'secret');
    const whole = new Set(secrets.flatMap(({ owner }) => (owner.part ? [] : [owner])));
    return secrets
      .filter(({ owner }) => !owner.part || !whole.has(owner.part.of))
      .filter(({ owner }) => !isKnown(owner.variable, place.offset ?? 0, place.length ?? 0, surroundings))
      .flatMap(({ owner, encoding }) => {
        const steps = ['char-codes', ...encoding.filter((name) => name !== 'plain')];
        // No excerpt: a mask knows no layout of numbers.
        return valueFinding({ owner, encoding: steps }, { place }, inspected);
      });
  });
}

/** Tells whether an earlier rule found the value in the list. */
function isKnown(variable: string, offset: number, length: number, { found }: Surroundings): boolean {
  return found.some(
    ({ code, variable: of, place: { offset: start = -1 } = { path: '', inside: [] } }) =>
      code.startsWith('leak/') && of === variable && start >= offset && start <= offset + length,
  );
}
