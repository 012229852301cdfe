import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Inliner } from '../../../src/core/inline/inline.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';
import { runs } from '../../support/runs.js';

const contract = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: webpack } }
variables: { A: public, B: public, C: { reach: public, required: false } }
`);
const values = { A: 'value of A', B: 'value of B' };
const inliner = new Inliner(
  contract,
  contract.bundles.get('desk') ?? expect.unreachable(),
  new Map(Object.entries(values).map(([name, value]) => [name, new Secret(value)])),
);

/** Runs a program, and returns what it pushes to `seen`. The plain one gets the environment, the other one must not need it. */
function outcome(program: string, context: object): unknown[] {
  const seen: unknown[] = [];
  try {
    runInNewContext(program, { ...context, seen });
  } catch (error) {
    seen.push((error as Error).name);
  }
  return JSON.parse(JSON.stringify(seen));
}

/** Compares a program with what the plugin makes of it: both do the same, or the build stops. */
function made(program: string): 'same' | 'stops' | { program: string; code: string; plain: unknown; inlined: unknown } {
  const { inlined, problems } = inliner.module('a.js', program, false);
  if (problems.some(({ stops }) => stops)) return 'stops';
  const code = inlined?.code ?? program;
  const plain = outcome(program, { process: { env: { ...values } } });
  const without = outcome(code, {});
  return JSON.stringify(plain) === JSON.stringify(without) ? 'same' : { program, code, plain, inlined: without };
}

const lines = (...texts: string[]) => fc.constantFrom(...texts);
const writesOfKey = lines(
  '',
  'if (seen) key = "B"',
  'for (const one of ["B"]) key = one',
  'for (key of ["B"]);',
  ';[key] = ["B"]',
  ';({ key } = { key: "B" })',
  ';(() => { key = "B" })()',
  'function set() { key = "B" }\nset()',
  'key += ""',
  '{ let key = "B"; seen.push(key) }',
  ';(function () { var key = "B" })()',
);
const writesOfAlias = lines(
  '',
  'if (seen) e = { A: "own" }',
  'e.A = "own"',
  'e["A"] = "own"',
  'delete e.A',
  ';(() => { e = {} })()',
  '{ let e = 1; seen.push(e) }',
);
const readForms = [
  'seen.push(process.env[key])',
  'seen.push(e[key])',
  'seen.push(e.A, e.C)',
  'seen.push(key in process.env, "A" in e, "C" in process.env)',
  'const { A } = e; seen.push(A)',
  'const { A: { length } } = process.env; seen.push(length)',
  'const { A: { length } = "none", C = "none" } = e; seen.push(length, C)',
  'const { ["A"]: a = 1, B: b = 2, C: c = 3 } = process.env; seen.push(a, b, c)',
  'const { [key]: z = 2, B: b = 1 } = process.env; seen.push(z, b)',
  'const { C: c = process.env.B, A: a } = process.env; seen.push(a, c)',
  'const { env } = process; seen.push(env.A)',
  'const { env: { A: a } } = process; seen.push(a)',
  'const { env: { A: a } = {} } = process; seen.push(a)',
  'let x; ({ A: x } = process.env); seen.push(x)',
  'function f({ A: x } = process.env) { return x }\nseen.push(f(), f({ A: "given" }))',
  'seen.push(typeof process.env.A, process.env?.A, process.env["B"]?.length)',
  'const f = seen.push.bind(seen)\nprocess.env.A.trim()\nf(1)',
  'const g = () => seen.push(1)\nprocess.env.A\ng',
  'let n = 1\nprocess.env.C\nseen.push(n)',
  'class K { a = process.env.A; [process.env.B] = 2 }\nseen.push(new K())',
  'seen.push(`${process.env.A}`, { A: process.env.A, ...{ B: e.B } })',
];
const program = fc
  .tuple(
    lines('const', 'let', 'var'),
    writesOfKey,
    lines('const', 'let', 'var'),
    writesOfAlias,
    lines(...readForms),
    lines(...readForms),
  )
  .map(([one, ofKey, other, ofAlias, first, second]) => {
    const again = one === 'var' ? '\nif (!seen) { var key = "B" }' : '';
    return `${one} key = "A"${ofKey === '' ? '' : again}
${other} e = process.env
${ofKey}
${ofAlias}
{ ${first}
}
{ ${second}
}`;
  });

describe('a program with the plugin does what it does with the environment, or the build stops', () => {
  test('generated programs', () => {
    fc.assert(
      fc.property(program, (one) => {
        expect(['same', 'stops']).toContainEqual(made(one));
      }),
      { numRuns: runs(500) },
    );
  });

  test.each(readForms)('no build stops for constants: %s', (form) => {
    expect(made(`const key = "A", e = process.env\n{ ${form}\n}`)).toBe('same');
  });

  test.each([
    ['let key = "A"; if (seen) key = "B"; seen.push(process.env[key])', 'stops'],
    ['var key = "A"; if (seen) { var key = "B" } seen.push(process.env[key])', 'stops'],
    ['const keys = { a: "A" }; keys.a = "B"; seen.push(process.env[keys.a])', 'stops'],
    ['const [key] = "AB"; seen.push(process.env[key])', 'stops'],
    ['let key = "A"; seen.push(process.env[key])', 'same'],
    ['const key = "A"; { let key = 1; key = 2 } seen.push(process.env[key])', 'same'],
    ['let e = process.env; seen.push(e.A)', 'same'],
    ['const e = process.env; const { A } = e; seen.push(A)', 'same'],
    ['const { A: { length } } = process.env; seen.push(length)', 'same'],
    ['seen.push(1)\nprocess.env.A\nseen.push(2)', 'same'],
  ])('%s: %s', (one, expected) => expect(made(one)).toBe(expected));
});

describe('in a component, markup may write a variable', () => {
  test.each([
    ['App.svelte', '<script>export let key = "A"; let v = process.env[key];</script><input bind:value={key}>{v}', true],
    ['App.vue', '<script setup>let key = "A"; const v = process.env[key];</script><template>{{ v }}</template>', true],
    ['App.vue', '<script setup>const key = "A"; const v = process.env[key];</script>', false],
  ])('%s: %s', (path, text, stops) => {
    const { problems } = inliner.module(path, text, false);
    expect(problems.some((one) => one.stops && one.line === 1)).toBe(stops);
  });
});

test('names that the tool or a server provides stay in a pattern with others', () => {
  const code = (text: string, isServer = false) => inliner.module('a.js', text, isServer).inlined?.code;
  expect(code('const { NODE_ENV, A } = process.env')).toBe('const NODE_ENV = process.env.NODE_ENV, A = "value of A"');
  expect(code('const env = process.env; f(env.NODE_ENV, env.A)')).toBe(
    'const env = ({}); f(process.env.NODE_ENV, "value of A")',
  );
  expect(code('const { A, SECRET } = process.env', true)).toBe('const A = "value of A", SECRET = process.env.SECRET');
  expect(code('const env = process.env; f(env.A, env.SECRET)', true)).toBe(
    'const env = process.env; f("value of A", env.SECRET)',
  );
  // A server reads its own environment when it runs.
  expect(code('let env = process.env; if (x) env = {}; f(env.A, process.env[name])', true)).toBeUndefined();
});
