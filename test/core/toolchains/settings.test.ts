import { expect, test } from 'vitest';
import { angularApplications } from '../../../src/core/toolchains/angular-workspace.js';
import { buildSettings } from '../../../src/core/toolchains/index.js';
import type { BuildSettings } from '../../../src/core/toolchains/settings.js';
import { inlinedNames } from '../../../src/project/tool-configs.js';

test.each<[text: string, found: Partial<Record<keyof BuildSettings, unknown>>]>([
  ["export default { envPrefix: 'APP_', build: { outDir: 'www' } }", { prefixes: ['APP_'], output: 'www' }],
  [
    "export default defineConfig({ envPrefix: ['A_', `B_`], root: './client' })",
    { prefixes: ['A_', 'B_'], root: './client' },
  ],
  ["const p = 'X_'; const config = { envPrefix: p }; export default config", { prefixes: ['X_'] }],
  ['export default { envPrefix: prefix() }', { unknown: ['envPrefix'] }],
  ['export default ({ mode }) => ({ build: { outDir: mode } })', { unknown: ['the output directory'] }],
  [
    "module.exports = { entry: './src/a.js', output: { path: path.resolve(__dirname, 'public/js') } }",
    { entries: ['src/a.js'], output: 'public/js' },
  ],
  ["module.exports = { output: { path: __dirname + '/out' } }", { output: 'out' }],
  ['export default { output: { path: `${import.meta.dirname}/out` } }', { output: 'out' }],
  ["export default { output: { path: fileURLToPath(new URL('./out', import.meta.url)) } }", { output: 'out' }],
  ["module.exports = { output: { path: process.env.OUT || 'out' } }", { output: 'out' }],
  ["module.exports = { output: { path: x ? 'a' : 'b' } }", { unknown: ['the output directory'] }],
  ["module.exports = { entry: { a: './a.js', b: ['./b.js'] } }", { entries: ['a.js', 'b.js'] }],
  [
    "module.exports = { env: { API_URL: 'x', 'B': y }, output: 'export' }",
    { inlined: ['API_URL', 'B'], mode: 'export' },
  ],
  [
    "module.exports = { plugins: [new webpack.EnvironmentPlugin(['A', 'B']), new EnvironmentPlugin({ C: null })] }",
    { inlined: ['A', 'B', 'C'] },
  ],
  ["module.exports = { plugins: [new DefinePlugin({ 'process.env.A': x, __B__: y })] }", { inlined: ['A'] }],
  ["module.exports = { plugins: [new DefinePlugin({ 'process.env': { A: 1 } })] }", { inlined: ['A'] }],
  ['export default { define: { ...values } }', { unknown: ['define'] }],
  ["export default { define: { 'process.env': process.env } }", { unknown: ['define'] }],
  [
    "export default defineNuxtConfig({ runtimeConfig: { key: '', public: { apiBase: '', map: { style: '' } } } })",
    { runtimeKeys: ['key', 'public.apiBase', 'public.map.style'] },
  ],
  [
    "import adapter from '@sveltejs/adapter-node'; const x = require('y'); export default {}",
    { imports: ['@sveltejs/adapter-node', 'y'] },
  ],
  ['export default defineConfig(({ mode }) => ({ envPrefix: mode ? "A_" : ["B_"] }))', { prefixes: ['A_', 'B_'] }],
  ['export default {', { unknown: ['the file, which cannot be parsed'] }],
])('%s', (text, found) => expect(buildSettings('a.config.js', text)).toMatchObject(found));

/** Each value that a configuration passes to code, in short: how code reads it, and the variables in it. */
function passesOf(path: string, text: string): string[] {
  return buildSettings(path, text).passes.map(({ read, carries }) => `${read}: ${[...carries.keys()]}`);
}

test('the place of a value that a configuration passes on', () => {
  const text = 'export default { define: { __COMMIT__: JSON.stringify(process.env.COMMIT_ID) } }';
  const [pass] = buildSettings('vite.config.ts', text).passes;
  expect(text.slice(pass?.at.start, pass?.at.end)).toBe('JSON.stringify(process.env.COMMIT_ID)');
});

test.each<[path: string, text: string, renamed: Record<string, string>]>([
  [
    'next.config.js',
    'module.exports = { env: { a: process.env.API_URL, TIDES: process.env.TIDES } }',
    { a: 'API_URL' },
  ],
  ['next.config.js', "module.exports = { env: { a: process.env['A_B'] ?? 'x', b: f(process.env.C) } }", { a: 'A_B' }],
  [
    'vite.config.ts',
    "export default { define: { 'process.env.a': JSON.stringify(process.env.API_URL) } }",
    { a: 'API_URL' },
  ],
  [
    'docusaurus.config.js',
    'module.exports = { customFields: { a: process.env.B, c: { d: process.env.E } } }',
    { a: 'B' },
  ],
])('%s: %s gives values other names', (path, text, renamed) =>
  expect(buildSettings(path, text).renamed).toEqual(renamed),
);

test.each(['{ ...process.env }', 'all'])('env: %s may be any names', (value) =>
  expect(buildSettings('next.config.js', `module.exports = { env: ${value} }`).unknown).toEqual(['env']),
);

test('a list of outputs', () => {
  const targets = "[{ type: 'www', dir: './public' }, { type: 'dist' }, { type: 'docs-readme' }]";
  const text = `export const config = { outputTargets: ${targets} }`;
  expect(buildSettings('stencil.config.ts', text).output).toEqual(['./public', 'dist']);
});

test.each<[path: string, text: string, passes: string[]]>([
  [
    'docusaurus.config.ts',
    'export default { customFields: { quay: process.env.QUAY, ...more }, title: process.env.TITLE }',
    ['quay: QUAY', 'title: TITLE'],
  ],
  [
    'docusaurus.config.js',
    'module.exports = async () => ({ themeConfig: { search: [{ key: process.env.SEARCH_KEY }] } })',
    ['themeConfig.search.key: SEARCH_KEY'],
  ],
  ['vite.config.ts', 'export default { title: process.env.TITLE }', []],
  [
    'vite.config.ts',
    "export default defineConfig(({ mode }) => { const env = loadEnv(mode, '.', ''); return { define: { __A__: JSON.stringify(env.API_URL) } } })",
    ['__A__: API_URL'],
  ],
  ['vite.config.ts', "export default { define: { 'process.env': process.env } }", ['process.env: *']],
  [
    'webpack.config.js',
    "const d = {}; for (const n of ['A', 'B']) d[`process.env.${n}`] = JSON.stringify(process.env[n]); module.exports = { plugins: [new DefinePlugin(d)] }",
    ['process.env.A: A', 'process.env.B: B'],
  ],
  [
    'webpack.config.js',
    "const { parsed } = require('x').config(); module.exports = () => ({ plugins: [new DefinePlugin({ 'process.env': JSON.stringify(parsed) })] })",
    ['process.env: *'],
  ],
  [
    'vue.config.js',
    "module.exports = { chainWebpack: (config) => config.plugin('define').tap((args) => { args[0]['process.env'].A = JSON.stringify(process.env.B); return args }) }",
    ['process.env.A: B'],
  ],
  [
    'nuxt.config.ts',
    'export default { runtimeConfig: { a: process.env.A, public: { b: process.env.B, c: { d: process.env.D } } } }',
    ['public.b: B', 'public.c.d: D'],
  ],
  [
    'docs/.vitepress/config.mts',
    'export default { title: process.env.A, themeConfig: { nav: [{ text: process.env.B }] }, markdown: { x: process.env.C } }',
    ['title: A', 'themeConfig.nav.text: B'],
  ],
  ['config.mts', 'export default { title: process.env.A }', []],
  [
    'next.config.js',
    'module.exports = { compiler: { define: { __A__: process.env.A } }, publicRuntimeConfig: { b: process.env.B }, serverRuntimeConfig: { c: process.env.C } }',
    ['__A__: A', 'publicRuntimeConfig.b: B'],
  ],
  [
    'next.config.js',
    'const config = {}; config.env = { A: process.env.SECRET }; module.exports = config',
    ['A: SECRET'],
  ],
])('%s: %s passes values to code', (path, text, passes) => expect(passesOf(path, text)).toEqual(passes));

test.each<[text: string, names: string[] | undefined]>([
  ['module.exports = {}', []],
  ["module.exports = { plugins: [new EnvironmentPlugin(['A'])] }", ['A']],
  ["const common = require('./webpack.common'); module.exports = { ...common }", undefined],
  ['module.exports = { plugins: [new EnvFiles()] }', undefined],
  ['module.exports = { plugins: [new DefinePlugin(defines())] }', undefined],
])('names that %s inlines', (text, names) => {
  const found = inlinedNames(buildSettings('webpack.config.js', text));
  expect(found && [...found]).toEqual(names);
});

test('applications of a workspace file, with comments', () => {
  const build = {
    builder: '@angular/build:application',
    options: { browser: 'src/main.ts', define: { API_URL: "'x'" } },
    configurations: {
      production: {},
      development: { fileReplacements: [{ replace: 'src/env.ts', with: 'src/env.dev.ts' }] },
    },
    defaultConfiguration: 'production',
  };
  const serve = {
    options: { buildTarget: 'desk:build:development' },
    configurations: { production: { browserTarget: 'desk:build:production' } },
  };
  const projects = {
    desk: { projectType: 'application', root: '', architect: { build, serve } },
    old: { root: 'apps/old', targets: { build: { builder: 'x:browser', options: { outputPath: 'www/old' } } } },
    lib: { projectType: 'library', architect: { build } },
  };
  expect(angularApplications(`// made by hand\n${JSON.stringify({ projects })}`)).toEqual([
    {
      name: 'desk',
      source: 'src',
      output: 'dist/desk/browser',
      defined: ['API_URL'],
      configurations: ['production', 'development'],
      usual: 'production',
      replacements: [{ configuration: 'development', replace: 'src/env.ts', with: 'src/env.dev.ts' }],
      serves: [
        { configuration: 'production', builds: 'production' },
        { configuration: '', builds: 'development' },
      ],
    },
    {
      name: 'old',
      source: 'apps/old/src',
      output: 'www/old',
      defined: [],
      configurations: [],
      replacements: [],
      serves: [],
    },
  ]);
  expect(angularApplications('{')).toEqual([]);
});

test.each([
  [
    'astro.config.mjs',
    "export default defineConfig({ env: { schema: { API_URL: {} } }, output: 'server' })",
    { inlined: [], mode: 'server' },
  ],
  [
    'vite.config.ts',
    'export default { env: { A: 1 }, runtimeConfig: { key: 1 }, output: "static" }',
    { inlined: [], runtimeKeys: [] },
  ],
  [
    'next.config.js',
    "module.exports = { env: { A: 1 }, outDir: 'x', distDir: 'build' }",
    { inlined: ['A'], output: 'build' },
  ],
  [
    'webpack.config.js',
    "module.exports = { envPrefix: 'A_', outDir: 'x', plugins: [new EnvironmentPlugin(['A'])] }",
    { inlined: ['A'] },
  ],
])('%s has the keys of its own tool alone', (path, text, found) => {
  const settings = buildSettings(path, text);
  expect(settings).toMatchObject(found);
  expect(settings.prefixes).toBeUndefined();
});

test.each<[config: string, defined: string[]]>([
  ['export default ({ mode }) => ({ define: { __A__: JSON.stringify(mode) } });', ['__A__']],
  ['export default (env) => ({ define: { __A__: JSON.stringify(env.API_URL) } });', []],
  ['export default function config(env) { return { define: { __A__: JSON.stringify(env.API_URL) } }; }', []],
  ['export default { define: { __A__: JSON.stringify(undefined), __B__: "1" } };', ['__B__']],
])('the expressions that %s replaces, where a function gets what Vite gives', (config, defined) => {
  expect(buildSettings('vite.config.js', config).defined).toEqual(defined);
});
