import { readDefine, readEntry, readOutput } from './settings.js';
import { importMetaEnv, processEnv, type Toolchain } from './toolchain.js';

export const esbuild: Toolchain = {
  name: 'esbuild',
  detect: { packages: ['esbuild'] },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [processEnv, importMetaEnv],
  productionBuild: 'add `\'--define:process.env.NODE_ENV="production"\'` and `--minify` to the call of esbuild',
  output: ['dist'],
  settings: { keys: { entryPoints: readEntry, outdir: readOutput, define: readDefine } },
  plugin: 'adder/esbuild',
};
