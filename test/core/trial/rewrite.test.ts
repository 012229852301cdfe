import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseEnvFile } from '../../../src/core/envfile/parse.js';
import { markedEnvFile, markedLiterals } from '../../../src/core/trial/rewrite.js';
import { runs } from '../../support/runs.js';

const marked = (
  text: string,
  mark = (name: string, _: string, line: number): string | undefined => `m-${name}-${line}`,
) => Buffer.from(markedEnvFile(Buffer.from(text), mark)).toString();

describe('an env file with markers', () => {
  test.each([
    ['A=x\n# note\nB="y z"\n', 'A=m-A-1\n# note\nB=m-B-3\n'],
    ["export A='x' # why\r\nB=\r\n", 'export A=m-A-1 # why\r\nB=m-B-2\r\n'],
    ['A=$B\n', 'A="${B}/m-A-1"\n'],
    ['A="https://${B}:${C}/x"\n', 'A="${B}/${C}/m-A-1"\n'],
    ['A="one\ntwo"\nB=x\n', 'A=m-A-1\nB=m-B-3\n'],
  ])('%j becomes %j', (text, expected) => expect(marked(text)).toBe(expected));

  test('keeps a value that gets no marker', () => {
    expect(marked('A=x\nB=y\n', (name) => (name === 'B' ? 'm' : undefined))).toBe('A=x\nB=m\n');
  });

  test('sets the same names in the same order, and no value of before', () => {
    const value = fc.constantFrom(
      'kelp-garden',
      '"kelp garden"',
      "'kelp-garden'",
      'x$NAME/kelp-garden',
      '"kelp\ngarden"',
      '',
    );
    const line = fc
      .tuple(fc.constantFrom('ONE', 'TWO', 'export THREE'), value)
      .map(([name, text]) => `${name}=${text}\n`);
    fc.assert(
      fc.property(fc.array(line, { maxLength: 6 }), (lines) => {
        const text = lines.join('');
        const after = marked(text, () => 'mark');
        const namesOf = (all: string) => parseEnvFile(Buffer.from(all)).entries.map(({ name }) => name);
        expect(namesOf(after)).toEqual(namesOf(text));
        expect(after).not.toMatch(/kelp|garden/);
      }),
      { numRuns: runs(300) },
    );
  });
});

describe('literals of a module or of JSON', () => {
  const mark = (value: string, line: number) => (value === 'x' ? `m${line}` : undefined);

  test.each([
    ['{\n  "key": "x",\n  "other": "y"\n}', '{\n  "key": "m2",\n  "other": "y"\n}'],
    ["export default { key: 'x' };\nconst a = 'x';", 'export default { key: "m1" };\nconst a = "m2";'],
    ['{ "x": "x" }', '{ "x": "m1" }'],
    ['const a = "it\\"s";', 'const a = "it\\"s";'],
  ])('%j becomes %j', (text, expected) => expect(markedLiterals(text, mark)).toBe(expected));

  test('several on one line differ in their columns', () => {
    const seen: string[] = [];
    markedLiterals('{\n  "a": "x", "b": "y" }', (value, line, column) => {
      seen.push(`${value} ${line}:${column}`);
      return undefined;
    });
    expect(seen).toEqual(['x 2:8', 'y 2:18']);
  });
});
