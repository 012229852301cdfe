import { modeFiles, type Toolchain, viteCache, viteSets, viteStarts, viteWay } from './toolchain.js';
import { viteKeys } from './vite.js';

/** Browser extensions. A build for another browser than the usual one also reads its env files, such as `.env.firefox`. */
export const wxt: Toolchain = {
  name: 'wxt',
  detect: { packages: ['wxt'], config: /^wxt\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['entrypoints', 'src', 'components', 'composables', 'hooks', 'utils', 'lib'],
  bundlesStarted: viteStarts,
  entries: { pattern: /(^|\/)entrypoints\// },
  reads: [viteWay('WXT_'), viteWay('VITE_')],
  envFiles: { names: modeFiles },
  productionBuild: 'run `wxt build` without `--mode development`',
  copies: ['public'],
  output: ['.output'],
  sets: [
    ...viteSets,
    ...['BROWSER', 'MANIFEST_VERSION', 'CHROME', 'FIREFOX', 'SAFARI', 'EDGE', 'OPERA', 'COMMAND', 'ENTRYPOINT'],
  ],
  caches: ['.wxt', viteCache],
  settings: viteKeys,
  plugin: 'adder/vite',
  programs: { wxt: { dev: [''], serve: [] } },
};
