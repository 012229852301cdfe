import {
  type ConfigKeys,
  type ReadSetting,
  readDefine,
  readEntry,
  readOutput,
  readOutputFile,
  readReplaced,
} from './settings.js';
import { importMetaEnv, packageCache, processEnv, replacedText, type Toolchain } from './toolchain.js';

/** A setting of an output: plugins have options of the same names. */
function inOutput(read: ReadSetting): ReadSetting {
  return (found, value, parent, at) => parent === 'output' && read(found, value, parent, at);
}

/** Settings of Rollup, and of tools that are configured like it. */
export const rollupKeys: ConfigKeys = {
  keys: { input: readEntry, define: readDefine, dir: inOutput(readOutput), file: inOutput(readOutputFile) },
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
