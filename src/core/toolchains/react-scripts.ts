import { localLast, objectForms, packageCache, type Toolchain } from './toolchain.js';

export const reactScripts: Toolchain = {
  name: 'react-scripts',
  detect: { packages: ['react-scripts'] },
  runs: 'browser',
  code: ['src', 'public/index.html'],
  entries: 'usual names',
  // Its compiler rewrites an optional chain before values are put in.
  reads: [
    {
      from: 'process.env',
      prefix: 'REACT_APP_',
      side: 'any',
      time: 'build',
      inlinesObject: true,
      forms: ['brackets', ...objectForms],
      formsOfSomeVersions: ['backticks', 'destructuring', 'destructuring in parts'],
    },
  ],
  envFiles: { names: localLast, fillsEnvironment: true },
  copies: ['public'],
  output: ['build'],
  sets: ['PUBLIC_URL'],
  caches: [packageCache],
  programs: { 'react-scripts': { dev: ['start'], serve: [] } },
};
