import { type ConfigKeys, readDefine, readEntry, readEnvFolder, readOutput, readPrefix, readRoot } from './settings.js';
import { modeFiles, type Toolchain, viteCache, viteOff, viteSets, viteStarts, viteWay } from './toolchain.js';

/** Settings of Vite, which frameworks on it have as well. */
export const viteKeys: ConfigKeys = {
  keys: {
    envPrefix: readPrefix,
    envDir: readEnvFolder,
    root: readRoot,
    outDir: readOutput,
    entry: (found, value, parent) => parent !== 'lib' && found.entry(value),
    input: readEntry,
    define: readDefine,
  },
  loaders: ['loadEnv'],
  argument: ['command', 'mode', 'isSsrBuild', 'isPreview'],
};

export const vite: Toolchain = {
  name: 'vite',
  detect: { packages: ['vite'], config: /^vite\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src', 'index.html'],
  bundlesStarted: viteStarts,
  entries: 'usual names',
  lacksProcess: true,
  reads: [viteWay('VITE_')],
  envFiles: { names: modeFiles, turnOff: viteOff },
  productionBuild: 'run `vite build` without `--mode development`, and with NODE_ENV unset or `production`',
  copies: ['public'],
  options: { program: /\bvite build\b/, folder: ['--outDir'] },
  output: ['dist'],
  sets: viteSets,
  settings: viteKeys,
  plugin: 'adder/vite',
  programs: { vite: { dev: ['', 'dev', 'serve'], serve: ['preview'] } },
  caches: [viteCache],
};
