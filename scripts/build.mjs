// Builds what is shipped: the program as CommonJS files (a call loads only those that it needs), the library as modules
// with their types, the demo project, the JSON Schemas of contract and reports, and what says which packages are in all of it.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import './generated.mjs';
import { bundle } from './bundle.mjs';
import { load } from './load.mjs';
import { billOfMaterials, licenceTexts, shippedPackages } from './shipped.mjs';

process.chdir(join(import.meta.dirname, '..'));
rmSync('dist', { recursive: true, force: true });
mkdirSync('dist/schema', { recursive: true });

/** All in one directory, where the program looks for its threads and its demo. */
const program = await bundle(
  {
    adder: 'src/cli/bin.ts',
    'scan-worker': 'src/host/scan-worker.ts',
    'lint-worker': 'src/project/lint-worker.ts',
  },
  {
    dir: 'dist',
    format: 'cjs',
    entryFileNames: '[name].cjs',
    chunkFileNames: '[name].cjs',
    banner: ({ name }) => (name === 'adder' ? '#!/usr/bin/env node' : ''),
    // Failures name their class, and --debug the functions that a failure passed through.
    minify: {
      mangle: { keepNames: { function: true, class: true } },
      compress: true,
      codegen: { removeWhitespace: true },
    },
  },
);

const plugins = ['vite', 'rollup', 'rolldown', 'webpack', 'rspack', 'esbuild', 'values'];
const library = await bundle(
  {
    core: 'src/core/index.ts',
    ...Object.fromEntries(plugins.map((name) => [`plugin/${name}`, `src/plugin/${name}.ts`])),
  },
  { dir: 'dist', format: 'esm', chunkFileNames: 'library/[name].js' },
);

/** Loaded into builds as it is. */
cpSync('src/host/trial/observe.cjs', 'dist/observe.cjs');

for (const template of ['ferries', 'adopt', 'lint', 'promote', 'mobile', 'ship', 'serve', 'history'])
  cpSync(`src/demo/${template}`, `dist/demo/${template}`, { recursive: true });
/** Readable, as all of the demo is; what it packs with is in it. */
const packer = await bundle(
  { pack: 'src/demo/mobile/tool/pack.mjs' },
  { dir: 'dist/demo/mobile/tool', format: 'esm', entryFileNames: '[name].mjs' },
);
for (const template of ['ship', 'history'])
  cpSync('dist/demo/mobile/tool/pack.mjs', `dist/demo/${template}/tool/pack.mjs`);

const { contractJsonSchema, receiptJsonSchema, reportJsonSchema } = await load('scripts/report-schema.ts');
writeJson('dist/schema/contract.json', contractJsonSchema());
writeJson('dist/schema/receipt.json', receiptJsonSchema());
writeJson('dist/schema/report.json', reportJsonSchema());

const packages = shippedPackages([...program, ...library, ...packer]);
writeFileSync('dist/THIRD-PARTY-LICENSES.txt', licenceTexts(packages));
writeFileSync('dist/sbom.cdx.json', billOfMaterials(packages));

const { status } = spawnSync('node_modules/.bin/tsc', ['-p', 'tsconfig.types.json'], { stdio: 'inherit' });
if (status !== 0) process.exit(status ?? 1);

function writeJson(path, value) {
  writeFileSync(path, `${JSON.stringify(value, null, 2)}\n`);
}
