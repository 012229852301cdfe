import { modeFiles, type Toolchain, viteCache, viteForms, viteSets, type WayToRead } from './toolchain.js';

const [main, preload, renderer] = ['src/main', 'src/preload', 'src/renderer'] as const;

/** Desktop apps of Electron: three builds, each with the prefix of its own and the one that all have. */
export const electronVite: Toolchain = {
  name: 'electron-vite',
  detect: { packages: ['electron-vite'], config: /^electron\.vite\.config\.[cm]?[jt]s$/ },
  runs: 'desktop',
  code: [renderer, main, preload],
  nodeCode: placesOf(main, preload),
  // Of each build the files at the top: the others are imported.
  entries: { pattern: /(^|\/)src\/(main|preload|renderer(\/src)?)\/[^/]+$/ },
  reads: [
    way('VITE_'),
    way('RENDERER_VITE_', placesOf(main, preload)),
    way('MAIN_VITE_', placesOf(renderer, preload)),
    way('PRELOAD_VITE_', placesOf(renderer, main)),
  ],
  envFiles: { names: modeFiles },
  productionBuild: 'run `electron-vite build` without `--mode development`',
  output: ['out'],
  sets: viteSets,
  caches: [viteCache],
};

function way(prefix: string, except?: RegExp): WayToRead {
  const usual = { from: 'import.meta.env', side: 'any', time: 'build', inlinesObject: true, ...viteForms } as const;
  return { ...usual, prefix, ...(except && { except }) };
}

/** Files below directories, wherever the project is. */
function placesOf(...folders: string[]): RegExp {
  return new RegExp(`^(?:(?!src/).)*(${folders.join('|')})/`);
}
