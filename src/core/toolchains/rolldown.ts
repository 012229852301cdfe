import { rollupKeys } from './rollup.js';
import { importMetaEnv, processEnv, type Toolchain } from './toolchain.js';

export const rolldown: Toolchain = {
  name: 'rolldown',
  detect: { packages: ['rolldown'], config: /^rolldown\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [processEnv, importMetaEnv],
  productionBuild: "set `define: { 'process.env.NODE_ENV': '\"production\"' }` in the options of Rolldown",
  output: ['dist'],
  settings: rollupKeys,
  plugin: 'adder/rolldown',
};
