import { packageCache, processEnv, type Toolchain } from './toolchain.js';

export const rspack: Toolchain = {
  name: 'rspack',
  detect: { packages: ['@rspack/core', '@rspack/cli'], config: /^rspack\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [processEnv],
  inlinesListed: true,
  productionBuild: "set `mode: 'production'` in the configuration of Rspack",
  output: ['dist'],
  caches: [packageCache],
};
