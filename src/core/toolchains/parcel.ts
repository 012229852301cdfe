import { localLast, objectForms, processEnv, type Toolchain } from './toolchain.js';

export const parcel: Toolchain = {
  name: 'parcel',
  detect: { packages: ['parcel'] },
  runs: 'browser',
  code: ['src', 'index.html'],
  entries: 'usual names',
  reads: [
    {
      ...processEnv,
      forms: ['brackets', 'destructuring', 'destructuring in parts'],
      formsOfSomeVersions: ['backticks', ...objectForms],
    },
  ],
  envFiles: { names: localLast, fillsEnvironment: true },
  productionBuild: 'run `parcel build`, not `parcel serve` or `parcel watch`',
  options: { program: /\bparcel build\b/, folder: ['--dist-dir'] },
  output: ['dist'],
  caches: ['.parcel-cache'],
  programs: { parcel: { dev: ['', 'serve', 'watch'], serve: [] } },
};
