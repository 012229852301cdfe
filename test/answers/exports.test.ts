import { buildSync } from 'esbuild';
import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';

const values = { VITE_API: 'https://api.saltmarsh.example', VITE_HELP: 'https://help.saltmarsh.example' };
const project = (main: string, config: string) =>
  new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: esbuild, prefix: VITE_, reads: [import.meta.env], code: [src], entry: [src/main.js], output: [dist] } }
variables: { VITE_API: public, VITE_HELP: public }
`,
    '.env': Object.entries(values)
      .map(([name, value]) => `${name}=${value}\n`)
      .join(''),
    'src/main.js': main,
    'src/config.js': `export const api = import.meta.env.VITE_API;\n${config}\n`,
    'src/all.js': 'export * from "./config.js";',
  });

const mains = {
  'imports the other one': 'import { api } from "./config.js"; fetch(api);',
  'imports both': 'import { api, help } from "./config.js"; fetch(api + help);',
  'imports both through another module': 'import { api, help } from "./all.js"; fetch(api + help);',
  'imports the other one through another module': 'import { api } from "./all.js"; fetch(api);',
  'imports it under another name': 'import { api, help as h } from "./config.js"; fetch(api + h);',
  'takes all of it': 'import * as all from "./config.js"; fetch(all.api + all[location.hash]);',
  'loads it later': 'const all = await import("./config.js"); fetch(all.api + all[location.hash]);',
};

const configs = {
  'a value': 'export const help = import.meta.env.VITE_HELP;',
  'a value of a value': 'export const help = { url: import.meta.env.VITE_HELP };',
  'a function': 'export function help() { return import.meta.env.VITE_HELP; }',
  'an arrow function': 'export const help = () => import.meta.env.VITE_HELP;',
  'a value with an effect': 'export const help = fetch(import.meta.env.VITE_HELP);',
  'a value that the module uses': 'export const help = import.meta.env.VITE_HELP; fetch(help);',
};

const cases = Object.keys(mains).flatMap((main) => Object.keys(configs).map((config) => ({ main, config })));

test.each(cases)('after a build nothing is missing: the entry $main, and it is $config', ({ main, config }) => {
  const at = project(mains[main as keyof typeof mains], configs[config as keyof typeof configs]);
  const build = (define: Record<string, string>) =>
    buildSync({
      absWorkingDir: at.folder,
      entryPoints: ['src/main.js'],
      outdir: 'dist',
      bundle: true,
      minify: true,
      format: 'esm',
      define: Object.fromEntries(
        Object.entries(define).map(([name, value]) => [`import.meta.env.${name}`, JSON.stringify(value)]),
      ),
    });
  build(values);
  const missing = () => {
    const { findings } = asked(at).report;
    return findings
      .filter(({ code }: { code: string }) => code === 'stale/missing-value')
      .map((one: { variable: string }) => one.variable);
  };
  expect(missing()).toEqual([]);
  const isIn = at.read('dist/main.js').includes(values.VITE_HELP);
  // A build with another value lacks this one, if it has either.
  build({ ...values, VITE_HELP: 'https://other.saltmarsh.example' });
  expect(missing()).toEqual(isIn ? ['VITE_HELP'] : []);
});
