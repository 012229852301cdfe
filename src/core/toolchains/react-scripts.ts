import { localLast, packageCache, type Toolchain } from './toolchain.js';

export const reactScripts: Toolchain = {
  name: 'react-scripts',
  detect: { packages: ['react-scripts'] },
  runs: 'browser',
  code: ['src', 'public/index.html'],
  entries: 'usual names',
  reads: [{ from: 'process.env', prefix: 'REACT_APP_', side: 'any', time: 'build' }],
  envFiles: { names: localLast, fillsEnvironment: true },
  output: ['build'],
  sets: ['PUBLIC_URL'],
  caches: [packageCache],
};
