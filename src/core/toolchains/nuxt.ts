import { type ReadSetting, readMode, readRuntimeConfig } from './settings.js';
import { packageCache, type Toolchain, viteCache, viteSets, viteStarts, viteWay } from './toolchain.js';
import { viteKeys } from './vite.js';

/** `nitro: { preset: 'static' }` chooses the host that the app is built for. */
const readPreset: ReadSetting = (found, value, parent, at) => {
  if (parent === 'nitro') readMode(found, value, parent, at);
};

export const nuxt: Toolchain = {
  name: 'nuxt',
  detect: { packages: ['nuxt'], config: /^nuxt\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['app', 'pages', 'components', 'composables', 'src', 'server'],
  serverCode: ['server'],
  bundlesStarted: viteStarts,
  entries: 'every file',
  rendersOnServer: true,
  reads: [
    viteWay('VITE_'),
    { from: 'useRuntimeConfig().public.*', prefix: 'NUXT_PUBLIC_', side: 'any', time: 'run' },
    { from: '$config.public.*', prefix: 'NUXT_PUBLIC_', side: 'any', time: 'run' },
    { from: 'useRuntimeConfig().*', prefix: 'NUXT_', side: 'server', time: 'run' },
    { from: 'process.env', prefix: '', side: 'server', time: 'run' },
  ],
  envFiles: { names: ['.env'], fillsEnvironment: true },
  copies: ['public'],
  output: ['.output/public'],
  server: {
    notIn: ['static', 'github-pages', 'gitlab-pages', 'netlify-static', 'vercel-static', 'cloudflare-pages-static'],
    notAfter: /\bnux[it]\s+(generate\b|build\b.*\s--prerender\b)/,
    routes: /(^|\/)server\/(api|routes)\//,
  },
  startedIn: { property: 'public' },
  runtimePrefix: 'NUXT_',
  sets: viteSets,
  caches: ['.nuxt', `${packageCache}/nuxt`, viteCache],
  settings: { ...viteKeys, keys: { ...viteKeys.keys, runtimeConfig: readRuntimeConfig, preset: readPreset } },
  plugin: 'adder/vite',
  handlerWrappers: ['eventHandler', 'cachedEventHandler', 'defineEventHandler', 'defineCachedEventHandler'],
  programs: {
    nuxt: { dev: ['dev'], serve: ['preview', 'start'] },
    nuxi: { dev: ['dev'], serve: ['preview', 'start'] },
  },
};
