import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { runInNewContext } from 'node:vm';
import type { TestProject } from './adder.js';

/** The built plugin of a bundler, which a project imports as `adder/NAME`. */
export const plugin = (name: string) =>
  pathToFileURL(join(import.meta.dirname, '../../dist/plugin', `${name}.js`)).href;

export interface Bundler {
  name: string;
  /** Where its code reads values. */
  object: string;
  prefix: string;
  /** Builds src/main.js into dist, with source maps; `mode`, `plugins` and `entry` are there. */
  build: string;
  imports: string;
  /** Tells whether a build for development keeps what is exported and not imported, as adder/values does with every value. */
  keepsUnused?: boolean;
}

const webpackLike = `const compiler = bundler({ mode, devtool: 'source-map', entry, target: 'web', plugins });
compiler.run((error, stats) => {
  console.log(stats?.toString({ all: false, errors: true, warnings: true }));
  if (error || stats.hasErrors()) process.exit(1);
});`;

const rollupLike = `const bundle = await bundler({ input: entry, plugins });
await bundle.write({ dir: 'dist', sourcemap: true });`;

/** Every bundler that the plugin is for. */
export const bundlers: Bundler[] = [
  {
    name: 'vite',
    object: 'import.meta.env',
    prefix: 'VITE_',
    imports: "import { build } from 'vite';",
    build:
      "await build({ mode, plugins, build: { sourcemap: true, minify: mode === 'production', rollupOptions: { input: entry } } });",
  },
  {
    name: 'rollup',
    object: 'process.env',
    prefix: '',
    imports: "import { rollup as bundler } from 'rollup';",
    build: rollupLike,
  },
  {
    name: 'rolldown',
    object: 'process.env',
    prefix: '',
    imports: "import { rolldown as bundler } from 'rolldown';",
    build: rollupLike,
  },
  {
    name: 'webpack',
    object: 'process.env',
    prefix: '',
    imports: "import bundler from 'webpack';",
    build: webpackLike,
    keepsUnused: true,
  },
  {
    name: 'rspack',
    object: 'process.env',
    prefix: '',
    imports: "import { rspack as bundler } from '@rspack/core';",
    build: webpackLike,
    keepsUnused: true,
  },
  {
    name: 'esbuild',
    object: 'process.env',
    prefix: '',
    imports: "import { build } from 'esbuild';",
    build:
      "await build({ entryPoints: [entry], bundle: true, minify: mode === 'production', sourcemap: true, outdir: 'dist', format: 'esm', plugins });",
  },
];

/** A module that builds src/main.js: `node build.mjs [MODE] [plain]`. */
export const buildScript = ({ name, imports, build }: Bundler) => `${imports}
import adder from ${JSON.stringify(plugin(name))}; // in a project: from 'adder/${name}'
const [mode = 'production', how] = process.argv.slice(2);
const plugins = how === 'plain' ? [] : [adder()];
const entry = './src/main.js';
${build}
`;

/** The built script of a project. */
export function scriptOf(at: TestProject): { name: string; text: string } {
  const [name = ''] = readdirSync(at.path('dist'), { recursive: true, encoding: 'utf8' }).filter((one) =>
    one.endsWith('.js'),
  );
  return { name, text: at.read(`dist/${name}`) };
}

/** Runs a bundle and gives what it left; without the plugin it finds the environment where its code reads it. */
export function runBundle(text: string, env?: Record<string, string>): Record<string, unknown> {
  const context: { seen?: Record<string, unknown> } = {};
  const plain = text.replace(/\bexport\s*\{[^}]*\};?/g, '');
  runInNewContext(plain, Object.assign(context, { globalThis: context }, env && { process: { env } }));
  return JSON.parse(JSON.stringify(context.seen));
}
