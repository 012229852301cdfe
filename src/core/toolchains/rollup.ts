import { type ConfigKeys, readDefine, readEntry } from './settings.js';
import { importMetaEnv, packageCache, processEnv, type Toolchain } from './toolchain.js';

/** Settings of Rollup, and of tools that are configured like it. */
export const rollupKeys: ConfigKeys = { keys: { input: readEntry, define: readDefine } };

export const rollup: Toolchain = {
  name: 'rollup',
  detect: { packages: ['rollup'], config: /^rollup\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  lacksProcess: true,
  // Plugins that replace text see nothing but the literal read.
  reads: [processEnv, importMetaEnv].map((way) => ({ ...way, forms: [] })),
  productionBuild: 'replace `process.env.NODE_ENV` with `"production"` by a plugin of Rollup',
  output: ['dist'],
  caches: [packageCache],
  settings: rollupKeys,
  plugin: 'adder/rollup',
};
