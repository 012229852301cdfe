import { table } from '../text/table.js';
import { readEnv } from './settings.js';
import type { Toolchain } from './toolchain.js';

/** Where each kind of output that code is in goes. */
const folders = table({ www: 'www', dist: 'dist', 'dist-custom-elements': 'dist/components' });

/** Web components. Names that `env` of the configuration lists are members of `Env`, all of them in one object (measured with version 4). */
export const stencil: Toolchain = {
  name: 'stencil',
  detect: { packages: ['@stencil/core'], config: /^stencil\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'every file',
  reads: [{ from: 'Env', importedFrom: '@stencil/core', prefix: '', side: 'any', time: 'build' }],
  listName: (name) => `add ${name}: process.env.${name} to \`env\` in the configuration`,
  settings: { keys: { env: readEnv, outputTargets: (found, value) => found.outputs(value, folders) } },
  productionBuild: 'run `stencil build` without `--dev`',
  output: ['www'],
  caches: ['.stencil'],
  programs: { stencil: { dev: ['build --watch'], serve: ['serve'] } },
};
