import { readdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type Ran, TestProject } from '../support/adder.js';
import { type Bundler, buildScript, bundlers, runBundle, scriptOf } from '../support/bundlers.js';

const address = 'https://api.saltmarsh.example/quay';
const env = {
  FERRY_API_URL: address,
  QUAY_LABEL: 'Harbour Desk Eleven',
  FARE_SIGNING_KEY: 'made-up-key-of-the-fares-0001',
};

function projectOf({ name, object, prefix, ...bundler }: Bundler, files: Record<string, string>): TestProject {
  const reads = `[${object}, '__*__', define-constants, window.config]`;
  return new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [process] } }
bundles:
  desk: { toolchain: ${name}, code: [src], output: [dist], prefix: '${prefix}', reads: ${reads} }
variables: { FERRY_API_URL: public, QUAY_LABEL: public, FARE_SIGNING_KEY: server }
`,
    'package.json': '{ "type": "module", "private": true }',
    'build.mjs': buildScript({ name, object, prefix, ...bundler }),
    ...files,
  }).withPackages();
}

const build = (at: TestProject): Ran => at.adder(['with', 'production', '--', 'node', 'build.mjs', 'development'], env);

describe.each(bundlers)('$name', (bundler) => {
  const { object, prefix } = bundler;
  const url = `${prefix}FERRY_API_URL`;

  test('reads of every kind have their values, whatever words their modules contain', () => {
    const at = projectOf(bundler, {
      'src/main.js': `import { own, given, other } from './plain.js';
const e = ${object};
const { ${url}: taken } = e;
const { ['${url}']: bracketed, ${url}: { length }, ${prefix}QUAY_LABEL: label = 'none' } = ${object};
const note = () => {}
note()
${object}.${url}.trim()
globalThis.seen = { taken, bracketed, length, label, own, given, other: other() };
`,
      'src/plain.js': `export const own = __${url}__, given = ${prefix}QUAY_LABEL;
export const other = () => window.config.${url};
`,
    });
    const ran = build(at);
    expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    expect(runBundle(scriptOf(at).text)).toEqual({
      ...{ taken: address, bracketed: address, length: address.length, label: env.QUAY_LABEL },
      ...{ own: address, given: env.QUAY_LABEL, other: address },
    });
  });

  test('the build stops where a package that ships reads a public value', () => {
    const at = projectOf(bundler, {
      'src/node_modules/quay-kit/package.json': '{ "type": "module", "main": "index.js", "sideEffects": false }',
      'src/node_modules/quay-kit/index.js': `export const used = () => ${object}.${url};\nexport const fine = 1;\n`,
      'src/main.js': "import { used } from './node_modules/quay-kit/index.js';\nglobalThis.seen = used;\n",
    });
    const ran = build(at);
    expect(ran.code, ran.stdout + ran.stderr).not.toBe(0);
    expect(ran.stdout + ran.stderr).toMatch(/FERRY_API_URL is not replaced in/);
    at.write('src/main.js', "import { fine } from './node_modules/quay-kit/index.js';\nglobalThis.seen = fine;\n");
    const again = build(at);
    // Without tree shaking, a build for development keeps the read.
    expect(again.code === 0, again.stdout + again.stderr).toBe(!/pack$/.test(bundler.name));
  });
});

/** One bundler for each way in which the plugin is called; `npm run truth` tries the others. */
const differing = bundlers.filter(({ name }) => /^(vite|esbuild|webpack)$/.test(name));

describe.each(differing)('$name', (bundler) => {
  const { object, prefix } = bundler;
  const url = `${prefix}FERRY_API_URL`;

  test.each([
    [
      'a name that changes',
      `let key = '${url}';\nif (location.hash) key = '${prefix}QUAY_LABEL';\nlog(OBJECT[key]);`,
      3,
    ],
    ['a name that only the running code knows', 'log(OBJECT[location.hash]);', 1],
    ['an alias that changes', `let e = OBJECT;\nif (location.hash) e = {};\nlog(e.${url});`, 3],
    ['a server constant in a module without the word env', 'log(__FARE_SIGNING_KEY__);', 1],
  ])('the build stops at %s, and names the line', (_, code, line) => {
    const at = projectOf(bundler, { 'src/main.js': `${code.replaceAll('OBJECT', object)}\n` });
    const ran = build(at);
    expect(ran.code).not.toBe(0);
    expect(ran.stdout + ran.stderr).toContain(`main.js:${line}:`);
    at.expectNone([env.FARE_SIGNING_KEY], ran);
  });
});

test('vite: workers of both kinds and what they import have the values, and server reads stop the build', () => {
  const vite = bundlers[0] as Bundler;
  const at = projectOf(vite, {
    'src/main.js': `import Inline from './inline.js?worker';
new Worker(new URL('./own.js', import.meta.url), { type: 'module' });
new Inline();
`,
    'src/own.js': "import { shared } from './shared.js';\nself.seen = [import.meta.env.VITE_FERRY_API_URL, shared];\n",
    'src/inline.js': "import { shared } from './shared.js';\nself.seen = ['inline', shared];\n",
    'src/shared.js': 'export const shared = import.meta.env.VITE_QUAY_LABEL;\n',
  });
  const ran = build(at);
  expect(ran.code, ran.stdout + ran.stderr).toBe(0);
  const scripts = readdirSync(at.path('dist/assets'))
    .filter((name) => name.endsWith('.js'))
    .map((name) => at.read(`dist/assets/${name}`));
  const workers = scripts.filter((text) => text.includes('self.seen'));
  const seen = workers.map((text) => {
    const self: { seen?: string[] } = {};
    new Function('self', text)(self);
    return self.seen;
  });
  expect(seen.sort()).toEqual(
    [
      [address, env.QUAY_LABEL],
      ['inline', env.QUAY_LABEL],
    ].sort(),
  );
  expect(at.json(['why', 'QUAY_LABEL']).report.bundles[0].built.modules).toEqual(['src/shared.js']);
  at.write('src/shared.js', 'export const shared = import.meta.env.FARE_SIGNING_KEY;\n');
  const refused = build(at);
  expect(refused.code).not.toBe(0);
  expect(refused.stdout + refused.stderr).toContain('FARE_SIGNING_KEY, a server-only variable');
});
