import { modeFiles, type Toolchain, viteCache, viteSets, viteStarts, viteWay } from './toolchain.js';
import { viteKeys } from './vite.js';

const [main, preload, renderer] = ['src/main', 'src/preload', 'src/renderer'] as const;

/** Desktop apps of Electron: three builds, each with the prefix of its own and the one that all have. */
export const electronVite: Toolchain = {
  name: 'electron-vite',
  detect: { packages: ['electron-vite'], config: /^electron\.vite\.config\.[cm]?[jt]s$/ },
  runs: 'desktop',
  code: [renderer, main, preload],
  nodeCode: placesOf(main, preload),
  bundlesStarted: viteStarts,
  // Only the files at the top of each build are entries; the others are imported.
  entries: { pattern: /(^|\/)src\/(main|preload|renderer(\/src)?)\/[^/]+$/ },
  reads: [
    viteWay('VITE_'),
    { ...viteWay('RENDERER_VITE_'), except: placesOf(main, preload) },
    { ...viteWay('MAIN_VITE_'), except: placesOf(renderer, preload) },
    { ...viteWay('PRELOAD_VITE_'), except: placesOf(renderer, main) },
  ],
  envFiles: { names: modeFiles },
  productionBuild: 'run `electron-vite build` without `--mode development`',
  copies: ['public'],
  output: ['out'],
  sets: viteSets,
  caches: [viteCache],
  settings: viteKeys,
  plugin: 'adder/vite',
  programs: { 'electron-vite': { dev: ['', 'dev', 'serve'], serve: ['preview'] } },
};

/** Files below directories, wherever the project is. */
function placesOf(...folders: string[]): RegExp {
  return new RegExp(`^(?:(?!src/).)*(${folders.join('|')})/`);
}
