import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { runInNewContext } from 'node:vm';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';

/** A tool whose builds are compared with what `adder lint` says of the code. */
interface Tool {
  name: string;
  object: string;
  prefix: string;
  config: string;
  /** A module that builds `src/FORM.js` into `dist/FORM.js` for each of `forms`, with `config`. */
  build: string;
}

const address = 'https://api.saltmarsh.example/ferries';
/** The value of another public variable. */
const label = 'Harbour Desk Eleven';

const webpackLike = `const entry = Object.fromEntries(forms.map((form) => [form, './src/' + form + '.js']));
const compiler = bundler({ ...config, mode: 'production', optimization: { minimize: false }, entry, target: 'web' });
await new Promise((resolve, reject) =>
  compiler.run((error, stats) => (error || stats.hasErrors() ? reject(error ?? new Error(stats.toString())) : resolve())));`;

const defined = `define: {
  'process.env.FERRY_API_URL': JSON.stringify(process.env.FERRY_API_URL), 'process.env.QUAY_LABEL': JSON.stringify(process.env.QUAY_LABEL) }`;

const tools: Tool[] = [
  {
    name: 'vite',
    object: 'import.meta.env',
    prefix: 'VITE_',
    config: 'export default {};',
    build: `import { build } from 'vite';
for (const form of forms)
  await build({ logLevel: 'error', configLoader: 'native', build: { emptyOutDir: false, minify: false, modulePreload: false,
    rollupOptions: { input: 'src/' + form + '.js', output: { entryFileNames: form + '.js', dir: 'dist' } } } });`,
  },
  {
    name: 'webpack',
    object: 'process.env',
    prefix: '',
    config: `import webpack from 'webpack';
export default { plugins: [new webpack.EnvironmentPlugin(['FERRY_API_URL', 'QUAY_LABEL'])] };`,
    build: `import bundler from 'webpack';\n${webpackLike}`,
  },
  {
    name: 'rspack',
    object: 'process.env',
    prefix: '',
    config: `import { rspack } from '@rspack/core';
export default { plugins: [new rspack.EnvironmentPlugin(['FERRY_API_URL', 'QUAY_LABEL'])] };`,
    build: `import { rspack as bundler } from '@rspack/core';\n${webpackLike}`,
  },
  {
    name: 'esbuild',
    object: 'process.env',
    prefix: '',
    config: `export default { ${defined} };`,
    build: `import { build } from 'esbuild';
await build({ ...config, entryPoints: forms.map((form) => 'src/' + form + '.js'), outdir: 'dist', bundle: true });`,
  },
  {
    name: 'rolldown',
    object: 'process.env',
    prefix: '',
    config: `export default { transform: { ${defined} } };`,
    build: `import { rolldown } from 'rolldown';
for (const form of forms) {
  const bundle = await rolldown({ ...config, input: 'src/' + form + '.js' });
  await bundle.write({ dir: 'dist' });
}`,
  },
];

const plugin = (name: string) => pathToFileURL(join(import.meta.dirname, '../../dist/plugin', `${name}.js`)).href;

/** Vite with the Adder plugin, which reads like its package in a project. */
const withPlugin: Tool = {
  ...(tools[0] as Tool),
  config: `import adder from ${JSON.stringify(plugin('vite'))}; // "adder/vite"\nexport default { plugins: [adder()] };`,
  // The plugin refuses some forms; the others are built.
  build: (tools[0] as Tool).build.replace('await build({', 'await refusable({').concat(`
async function refusable(options) {
  try { await build(options); } catch (error) { if (!/computed name/.test(error.message)) throw error; }
}
`),
};

/** One read in each form. */
const forms: Readonly<Record<string, (object: string, name: string) => string>> = {
  member: (object, name) => `${object}.${name}`,
  optional: (object, name) => `${object}?.${name}`,
  bracket: (object, name) => `${object}['${name}']`,
  computed: (object, name) => `((key) => ${object}[key])('${name}')`,
  key: (object, name) => `(() => { const key = '${name}'; return ${object}[key]; })()`,
  destructured: (object, name) => `(() => { const { ${name} } = ${object}; return ${name}; })()`,
  renamed: (object, name) => `(() => { const { ${name}: one } = ${object}; return one; })()`,
  alias: (object, name) => `(() => { const env = ${object}; return env.${name}; })()`,
  spread: (object, name) => `({ ...${object} }).${name}`,
  template: (object, name) => `\`\${${object}.${name}}\``,
};

/** Tells whether the value is there as the script runs in a browser, and whether it came alone. */
function outcomeOf(script: string | undefined): 'alone' | 'with others' | 'not there' {
  const context: { seen?: unknown } = {};
  try {
    if (script === undefined) return 'not there';
    runInNewContext(script, Object.assign(context, { globalThis: context }));
  } catch {
    return 'not there';
  }
  if (context.seen !== address) return 'not there';
  return script.includes(label) ? 'with others' : 'alone';
}

interface Said {
  code: string;
  message: string;
  place?: { path: string };
}

/** Tells whether a finding says what the build does. One about some versions may be about another than this one. */
function fits(outcome: ReturnType<typeof outcomeOf>, all: readonly Said[]): boolean {
  const hedged = all.some(({ message }) => /\bversions?\b/.test(message));
  if (hedged) return true;
  if (outcome === 'alone') return all.length === 0;
  return all.some(({ code }) => code === (outcome === 'not there' ? 'code/unreachable-read' : 'code/whole-object'));
}

/** The plugin also replaces reads of the object that the tool leaves. */
const ofOtherObject: Tool = { ...withPlugin, object: 'process.env' };

describe.each([...tools, withPlugin, ofOtherObject])(
  '$name: $config, for $object',
  ({ name, object, prefix, config, build: make }) => {
    const entries = Object.keys(forms).map((form) => `src/${form}.js`);
    const project = new TestProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [process] } }
bundles:
  desk: { toolchain: ${name}, code: [src], output: [dist], entry: [${entries}] }
variables: { FERRY_API_URL: public, QUAY_LABEL: public }
`,
      'package.json': '{ "type": "module", "private": true }',
      [`${name}.config.js`]: config,
      'make.mjs': `import config from './${name}.config.js';\nconst forms = ${JSON.stringify(Object.keys(forms))};\n${make}\n`,
    }).withPackages();
    for (const [form, write] of Object.entries(forms))
      project.write(`src/${form}.js`, `globalThis.seen = ${write(object, `${prefix}FERRY_API_URL`)};\n`);
    const env = { FERRY_API_URL: address, QUAY_LABEL: label };

    const build = () => {
      const ran = project.adder(['with', 'production', '--', 'node', 'make.mjs'], env);
      expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    };
    const outcome = (form: string) =>
      outcomeOf(existsSync(project.path(`dist/${form}.js`)) ? project.read(`dist/${form}.js`) : undefined);
    const saidOf = (form: string, all: readonly Said[]) => all.filter(({ place }) => place?.path === `src/${form}.js`);
    const lint = (...args: string[]): Said[] =>
      project
        .json(['lint', ...args], env)
        .report.findings.filter(({ code }: Said) => /^code\/(unreachable-read|whole-object)$/.test(code));

    test('what lint says of each form of a read is what the build makes of it', () => {
      build();
      const all = lint();
      const wrong = Object.keys(forms).flatMap((form) => {
        const said = saidOf(form, all);
        // No build makes anything useful of a spread, whether it has an object for it or not.
        const isWhole = form === 'spread' && said.length > 0;
        const found = { form, outcome: outcome(form), said: said.map(({ message }) => message) };
        return isWhole || fits(found.outcome, said) ? [] : [found];
      });
      expect(wrong).toEqual([]);
    });

    test('what --fix changed is replaced by the value alone', () => {
      const before = Object.keys(forms).filter((form) => saidOf(form, lint()).length > 0);
      const left = lint('--fix');
      const fixed = before.filter((form) => saidOf(form, left).length === 0);
      build();
      expect(fixed.map((form) => [form, outcome(form)])).toEqual(fixed.map((form) => [form, 'alone']));
      // With the plugin, nothing needs a change.
      expect(fixed.length > 0).toBe(!config.includes('adder/vite'));
    });
  },
);

test('within adder with, the plugin has the values of a command that only its caller can run', () => {
  const project = new TestProject({
    'adder.yaml': `adder: 1
stages:
  production:
    layers: [{ command: [node, --print, "'FERRY_API_URL=' + process.env.QUAY_SOURCE"] }]
  staging:
    layers: [{ command: [node, --eval, 'process.exit(process.env.QUAY_SOURCE ? 0 : 1)'] }]
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { FERRY_API_URL: { reach: public, distinct: true, required: [production] } }
`,
    'package.json': '{ "type": "module", "private": true }',
    'vite.config.js': withPlugin.config,
    'src/a.js': 'globalThis.seen = import.meta.env.VITE_FERRY_API_URL;\n',
    'make.mjs': `const forms = ['a'];\n${withPlugin.build}\n`,
  }).withPackages();
  const ran = project.adder(['with', 'production', '--', 'node', 'make.mjs'], { QUAY_SOURCE: address });
  expect(ran.code, ran.stdout + ran.stderr).toBe(0);
  expect(outcomeOf(project.read('dist/a.js'))).toBe('alone');
});
