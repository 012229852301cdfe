import { modeFiles, type Toolchain, viteCache, viteOff, viteSets, viteStarts, viteWay } from './toolchain.js';

export const qwik: Toolchain = {
  name: 'qwik',
  detect: { packages: ['@builder.io/qwik', '@qwik.dev/core'] },
  runs: 'browser',
  code: ['src'],
  bundlesStarted: viteStarts,
  // All but the entries of servers, such as `entry.ssr.tsx`.
  entries: { pattern: /^(?!.*(^|\/)entry\.[\w.-]+$).*\.[jt]sx?$/ },
  rendersOnServer: true,
  reads: [viteWay('PUBLIC_'), viteWay('VITE_')],
  envFiles: { names: modeFiles, turnOff: viteOff },
  copies: ['public'],
  output: ['dist'],
  server: { onlyWith: ['@builder.io/qwik-city/vite', '@qwik.dev/router/vite'] },
  sets: viteSets,
  caches: [viteCache],
  plugin: 'adder/vite',
  handlers: ['onRequest'],
};
