import { type ConfigKeys, readDefine, readEntry, readReplaced } from './settings.js';
import { importMetaEnv, packageCache, processEnv, replacedText, type Toolchain } from './toolchain.js';

/** Settings of Rollup, and of tools that are configured like it. */
export const rollupKeys: ConfigKeys = {
  keys: { input: readEntry, define: readDefine },
  calls: { replace: readReplaced },
};

export const rollup: Toolchain = {
  name: 'rollup',
  detect: { packages: ['rollup'], config: /^rollup\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  lacksProcess: true,
  // Plugins that replace text see nothing but the literal read, and the usual one not if a dot follows (measured with 6.0).
  reads: [processEnv, importMetaEnv].map((way) => ({ ...way, forms: [], leavesBeforeMember: true })),
  listName: replacedText,
  productionBuild: 'replace `process.env.NODE_ENV` with `"production"` by a plugin of Rollup',
  options: { program: /\brollup\b/, folder: ['--dir', '-d'], file: ['--file', '-o'] },
  output: ['dist'],
  caches: [packageCache],
  settings: rollupKeys,
  plugin: 'adder/rollup',
};
