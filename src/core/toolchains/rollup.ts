import { importMetaEnv, packageCache, processEnv, type Toolchain } from './toolchain.js';

export const rollup: Toolchain = {
  name: 'rollup',
  detect: { packages: ['rollup'], config: /^rollup\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  // Plugins that replace text see nothing but the literal read.
  reads: [processEnv, importMetaEnv].map((way) => ({ ...way, forms: [] })),
  productionBuild: 'replace `process.env.NODE_ENV` with `"production"` by a plugin of Rollup',
  output: ['dist'],
  caches: [packageCache],
};
