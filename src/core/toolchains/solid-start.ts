import { modeFiles, type Toolchain, viteSets, viteStarts, viteWay } from './toolchain.js';

/** Version 1, which builds with vinxi; version 2 is a plugin of Vite, with the same names. */
export const solidStart: Toolchain = {
  name: 'solid-start',
  detect: { packages: ['@solidjs/start'] },
  runs: 'browser',
  code: ['src'],
  bundlesStarted: viteStarts,
  entries: 'every file',
  rendersOnServer: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles },
  copies: ['public'],
  output: ['.output/public'],
  server: {},
  sets: [
    ...viteSets,
    ...['SERVER_BASE_URL', 'START_ISLANDS', 'START_SSR', 'START_APP', 'START_DEV_OVERLAY'],
    // Names that vinxi sets in the code that it builds for each router.
    ...['MANIFEST', 'ROUTERS', 'ROUTER_NAME', 'ROUTER_TYPE', 'ROUTER_HANDLER', 'CWD', 'DEVTOOLS', 'SEROVAL_MODE'],
  ],
  caches: ['.vinxi'],
  plugin: 'adder/vite',
};
