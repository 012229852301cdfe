import { modeFiles, type Toolchain, viteSets, viteWay } from './toolchain.js';

/** The site is the directory that `vitepress build` names, most often `docs`; its env files are there too. */
export const vitepress: Toolchain = {
  name: 'vitepress',
  detect: { packages: ['vitepress'] },
  runs: 'browser',
  code: ['docs', '.vitepress', 'src'],
  entries: 'every file',
  rendersOnServer: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: [...modeFiles, ...modeFiles.map((name) => `docs/${name}`)] },
  copies: ['public'],
  output: ['docs/.vitepress/dist', '.vitepress/dist'],
  sets: viteSets,
  caches: ['docs/.vitepress/cache', '.vitepress/cache'],
  plugin: 'adder/vite',
  programs: { vitepress: { dev: ['', 'dev'], serve: ['preview', 'serve'] } },
};
