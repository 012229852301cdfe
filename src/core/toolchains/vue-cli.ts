import { modeFiles, packageCache, type Toolchain } from './toolchain.js';
import { webpackKeys } from './webpack.js';

export const vueCli: Toolchain = {
  name: 'vue-cli',
  detect: { packages: ['@vue/cli-service'], config: /^vue\.config\.[cm]?js$/ },
  runs: 'browser',
  code: ['src', 'public/index.html'],
  entries: 'usual names',
  reads: [
    {
      from: 'process.env',
      prefix: 'VUE_APP_',
      side: 'any',
      time: 'build',
      inlinesObject: true,
      formsOfSomeVersions: ['destructuring', 'destructuring in parts'],
    },
  ],
  envFiles: { names: modeFiles, fillsEnvironment: true },
  copies: ['public'],
  output: ['dist'],
  sets: ['BASE_URL'],
  caches: [packageCache],
  settings: webpackKeys,
  plugin: 'adder/webpack',
  programs: { 'vue-cli-service': { dev: ['serve'], serve: [] } },
};
