import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { partKinds } from '../../src/core/needles/part-table.js';
import { anchorsOf } from '../../src/core/needles/tolerant/anchors.js';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';
import { runs } from '../support/runs.js';

const contract = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: other, code: [src], output: [dist] } }
variables: { FARE_KEY: build }
`;

/** A project with a value, whose build prints a text and writes it to a file. */
function project(value: string, text: string): TestProject {
  return new TestProject({
    'adder.yaml': contract,
    '.env': `FARE_KEY='${value}'\n`,
    'src/a.js': 'f()',
    'build.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
const text = ${JSON.stringify(text)};
console.log('it is', text);
mkdirSync('dist', { recursive: true });
writeFileSync('dist/a.txt', 'it is ' + text);`,
  });
}

const build = ['with', 'production', '--', process.execPath, 'build.mjs'];

describe.each(partKinds)('$what', ({ what: _, example: { value, part }, is }) => {
  const at = project(value, part);
  const ran = at.adder(build);

  test('is masked in the output of a build', () => {
    expect(ran.code).toBe(0);
    expect(ran.stdout).toContain('it is [masked]');
    expect(ran.stdout + ran.stderr).not.toContain(part);
  });

  test('is found in the files of a build', () => {
    const { code, report } = asked(at);
    expect(code).toBe(1);
    expect(report.answers.nothingLeaked.answer).toBe('no');
    const [finding] = report.findings;
    expect([finding.code, finding.variable]).toEqual(['leak/part-of-value', 'FARE_KEY']);
    expect(JSON.stringify(report)).not.toContain(part);
  });

  test('is neither if it is too short', () => {
    const short = part.slice(0, is === 'characters' ? 11 : 7);
    const other = project(value, short);
    expect(other.adder(build).stdout).toContain(`it is ${short}`);
    expect(asked(other).code).toBe(0);
  });
});

test('either half of a random value of 24 characters and more has an anchor', () => {
  const letters = [...'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789'];
  const value = fc.array(fc.constantFrom(...letters), { minLength: 24, maxLength: 80 });
  fc.assert(
    fc.property(value, (characters) => {
      const anchors = anchorsOf(characters);
      const half = characters.length / 2;
      expect(anchors.some(({ index, codes }) => index + codes.length <= half)).toBe(true);
      expect(anchors.some(({ index }) => index >= Math.floor(half))).toBe(true);
    }),
    { numRuns: runs(1000) },
  );
});
