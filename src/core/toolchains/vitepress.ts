import { readShippedKeys } from './settings.js';
import { modeFiles, type Toolchain, viteSets, viteStarts, viteWay } from './toolchain.js';
import { viteKeys } from './vite.js';

/**
 * The site is the directory that `vitepress build` names, most often `docs`; its env files are there too. Each page has the part
 * of the configuration that describes the site (measured with version 1).
 */
export const vitepress: Toolchain = {
  name: 'vitepress',
  detect: { packages: ['vitepress'], config: /^config\.[cm]?[jt]s$/, configIn: ['.vitepress'] },
  runs: 'browser',
  code: ['docs', '.vitepress', 'src'],
  bundlesStarted: viteStarts,
  entries: 'every file',
  rendersOnServer: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles },
  copies: ['public'],
  output: ['docs/.vitepress/dist', '.vitepress/dist'],
  sets: viteSets,
  caches: ['docs/.vitepress/cache', '.vitepress/cache'],
  settings: {
    ...viteKeys,
    exported: readShippedKeys(['title', 'titleTemplate', 'description', 'head', 'themeConfig', 'locales']),
  },
  plugin: 'adder/vite',
  programs: { vitepress: { dev: ['', 'dev'], serve: ['preview', 'serve'] } },
};
