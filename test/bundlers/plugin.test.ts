import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { runInNewContext } from 'node:vm';
import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';
import { describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, secrets, type TestProject } from '../support/adder.js';

const plugin = (name: string) => pathToFileURL(join(import.meta.dirname, '../../dist/plugin', `${name}.js`)).href;

interface Bundler {
  name: string;
  /** Where its code reads values. */
  object: string;
  prefix: string;
  /** A script that builds src/main.js into dist, with source maps. */
  build: string;
}

const webpackLike = (name: string, load: string) => `${load}
import adder from ${JSON.stringify(plugin(name))};
const compiler = bundler({ mode: 'production', devtool: 'source-map', entry: './src/main.js', target: 'web', plugins: [adder()] });
compiler.run((error, stats) => {
  console.log(stats?.toString({ all: false, errors: true, warnings: true }));
  if (error || stats.hasErrors()) process.exit(1);
});`;

const rollupLike = (name: string) => `import { ${name} as bundler } from '${name}';
import adder from ${JSON.stringify(plugin(name))};
const bundle = await bundler({ input: 'src/main.js', plugins: [adder()] });
await bundle.write({ dir: 'dist', sourcemap: true });`;

const bundlers: Bundler[] = [
  {
    name: 'vite',
    object: 'import.meta.env',
    prefix: 'VITE_',
    build: `import { build } from 'vite';
import adder from ${JSON.stringify(plugin('vite'))};
await build({ plugins: [adder()], build: { sourcemap: true, minify: true, rollupOptions: { input: 'src/main.js' } } });`,
  },
  { name: 'rollup', object: 'process.env', prefix: '', build: rollupLike('rollup') },
  { name: 'rolldown', object: 'process.env', prefix: '', build: rollupLike('rolldown') },
  {
    name: 'webpack',
    object: 'process.env',
    prefix: '',
    build: webpackLike('webpack', "import bundler from 'webpack';"),
  },
  {
    name: 'rspack',
    object: 'process.env',
    prefix: '',
    build: webpackLike('rspack', "import { rspack as bundler } from '@rspack/core';"),
  },
  {
    name: 'esbuild',
    object: 'process.env',
    prefix: '',
    build: `import { build } from 'esbuild';
import adder from ${JSON.stringify(plugin('esbuild'))};
await build({ entryPoints: ['src/main.js'], bundle: true, minify: true, sourcemap: true, outdir: 'dist', format: 'esm', plugins: [adder()] });`,
  },
];

const app = (object: string, name: string) => `import { FERRY_API_URL, TIDE_CHART } from 'adder/values';
import { other } from './other.js';
const { ${name}: taken, ${name.replace('FERRY_API_URL', 'NOTICE_BANNER')}: absent = 'none' } = ${object};
const env = ${object};
globalThis.seen = {
  literal: ${object}.${name},
  bracket: ${object}['${name}'],
  optional: ${object}?.${name},
  alias: env.${name},
  taken,
  absent,
  there: '${name}' in ${object},
  typed: TIDE_CHART,
  imported: FERRY_API_URL,
  text: '${object}.${name}',
  shadowed: ((process) => process.env.${name})({ env: { ${name}: 'own' } }),
  other,
};
`;

function projectFor(
  { name: toolchain, object, prefix, build }: Bundler,
  files: Record<string, string> = {},
): TestProject {
  const contract = ferryContract
    .replace('toolchain: vite', `toolchain: ${toolchain}`)
    .replace('prefix: VITE_', `prefix: '${prefix}', reads: [${object}]`);
  return ferryProject({
    'adder.yaml': contract,
    'package.json': '{ "type": "module", "private": true }',
    'build.mjs': build,
    'src/main.js': app(object, `${prefix}FERRY_API_URL`),
    'src/other.js': `\n\nexport const other = () => {\n  throw new Error(${object}.${prefix}FERRY_API_URL);\n};\n`,
    // A bundler's own reading of env files is switched off: this value must win nowhere.
    '.env.local': `${prefix}FERRY_API_URL=https://local.saltmarsh.test\nVITE_FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
    ...files,
  }).withPackages();
}

const outputs = (at: TestProject) =>
  readdirSync(at.path('dist'), { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.js'))
    .map((name) => ({ name, text: at.read(`dist/${name}`) }));

describe.each(bundlers)('$name with the plugin', (bundler) => {
  const address = 'https://api.saltmarsh.example';

  test('every form of a read has the value, and nothing else is touched', () => {
    const at = projectFor(bundler);
    const ran = at.adder(['with', 'production', '--', 'node', 'build.mjs']);
    expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    const [{ text } = { text: '' }] = outputs(at);
    const context: { seen?: Record<string, unknown> } = {};
    const script = text.replace(/^export\s*\{.*\};?$/m, '').replace(/\bexport\s*\{[^}]*\};?/g, '');
    runInNewContext(script, Object.assign(context, { globalThis: context }));
    const name = `${bundler.prefix}FERRY_API_URL`;
    expect({ ...context.seen, other: undefined }).toEqual({
      literal: address,
      bracket: address,
      optional: address,
      alias: address,
      taken: address,
      absent: 'none',
      there: true,
      typed: true,
      imported: address,
      text: `${bundler.object}.${name}`,
      shadowed: 'own',
      other: undefined,
    });
    for (const output of outputs(at)) expect(output.text).not.toMatch(/made-up|local\.saltmarsh/);
    at.expectNone(Object.values(secrets), ran, 'dist');
    const { report } = at.json(['why', 'FERRY_API_URL']);
    expect(report.bundles[0].built).toMatchObject({ modules: ['src/main.js', 'src/other.js'] });
  }, 60_000);

  test('source maps still point at the line that was written', () => {
    const at = projectFor(bundler);
    expect(at.adder(['with', 'production', '--', 'node', 'build.mjs']).code).toBe(0);
    const [{ name, text } = { name: '', text: '' }] = outputs(at);
    const offset = text.indexOf('Error(');
    const line = text.slice(0, offset).split('\n').length;
    const column = offset - (text.lastIndexOf('\n', offset) + 1);
    const map = new TraceMap(readFileSync(at.path(`dist/${name}.map`), 'utf8'));
    const origin = originalPositionFor(map, { line, column });
    expect([origin.source?.endsWith('src/other.js'), origin.line]).toEqual([true, 4]);
  }, 60_000);

  test('a server value stops the build, with the chain of imports; its value is nowhere', () => {
    const at = projectFor(bundler, { 'src/other.js': `export const other = ${bundler.object}.FARE_SIGNING_KEY;\n` });
    const ran = at.adder(['with', 'production', '--', 'node', 'build.mjs']);
    expect(ran.code).not.toBe(0);
    expect(ran.stdout + ran.stderr).toContain(
      'FARE_SIGNING_KEY is for the server alone, and this module reaches the browser, by src/main.js → src/other.js',
    );
    at.expectNone(Object.values(secrets), ran);
  }, 60_000);

  test('a misspelt import of the values is an error of the build', () => {
    const at = projectFor(bundler, {
      'src/other.js': "import { FERRY_API_ULR } from 'adder/values';\nexport const other = FERRY_API_ULR;\n",
    });
    const ran = at.adder(['with', 'production', '--', 'node', 'build.mjs']);
    expect(ran.stdout + ran.stderr).toContain('FERRY_API_ULR');
    if (bundler.name !== 'esbuild') expect(ran.code).not.toBe(0);
  }, 60_000);
});

test('without a stage the build says how to name one', () => {
  const at = projectFor(bundlers[1] as Bundler);
  const { code, stderr } = at.node('build.mjs');
  expect([code, stderr]).toEqual([1, expect.stringContaining('no stage was named for this build')]);
});
