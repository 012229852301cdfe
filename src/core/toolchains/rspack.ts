import { packageCache, processEnv, type Toolchain, webpackStarts } from './toolchain.js';
import { environmentPlugin, webpackKeys } from './webpack.js';

export const rspack: Toolchain = {
  name: 'rspack',
  detect: { packages: ['@rspack/core', '@rspack/cli'], config: /^rspack\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  ...webpackStarts,
  lacksProcess: true,
  reads: [processEnv],
  listName: environmentPlugin,
  settings: webpackKeys,
  plugin: 'adder/rspack',
  programs: { rspack: { dev: ['serve', 'dev'], serve: ['preview'] } },
  productionBuild: "set `mode: 'production'` in the configuration of Rspack",
  options: { program: /\brspack\b/, folder: ['--output-path', '-o'], platform: ['--target', '-t'] },
  output: ['dist'],
  caches: [packageCache],
};
