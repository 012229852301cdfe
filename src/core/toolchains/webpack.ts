import { type ConfigKeys, readDefine, readEntry, readNames } from './settings.js';
import { packageCache, processEnv, type Toolchain, webpackStarts } from './toolchain.js';

/** Settings of webpack, and of tools that are configured like it. */
export const webpackKeys: ConfigKeys = {
  keys: {
    entry: readEntry,
    path: (found, value, parent) => parent === 'output' && found.output(value, 'the output directory'),
    target: (found, value, parent) => parent === '' && found.platform(value),
    define: readDefine,
  },
  calls: { DefinePlugin: readDefine, EnvironmentPlugin: readNames },
};

/** How a name is added to the configuration. @param read the expression that code has */
export function environmentPlugin(name: string, read: string): string {
  if (!read.startsWith('process.env.'))
    return `add new DefinePlugin({ '${read}': JSON.stringify(process.env.${name}) }) to its plugins`;
  return `add new EnvironmentPlugin(['${name}']) to its plugins`;
}

export const webpack: Toolchain = {
  name: 'webpack',
  detect: { packages: ['webpack'], config: /^webpack\.(config|prod|dev|common)(\.\w+)?\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  ...webpackStarts,
  lacksProcess: true,
  reads: [{ ...processEnv, formsOfSomeVersions: ['destructuring', 'destructuring in parts'] }],
  // Its plugin for the environment replaces it from 5.103 on (measured: 5.90, 5.100 do not; 5.103, 5.106, 5.109, 5.112 do).
  objectsOfSomeVersions: ['import.meta.env'],
  listName: environmentPlugin,
  settings: webpackKeys,
  plugin: 'adder/webpack',
  programs: { webpack: { dev: ['serve', '--watch'], serve: [] } },
  productionBuild: "set `mode: 'production'` in the configuration of webpack",
  options: { program: /\bwebpack\b/, folder: ['--output-path', '-o'], platform: ['--target', '-t'] },
  output: ['dist'],
  caches: [packageCache],
};
