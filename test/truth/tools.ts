import { plugin } from '../support/bundlers.js';
import { type Dialect, values, variables } from './program.js';

/** A bundler whose builds tell what happens to reads. */
export interface Tool extends Dialect {
  name: string;
  /** Statements of the module that builds: imports, and a function `build(entry, folder)`. */
  build: string;
  /** The configuration that Adder reads, which the build uses. */
  config: string;
}

const publicNames = [variables.read, variables.other, variables.unread];

const defined = `define: { ${publicNames
  .map((name) => `'process.env.${name}': JSON.stringify(process.env.${name})`)
  .join(', ')} }`;

const webpackLike = `
const build = (entry, folder) => new Promise((resolve, reject) => {
  const compiler = bundler({ mode: 'production', devtool: false, optimization: { minimize: false }, target: 'web', entry: '../' + entry, context: import.meta.dirname + '/src',
    experiments: { outputModule: true, topLevelAwait: true }, output: { path: import.meta.dirname + '/' + folder, filename: 'main.js', chunkFilename: '[id].js', module: true, chunkFormat: 'module', library: { type: 'module' } },
    plugins: config.plugins });
  compiler.run((error, stats) => {
    if (error) return reject(error);
    const { errors, warnings } = stats.toJson({ all: false, errors: true, warnings: true });
    for (const { message } of warnings) console.error('warning: ' + message);
    compiler.close(() => (errors.length > 0 ? reject(new Error(errors.map(({ message }) => message).join('\\n'))) : resolve()));
  });
});`;

const rollupLike = (options: string) => `
async function build(entry, folder) {
  const bundle = await bundler({ ${options}, input: entry, onwarn: ({ message }) => console.error('warning: ' + message) });
  await bundle.write({ dir: folder, entryFileNames: 'main.js', format: 'esm' });
}`;

export const tools: readonly Tool[] = [
  {
    name: 'vite',
    meta: 'import.meta',
    prefix: 'VITE_',
    compiles: true,
    starts: { worker: 'bundled', serviceWorker: 'copied', address: 'copied' },
    config: 'export default {};',
    build: `import { build as bundle } from 'vite';
const warn = (text) => console.error('warning: ' + text);
const logger = { info() {}, warn, warnOnce: warn, error() {}, clearScreen() {}, hasErrorLogged: () => false, hasWarned: false };
const build = (entry, folder) => bundle({ customLogger: logger, configFile: false, base: './', plugins: config.plugins,
  build: { minify: false, modulePreload: false, target: 'esnext', outDir: folder, rollupOptions: { input: entry, output: { entryFileNames: 'main.js', dir: folder } } } });`,
  },
  {
    name: 'esbuild',
    meta: 'process',
    prefix: '',
    compiles: true,
    config: `export default { ${defined} };`,
    build: `import { build as bundle } from 'esbuild';
const build = async (entry, folder) => {
  const { warnings } = await bundle({ ...config, logLevel: 'silent', entryPoints: [entry], outdir: folder, entryNames: 'main', bundle: true, format: 'esm', splitting: true });
  for (const { text } of warnings) console.error('warning: ' + text);
};`,
  },
  {
    name: 'rolldown',
    meta: 'process',
    prefix: '',
    compiles: true,
    config: `export default { transform: { ${defined} } };`,
    build: `import { rolldown as bundler } from 'rolldown';${rollupLike('...config')}`,
  },
  {
    name: 'rollup',
    meta: 'process',
    prefix: '',
    compiles: false,
    resolvesPackages: false,
    replacesText: true,
    config: `import replace from '@rollup/plugin-replace';
export default { plugins: [replace({ preventAssignment: true, values: { ${publicNames
      .map((name) => `'process.env.${name}': JSON.stringify(process.env.${name})`)
      .join(', ')} } })] };`,
    build: `import { rollup as bundler } from 'rollup';${rollupLike('...config')}`,
  },
  {
    name: 'webpack',
    meta: 'process',
    prefix: '',
    compiles: false,
    starts: { worker: 'bundled', serviceWorker: 'bundled', address: 'copied' },
    config: `import webpack from 'webpack';
export default { plugins: [new webpack.EnvironmentPlugin(${JSON.stringify(publicNames)})] };`,
    build: `import bundler from 'webpack';${webpackLike}`,
  },
  {
    name: 'rspack',
    meta: 'process',
    prefix: '',
    compiles: false,
    starts: { worker: 'bundled', serviceWorker: 'bundled', address: 'copied' },
    config: `import { rspack } from '@rspack/core';
export default { plugins: [new rspack.EnvironmentPlugin(${JSON.stringify(publicNames)})] };`,
    build: `import { rspack as bundler } from '@rspack/core';${webpackLike}`,
  },
];

/**
 * A module that builds one program after the other, so that one that is refused ends no other. Writes the errors and warnings of
 * each.
 */
export function builder({ name, build }: Tool): string {
  return `import { readFileSync, writeFileSync } from 'node:fs';
const { programs, into, folder, isBare } = JSON.parse(readFileSync(process.argv[2], 'utf8'));
import given from './${name}.config.js';
const config = isBare ? {} : given;
${build}
const said = {};
console.error = console.warn = (text) => { current.warnings.push(String(text)); };
let current;
for (const [id, entry] of programs) {
  said[id] = current = { warnings: [] };
  try {
    await build(entry, folder + '/' + id);
  } catch (error) {
    current.error = error.message;
  }
}
writeFileSync(into, JSON.stringify(said));
`;
}

/** A configuration with the plugin, which reads like its package in a project. */
export function pluggedConfig({ name }: Tool): string {
  return `import adder from ${JSON.stringify(plugin(name))}; // "adder/${name}"\nexport default { plugins: [adder()] };\n`;
}

/** The values as the code's object has them. */
export function environmentOf({ prefix }: Dialect): Record<string, string> {
  return Object.fromEntries(publicNames.map((name) => [`${prefix}${name}`, values[name as keyof typeof values]]));
}

/** Values under the names that a misspelt one and one without its prefix stand for. */
export function rightNames({ prefix }: Dialect): Record<string, string> {
  return { [`${prefix}${variables.typo}`]: values.FERRY_API_URL, [variables.bare]: values.FERRY_API_URL };
}
