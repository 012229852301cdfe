import { modeFiles, type Toolchain, viteCache, viteForms, viteOff, viteSets } from './toolchain.js';

export const reactRouter: Toolchain = {
  name: 'react-router',
  detect: { packages: ['@react-router/dev', '@remix-run/dev'], config: /^react-router\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['app'],
  entries: 'every file',
  rendersOnServer: true,
  reads: [{ from: 'import.meta.env', prefix: 'VITE_', side: 'any', time: 'build', inlinesObject: true, ...viteForms }],
  envFiles: { names: modeFiles, turnOff: viteOff },
  output: ['build/client'],
  server: {},
  sets: viteSets,
  caches: ['.react-router', viteCache],
};
