import { rollupKeys } from './rollup.js';
import { defineOption, importMetaEnv, processEnv, type Toolchain } from './toolchain.js';

export const rolldown: Toolchain = {
  name: 'rolldown',
  detect: { packages: ['rolldown'], config: /^rolldown\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  lacksProcess: true,
  // Its define option sees no parentheses and no type assertions (measured with 1.0).
  reads: [processEnv, importMetaEnv].map((way) => ({
    ...way,
    forms: ['brackets', 'backticks', 'optional', 'object in brackets', 'object in pieces', 'object in optional'],
  })),
  listName: defineOption,
  productionBuild: "set `define: { 'process.env.NODE_ENV': '\"production\"' }` in the options of Rolldown",
  options: { program: /\brolldown\b/, folder: ['--dir', '-d'], file: ['--file', '-o'], platform: ['--platform', '-p'] },
  output: ['dist'],
  settings: rollupKeys,
  plugin: 'adder/rolldown',
};
