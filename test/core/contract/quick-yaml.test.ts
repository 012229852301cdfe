import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { isMap, isScalar, isSeq } from 'yaml';
import { type QuickNode, readQuickly } from '../../../src/core/contract/quick-yaml.js';
import { readThoroughly } from '../../../src/core/contract/yaml.js';

const demos = ['serve', 'lint', 'promote', 'ship', 'mobile', 'ferries'].map((name) =>
  readFileSync(join(import.meta.dirname, '../../../src/demo', name, 'adder.yaml'), 'utf8'),
);

const everything = `# what contracts have
adder: 1
stages:
  staging: { layers: [.env, .env.staging, process] }
  production:
    layers:
      - .env
      - { file: .env.production, must-exist: true }
      - command: [keys, "read", 'x y']
variables:
  "FERRY_API_URL": { reach: public, form: url, default: 1.0, example: 007 }
  FERRY_KEY: server
  FERRY_PORT:
    reach: public
    about: >-
      The port
      of the server
    default: 4000
    pattern: '^\\d+$'
accept:
  - finding: leak/value
    because: "it's \\"known\\" \\u00e9"
    until: 2027-01-01
  - { finding: leak/token, because: y }
`;

const texts = [everything, everything.replaceAll('\n', '\r\n'), ...demos];

/** Places where a quick tree differs from the thorough parser's: keys, and the sources of what is not a string. */
function differences(node: unknown, quick: QuickNode | undefined, text: string): string[] {
  if (isMap(node))
    return node.items.flatMap(({ key, value }) => {
      const name = isScalar(key) ? String(key.value) : '';
      const same = isScalar(key) && quick?.children?.get(name)?.key === key.range?.[0];
      return [...(same ? [] : [name]), ...differences(value, quick?.children?.get(name), text)];
    });
  if (isSeq(node))
    return node.items.flatMap((item, index) => differences(item, quick?.children?.get(String(index)), text));
  if (!isScalar(node) || typeof node.value === 'string' || !node.source) return [];
  return text.slice(quick?.start, quick?.end) === node.source ? [] : [node.source];
}

function expectAgreement(text: string): void {
  const quick = readQuickly(text);
  if (!quick) return;
  const { problems, data, document } = readThoroughly(text);
  expect(problems).toEqual([]);
  expect(quick.data).toStrictEqual(data);
  expect(differences(document()?.contents, quick.root, text)).toEqual([]);
}

test.each(texts)('contract %# is read, as the thorough parser reads it', (text) => {
  expect(readQuickly(text)).toBeDefined();
  expectAgreement(text);
});

describe('is left to the thorough parser', () => {
  test.each([
    ['an empty text', ''],
    ['a comment alone', '# none\n'],
    ['two documents', 'a: 1\n---\nb: 2\n'],
    ['an end of the document', 'a: 1\n...\n'],
    ['a directive', '%YAML 1.2\n---\na: 1\n'],
    ['an anchor and its alias', 'a: &x 1\nb: *x\n'],
    ['a tag', 'a: !!str 1\n'],
    ['a key twice', 'a: 1\na: 2\n'],
    ['a key that is not text', '1: a\n'],
    ['a key that means nothing', '? \n: a\n'],
    ['a map as a key', '{ a: 1 }: b\n'],
    ['the name of a prototype', '__proto__: 1\n'],
    ['a byte order mark', '\uFEFFa: 1\n'],
    ['a lone carriage return', 'a: 1\rb: 2\n'],
    ['a mistake', 'a: [1\n'],
  ])('%s', (_, text) => {
    expect(readQuickly(text)).toBeUndefined();
  });
});

test('whatever a contract is changed to, the parsers agree, or the quick one does not read it', () => {
  const marks = [...' \n\t:-#{}[],&*!|>%@`\'"?~<=.\\/0123eExXoO_+aAbByYnN', 'é', '😀', '\0', '\x7f', '\x85'];
  const words = '\r\n \r --- ... 1.0 0x1F 0o17 1e3 .inf .NaN 017 -0 +1 1_000 2024-01-01 yes True << null \u2028'.split(
    ' ',
  );
  const pieces = [': ', '- ', ' #', '\n\n', '? ', "''", '""', '\\n', '\\u0041', '|\n', '>-\n', '|2\n', '\u00a0'];
  const put = fc.constantFrom(...marks, ...words, ...pieces);
  const edit = fc.record({ at: fc.nat(9999), cut: fc.nat(3), put });
  fc.assert(
    fc.property(fc.constantFrom(...texts), fc.array(edit, { maxLength: 4 }), (text, edits) => {
      const changed = edits.reduce((before, { at, cut, put }) => {
        const index = Math.floor((at / 9999) * before.length);
        return before.slice(0, index) + put + before.slice(index + cut);
      }, text);
      expectAgreement(changed);
    }),
    { numRuns: 1500 },
  );
});
