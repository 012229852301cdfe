import { modeFiles, type Toolchain, viteForms, viteSets } from './toolchain.js';

/** The site is the directory that `vitepress build` names, most often `docs`; its env files are there too. */
export const vitepress: Toolchain = {
  name: 'vitepress',
  detect: { packages: ['vitepress'] },
  runs: 'browser',
  code: ['docs', '.vitepress', 'src'],
  entries: 'every file',
  rendersOnServer: true,
  reads: [{ from: 'import.meta.env', prefix: 'VITE_', side: 'any', time: 'build', inlinesObject: true, ...viteForms }],
  envFiles: { names: [...modeFiles, ...modeFiles.map((name) => `docs/${name}`)] },
  output: ['docs/.vitepress/dist', '.vitepress/dist'],
  sets: viteSets,
  caches: ['docs/.vitepress/cache', '.vitepress/cache'],
};
