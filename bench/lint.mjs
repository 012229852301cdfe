// How long adder lint takes for a large source tree, beside the parser alone on the same files: 5,000 modules of about 50 MB,
// copied together from the packages that are installed here, linked by imports. Exits 1 when the goal is missed.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, table } from './report.mjs';

const ROUNDS = 3;
const GOAL = 4;
const MODULES = 5000;
const BYTES = 50e6;

const root = join(import.meta.dirname, '..');
const folder = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const { files, bytes } = layOut();
const parserAlone = `
const { parseSync } = require(${JSON.stringify(join(root, 'node_modules/oxc-parser'))});
const fs = require('node:fs');
for (let i = 0; i < ${files}; i++) parseSync(i + '.js', fs.readFileSync('src/' + i + '.js', 'utf8'), { lang: 'jsx', sourceType: 'unambiguous' }).module.staticImports.length;`;
const parserWithTree = parserAlone.replace('.module.staticImports', '.program.body');

const programs = {
  'the parser alone': ['-e', parserAlone],
  'the parser alone, its tree handed over': ['-e', parserWithTree],
  'adder lint': [join(root, 'dist/adder.cjs'), 'lint', '--quiet', '--fail-on', 'never'],
};
const times = Object.fromEntries(Object.keys(programs).map((name) => [name, []]));
for (let round = 0; round < ROUNDS; round++) {
  for (const [name, args] of Object.entries(programs)) {
    const start = process.hrtime.bigint();
    const { status, stderr } = spawnSync(process.execPath, args, { cwd: folder, encoding: 'utf8' });
    if (status !== 0) throw new Error(`${name}: ${stderr}`);
    times[name].push(Number(process.hrtime.bigint() - start) / 1e6);
  }
}
rmSync(folder, { recursive: true });

const base = median(times['the parser alone']);
const ratio = median(times['adder lint']) / base;
console.log(`${files} modules, ${(bytes / 1e6).toFixed(0)} MB`);
console.log(
  table(
    ['whole process', 'median', 'ratio to the parser alone'],
    Object.entries(times).map(([name, all]) => [
      name,
      `${(median(all) / 1000).toFixed(1)} s`,
      (median(all) / base).toFixed(2),
    ]),
  ),
);
console.log(`\nadder lint: ${ratio.toFixed(2)} of the parser alone (goal: under ${GOAL})`);
if (ratio >= GOAL) process.exitCode = 1;

/** Modules of real packages, each with an import of the next, and a read in every tenth. */
function layOut() {
  const texts = sources(join(root, 'node_modules'));
  mkdirSync(join(folder, 'src'));
  let written = 0;
  for (let i = 0; i < MODULES; i++) {
    // Small and large ones alternate until the size is right.
    const wanted = (BYTES - written) / (MODULES - i);
    const text = texts[Math.floor((i * 7919) % texts.length)];
    const body = text.length > wanted * 6 ? text.slice(0, text.lastIndexOf('\n', wanted * 2)) : text;
    const link = i + 1 < MODULES ? `import './${i + 1}.js';\n` : '';
    const read = i % 10 === 0 ? '\nconsole.log(import.meta.env.VITE_FERRY_API_URL);\n' : '';
    const module = `${link}${isWhole(body, text) ? body : `/*${body.replaceAll('*/', '* /')}*/`}${read}`;
    writeFileSync(join(folder, 'src', `${i}.js`), module);
    written += module.length;
  }
  writeFileSync(
    join(folder, '.env.production'),
    'VITE_FERRY_API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=made-up-key-of-the-bench-0001\n',
  );
  writeFileSync(
    join(folder, 'adder.yaml'),
    `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { web: { toolchain: vite, code: [src], entry: [src/0.js], output: [out] } }
variables: { VITE_FERRY_API_URL: public, FARE_SIGNING_KEY: server }
`,
  );
  return { files: MODULES, bytes: written };
}

function isWhole(body, text) {
  return body.length === text.length;
}

function sources(from) {
  return readdirSync(from, { recursive: true, encoding: 'utf8' })
    .filter((name) => /\.(js|mjs)$/.test(name) && !/\.min\.|esbuild|typescript/.test(name))
    .sort()
    .flatMap((name) => {
      const path = join(from, name);
      // A package's directory may be called like a script.
      const stats = statSync(path);
      const { size } = stats;
      return stats.isFile() && size > 2000 && size < 150_000 ? [readFileSync(path, 'utf8')] : [];
    });
}
