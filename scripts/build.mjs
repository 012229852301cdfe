// Builds what is shipped: the CLI as CommonJS files (they start faster than modules do) of which a call loads only those
// that it needs, the core as a module with its types, the demo project, the JSON Schemas of contract and reports, and the licences of everything that was bundled.

import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { rolldown } from 'rolldown';
import './generated.mjs';
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

const light = join(import.meta.dirname, '../src/core/text/width.ts');
const REQUIRED_WIDTH = '\0required-width.cjs';

/** Help and tables are measured with packages that build a segmenter or a long expression, which takes as long as yargs. */
const lightWidth = {
  name: 'light-width',
  resolveId(id, _, { kind }) {
    if (id !== 'string-width') return undefined;
    return kind === 'import-statement' ? light : REQUIRED_WIDTH;
  },
  load: (id) => (id === REQUIRED_WIDTH ? `module.exports = require(${JSON.stringify(light)}).default` : undefined),
};

/**
 * yargs looks for a package.json in all directories above, for a version that Adder prints itself. Its `assert` loads streams,
 * and so does a look at the terminal's width, which Adder gives it.
 */
const leanYargs = {
  name: 'lean-yargs',
  transform(code, id) {
    if (/yargs[\\/]build[\\/]lib[\\/]yargs-factory\.js$/.test(id))
      return replaced(code, /ver = this\[kGuessVersion\]\(\);/, "ver = '';");
    if (/yargs[\\/]lib[\\/]platform-shims[\\/]esm\.mjs$/.test(id)) {
      const light = replaced(code, /import \{ notStrictEqual, strictEqual \} from 'assert'/, assertions);
      return replaced(light, /stdColumns: typeof process\.stdout\.columns .*/, 'stdColumns: null');
    }
  },
};

const assertions = `const fail = (message) => { throw new Error(message) };
const strictEqual = (a, b, message) => Object.is(a, b) || fail(message);
const notStrictEqual = (a, b, message) => !Object.is(a, b) || fail(message)`;

/** Adder decides itself whether to use colours; the package looks at the terminal, which loads streams. */
const leanColours = {
  name: 'lean-colours',
  transform(code, id) {
    if (/picocolors\.js$/.test(id)) return replaced(code, /\(\(p\.stdout \|\| \{\}\)\.isTTY && [^)]*\)/, 'false');
  },
};

/** The tables of names are unpacked when a text is first encoded or decoded: most calls do neither. */
const leanEntities = {
  name: 'lean-entities',
  transform(code, id) {
    if (/entities[\\/]dist[\\/]encode\.js$/.test(id)) {
      const made = replaced(code, /const htmlTrie = \(\(\) => \{/, 'let htmlTrie;\nconst unpacked = (() => {');
      const later = replaced(made, /return trie;\n\}\)\(\);/, 'return trie;\n});');
      return replaced(later, /(function encodeHTMLTrieRe\([^)]*\) \{)/, '$1\n    htmlTrie ??= unpacked();');
    }
    if (/entities[\\/]dist[\\/]generated[\\/]decode-data-html\.js$/.test(id))
      return replaced(code, /(export const htmlDecodeTree =)([^;]*decodeTrieDict)/, 'let tree;\n$1 () => tree ??= $2');
    if (/entities[\\/]dist[\\/]decode\.js$/.test(id))
      return replaced(code, /const decodeTree = htmlDecodeTree;/, 'const decodeTree = htmlDecodeTree();');
    if (/htmlparser2[\\/]dist[\\/]Tokenizer\.js$/.test(id))
      return replaced(code, /xmlDecodeTree : htmlDecodeTree,/, 'xmlDecodeTree : htmlDecodeTree(),');
  },
};

/** A new version of a file that looks different must not go unnoticed. */
function replaced(code, pattern, by) {
  if (!pattern.test(code)) throw new Error(`a file has changed: ${pattern} is gone`);
  return code.replace(pattern, by);
}

/** As modules, of which what is not used can be left out; the packages hand out their other form here. */
const alias = {
  'jsonc-parser': 'jsonc-parser/lib/esm/main.js',
  yaml: join(process.cwd(), 'node_modules/yaml/browser/index.js'),
};

const cli = await rolldown({
  input: 'src/cli/bin.ts',
  platform: 'node',
  // The parser and the resolver are compiled code of their own for each system; npm installs them with Adder.
  external: [/^oxc-/],
  plugins: [lightWidth, leanYargs, leanColours, leanEntities],
  resolve: { alias },
  checks: { emptyImportMeta: false },
});
const { output } = await cli.write({
  dir: 'dist',
  format: 'cjs',
  entryFileNames: 'adder.cjs',
  chunkFileNames: '[name].cjs',
  // Compiled code that was kept cannot load modules of the other kind.
  dynamicImportInCjs: false,
  banner: ({ isEntry }) => (isEntry ? '#!/usr/bin/env node' : ''),
  minify: {
    compress: true,
    mangle: { keepNames: { function: true, class: true } },
    codegen: { removeWhitespace: true },
  },
});

markBuild(output.map(inAscii));

/** Texts of one byte a character are read and compiled faster. Strings, templates and expressions may have any character as an escape. */
function inAscii({ fileName, code }) {
  if (/String\.raw`[^`]*[^\0-\x7f]/.test(code)) throw new Error(`${fileName} has a raw template that is not ASCII`);
  const ascii = code.replace(/[^\0-\x7f]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`);
  writeFileSync(join('dist', fileName), ascii);
  return { fileName, code: ascii };
}

/** Writes the digest of all files into the first, which keeps their compiled code by it. */
function markBuild(files) {
  const hash = createHash('sha256');
  for (const { code } of files) hash.update(code);
  const [{ fileName, code }] = files;
  writeFileSync(join('dist', fileName), replaced(code, /__BUILD__/, hash.digest('hex').slice(0, 16)));
}

/** Some of what is bundled calls `require`, which a module does not have. */
const requiring = {
  js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
};

/** Threads load nothing but what they need, and so start sooner. */
const worker = await build({
  ...common,
  minify: true,
  entryPoints: ['src/host/scan-worker.ts'],
  outfile: 'dist/scan-worker.cjs',
  format: 'cjs',
});

/** Checks code beside the main thread. It finds its own file as the program does. */
const linter = await build({
  ...common,
  alias,
  minify: true,
  external: ['oxc-parser', 'oxc-resolver'],
  entryPoints: ['src/project/lint-worker.ts'],
  outfile: 'dist/lint-worker.cjs',
  format: 'cjs',
  define: { 'import.meta.dirname': '__dirname', 'import.meta.url': '__filename' },
});

const core = await build({
  ...common,
  alias,
  external: ['oxc-parser', 'oxc-resolver'],
  entryPoints: ['src/core/index.ts'],
  outfile: 'dist/core.js',
  format: 'esm',
  banner: requiring,
});

const plugins = await build({
  ...common,
  alias,
  external: ['oxc-parser', 'oxc-resolver', 'unplugin'],
  entryPoints: ['vite', 'rollup', 'rolldown', 'webpack', 'rspack', 'esbuild', 'values'].map(
    (name) => `src/plugin/${name}.ts`,
  ),
  outdir: 'dist/plugin',
  format: 'esm',
  splitting: true,
  banner: requiring,
});

for (const template of ['ferries', 'adopt', 'lint', 'promote', 'mobile', 'ship', 'serve'])
  cpSync(`src/demo/${template}`, `dist/demo/${template}`, { recursive: true });
/** Readable, as all of the demo is; what it packs with is in it. */
const packer = await build({
  ...common,
  entryPoints: ['src/demo/mobile/tool/pack.mjs'],
  outfile: 'dist/demo/mobile/tool/pack.mjs',
  allowOverwrite: true,
  format: 'esm',
  banner: requiring,
});
cpSync('dist/demo/mobile/tool/pack.mjs', 'dist/demo/ship/tool/pack.mjs');
await writeSchema();
writeLicences([
  ...output.flatMap(({ modules = {} }) => Object.keys(modules)),
  ...Object.keys(worker.metafile.inputs),
  ...Object.keys(linter.metafile.inputs),
  ...Object.keys(core.metafile.inputs),
  ...Object.keys(plugins.metafile.inputs),
  ...Object.keys(packer.metafile.inputs),
]);
writeTypes();

async function writeSchema() {
  const { contractJsonSchema, receiptJsonSchema, reportJsonSchema } = await load('scripts/report-schema.ts');
  writeFileSync('dist/schema/contract.json', `${JSON.stringify(contractJsonSchema(), null, 2)}\n`);
  writeFileSync('dist/schema/receipt.json', `${JSON.stringify(receiptJsonSchema(), null, 2)}\n`);
  writeFileSync('dist/schema/report.json', `${JSON.stringify(reportJsonSchema(), null, 2)}\n`);
}

function writeTypes() {
  const { status } = spawnSync('node_modules/.bin/tsc', ['-p', 'tsconfig.types.json'], { stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}

/** @param {string[]} modules paths of everything that was bundled */
function writeLicences(modules) {
  const packages = new Set(
    modules.map((path) => /^(.*node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(path)?.[1]).filter(Boolean),
  );
  const texts = [...packages].sort().map((folder) => {
    const { name, version, license } = JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8'));
    const file = readdirSync(folder).find((one) => /^licen[cs]e/i.test(one));
    const text = file && existsSync(join(folder, file)) ? readFileSync(join(folder, file), 'utf8') : `${license}\n`;
    return `${name} ${version}\n\n${text.trim()}\n`;
  });
  writeFileSync('dist/THIRD-PARTY-LICENSES.txt', texts.join(`\n${'-'.repeat(80)}\n\n`));
}
