import { packageCache, processEnv, type Toolchain } from './toolchain.js';

export const webpack: Toolchain = {
  name: 'webpack',
  detect: { packages: ['webpack'], config: /^webpack\.(config|prod|dev|common)(\.\w+)?\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [{ ...processEnv, formsOfSomeVersions: ['destructuring'] }],
  inlinesListed: true,
  productionBuild: "set `mode: 'production'` in the configuration of webpack",
  output: ['dist'],
  caches: [packageCache],
};
