import { describe, expect, test } from 'vitest';
import { Inliner } from '../../../src/core/inline/inline.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';

const contract = (bundle: string) =>
  contractOf(`adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { ${bundle} } }
variables: { URL: public, TIDES: { reach: public, required: false }, KEY: server }
`);

/** The module as the plugin returns it, followed by the reported problems. */
function inlined(code: string, bundle = 'toolchain: webpack', runsInNode = false): string {
  const given = contract(bundle);
  const values = new Map([
    ['URL', new Secret('https://a.example/</script>')],
    ['KEY', new Secret('never-to-be-seen-0001')],
  ]);
  const desk = given.bundles.get('desk');
  if (!desk) throw new Error('the contract has desk');
  const { inlined: made, problems } = new Inliner(given, desk, values).module('a.js', code, runsInNode);
  return [made?.code ?? 'as it was', ...problems.map(({ message }) => message)].join('\n');
}

const url = '"https://a.example/\\u003c/script>"';

describe('reads of a module', () => {
  test.each<[title: string, code: string, after: string]>([
    ['alone in a statement: no directive', 'process.env.URL;', `void ${url};`],
    ['no value', 'f(process.env.TIDES ?? 1)', 'f(undefined ?? 1)'],
    [
      'the object as name and value of a property at once',
      'const env = process.env; f({ env }, env.URL)',
      `const env = ({}); f({ env }, ${url})\nuses all of process.env, which contains no value of the contract`,
    ],
    [
      'a server value',
      'f(process.env.KEY)',
      'f(undefined)\nKEY, a server-only variable, is read by a module that reaches the browser',
    ],
    ['nothing to replace', 'f("process.env.URL") // process.env.URL', 'as it was'],
  ])('%s', (_, code, after) => expect(inlined(code)).toBe(after));

  test('constants, in every place of an expression', () => {
    const code = 'f({ __URL__ }, typeof __URL__, `${__URL__}`)';
    expect(inlined(code, 'toolchain: other, reads: [__*__]')).toBe(
      `f({ __URL__: ${url} }, typeof ${url}, \`\${${url}}\`)`,
    );
  });

  test.each<[runs: string, after: string]>([
    ['browser', `f(${url}, process.env.KEY, process.env.HOME)`],
    [
      'desktop',
      `f(${url}, undefined, process.env.HOME)\nKEY, a server-only variable, is read by a module that ships in the app`,
    ],
  ])('built for Node.js: what it reads as it runs is left to it, in a bundle that runs: %s', (runs, after) => {
    const code = 'f(process.env.URL, process.env.KEY, process.env.HOME)';
    expect(inlined(code, `runs: ${runs}, toolchain: esbuild`, true)).toBe(after);
  });

  test('a framework’s configuration is left to it, as it is read when the app runs', () => {
    expect(inlined('f(useRuntimeConfig().public.url)', 'toolchain: nuxt')).toBe('as it was');
  });
});

test.each([
  ['vite', 'which contains no value of the contract', '; write literal reads, such as import.meta.env.VITE_NAME'],
  ['rsbuild', 'where rsbuild puts every public value', ''],
])('the whole object of %s', (tool, said, remedy) => {
  const made = inlined('f({ ...import.meta.env }, import.meta.env[name])', `toolchain: ${tool}`);
  expect(made).toBe(
    `as it was\nuses all of import.meta.env, ${said}\nreads a computed name of import.meta.env, ${said}${remedy}`,
  );
});
