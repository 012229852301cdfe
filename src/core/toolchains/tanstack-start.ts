import { modeFiles, type Toolchain, viteCache, viteForms, viteOff, viteSets } from './toolchain.js';

export const tanstackStart: Toolchain = {
  name: 'tanstack-start',
  detect: { packages: ['@tanstack/react-start', '@tanstack/solid-start'] },
  runs: 'browser',
  code: ['src'],
  entries: 'every file',
  rendersOnServer: true,
  reads: [{ from: 'import.meta.env', prefix: 'VITE_', side: 'any', time: 'build', inlinesObject: true, ...viteForms }],
  envFiles: { names: modeFiles, turnOff: viteOff },
  output: ['dist/client'],
  outputBy: [{ when: 'nitro/vite', output: ['.output/public'] }],
  server: {},
  sets: viteSets,
  caches: ['.tanstack', '.nitro', viteCache],
};
