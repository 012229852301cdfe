import { modeFiles, type Toolchain, viteCache, viteOff, viteSets, viteWay } from './toolchain.js';

export const vite: Toolchain = {
  name: 'vite',
  detect: { packages: ['vite'], config: /^vite\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src', 'index.html'],
  entries: 'usual names',
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles, turnOff: viteOff },
  productionBuild: 'run `vite build` without `--mode development`, and with NODE_ENV unset or `production`',
  copies: ['public'],
  output: ['dist'],
  sets: viteSets,
  caches: [viteCache],
};
