import { readDefine, readEntry, readOutput, readOutputFile, readPlatform } from './settings.js';
import { defineOption, importMetaEnv, processEnv, type Toolchain } from './toolchain.js';

export const esbuild: Toolchain = {
  name: 'esbuild',
  detect: { packages: ['esbuild'], config: /^esbuild\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  lacksProcess: true,
  reads: [processEnv, importMetaEnv],
  listName: defineOption,
  productionBuild: 'add `\'--define:process.env.NODE_ENV="production"\'` and `--minify` to the call of esbuild',
  options: { program: /\besbuild\b/, folder: ['--outdir'], file: ['--outfile'], platform: ['--platform'] },
  output: ['dist'],
  settings: {
    keys: {
      entryPoints: readEntry,
      outdir: readOutput,
      outfile: readOutputFile,
      platform: readPlatform,
      define: readDefine,
    },
  },
  plugin: 'adder/esbuild',
};
