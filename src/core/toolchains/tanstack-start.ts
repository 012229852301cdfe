import { modeFiles, type Toolchain, viteCache, viteOff, viteSets, viteStarts, viteWay } from './toolchain.js';

export const tanstackStart: Toolchain = {
  name: 'tanstack-start',
  detect: { packages: ['@tanstack/react-start', '@tanstack/solid-start'] },
  runs: 'browser',
  code: ['src'],
  bundlesStarted: viteStarts,
  entries: 'every file',
  rendersOnServer: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles, turnOff: viteOff },
  copies: ['public'],
  output: ['dist/client'],
  outputBy: [{ when: 'nitro/vite', output: ['.output/public'] }],
  server: {},
  sets: viteSets,
  caches: ['.tanstack', '.nitro', viteCache],
  plugin: 'adder/vite',
};
