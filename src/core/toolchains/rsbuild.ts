import { readDefine, readEntry, readNames, readOutput, readRoot } from './settings.js';
import { modeFiles, packageCache, type Toolchain, usualForms, webpackStarts } from './toolchain.js';

export const rsbuild: Toolchain = {
  name: 'rsbuild',
  detect: { packages: ['@rsbuild/core'], config: /^rsbuild\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  ...webpackStarts,
  reads: [
    {
      from: 'import.meta.env',
      prefix: 'PUBLIC_',
      side: 'any',
      time: 'build',
      inlinesObject: true,
      inlinesObjectAnyway: true,
      forms: [...usualForms, 'destructuring'],
    },
    { from: 'process.env', prefix: 'PUBLIC_', side: 'any', time: 'build' },
  ],
  envFiles: { names: modeFiles, fillsEnvironment: true, turnOff: ['build with `rsbuild build --no-env`'] },
  productionBuild: 'run `rsbuild build` without `--mode development`, and with NODE_ENV unset or `production`',
  copies: ['public'],
  output: ['dist'],
  sets: ['MODE', 'DEV', 'PROD', 'SSR', 'BASE_URL', 'ASSET_PREFIX'],
  caches: [packageCache],
  settings: {
    keys: {
      root: (...given) => (given[2] === 'distPath' ? readOutput : readRoot)(...given),
      distPath: (...given) => given[1].kind !== 'object' && readOutput(...given),
      ...{ entry: readEntry, define: readDefine },
    },
    calls: { DefinePlugin: readDefine, EnvironmentPlugin: readNames },
    loaders: ['loadEnv'],
  },
  programs: { rsbuild: { dev: ['', 'dev'], serve: ['preview'] } },
};
