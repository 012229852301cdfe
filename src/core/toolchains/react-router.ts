import { modeFiles, type Toolchain, viteCache, viteOff, viteSets, viteStarts, viteWay } from './toolchain.js';

export const reactRouter: Toolchain = {
  name: 'react-router',
  detect: { packages: ['@react-router/dev', '@remix-run/dev'], config: /^react-router\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['app'],
  bundlesStarted: viteStarts,
  entries: 'every file',
  rendersOnServer: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles, turnOff: viteOff },
  copies: ['public'],
  output: ['build/client'],
  server: {},
  sets: viteSets,
  caches: ['.react-router', viteCache],
  settings: { keys: {} },
  plugin: 'adder/vite',
  handlers: ['loader', 'action'],
  programs: { 'react-router': { dev: ['dev'], serve: [] }, 'react-router-serve': { dev: [], serve: ['*'] } },
};
