// Builds what is shipped: the CLI as one CommonJS file (it starts faster than modules do), the core as a module with its
// types, the demo project, the JSON Schema of reports, and the licences of everything that was bundled.

import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { load } from './load.mjs';

process.chdir(join(import.meta.dirname, '..'));
rmSync('dist', { recursive: true, force: true });
mkdirSync('dist/schema', { recursive: true });

const common = {
  bundle: true,
  platform: 'node',
  target: 'node20.19',
  metafile: true,
  legalComments: 'none',
  logLevel: 'warning',
};

const cli = await build({
  ...common,
  entryPoints: ['src/cli/bin.ts'],
  outfile: 'dist/adder.cjs',
  format: 'cjs',
  minifySyntax: true,
  minifyWhitespace: true,
  banner: { js: '#!/usr/bin/env node\nconst fileUrl = require("node:url").pathToFileURL(__filename).href;' },
  define: { 'import.meta.dirname': '__dirname', 'import.meta.url': 'fileUrl' },
});
const core = await build({
  ...common,
  entryPoints: ['src/core/index.ts'],
  outfile: 'dist/core.js',
  format: 'esm',
  banner: {
    js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
  },
});

cpSync('src/demo/ferries', 'dist/demo', { recursive: true });
await writeSchema();
writeLicences([cli, core]);
writeTypes();

async function writeSchema() {
  const { reportJsonSchema } = await load('scripts/report-schema.ts');
  writeFileSync('dist/schema/report.json', `${JSON.stringify(reportJsonSchema(), null, 2)}\n`);
}

function writeTypes() {
  const { status } = spawnSync('node_modules/.bin/tsc', ['-p', 'tsconfig.types.json'], { stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}

function writeLicences(results) {
  const inputs = results.flatMap(({ metafile }) => Object.keys(metafile.inputs));
  const packages = new Set(
    inputs.map((path) => /^(.*node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(path)?.[1]).filter(Boolean),
  );
  const texts = [...packages].sort().map((folder) => {
    const { name, version, license } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
    const file = readdirSync(folder).find((one) => /^licen[cs]e/i.test(one));
    const text = file && existsSync(join(folder, file)) ? readFileSync(join(folder, file), 'utf8') : `${license}\n`;
    return `${name} ${version}\n\n${text.trim()}\n`;
  });
  writeFileSync('dist/THIRD-PARTY-LICENSES.txt', texts.join(`\n${'-'.repeat(80)}\n\n`));
}
