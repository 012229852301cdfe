import { readMode } from './settings.js';
import { httpMethods, modeFiles, type Toolchain, viteCache, viteSets, viteStarts, viteWay } from './toolchain.js';
import { viteKeys } from './vite.js';

export const astro: Toolchain = {
  name: 'astro',
  detect: { packages: ['astro'], config: /^astro\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  bundlesStarted: viteStarts,
  entries: { extension: '.astro' },
  rendersOnServer: true,
  reads: [
    viteWay('PUBLIC_'),
    { from: 'astro:env/client', prefix: '', side: 'any', time: 'build' },
    { from: 'astro:env/server', prefix: '', side: 'server', time: 'run', lookup: 'getSecret' },
  ],
  envFiles: { names: modeFiles },
  copies: ['public'],
  output: ['dist'],
  outputBy: [{ when: 'server', output: ['dist/client'] }],
  serverOutput: ['dist/server'],
  server: {
    onlyIn: ['server', 'hybrid'],
    alsoWith: ['@astrojs/node', '@astrojs/netlify', '@astrojs/vercel', '@astrojs/cloudflare', '@deno/astro-adapter'],
    routes: /(^|\/)pages\/.*\.[cm]?[jt]s$/,
  },
  sets: [...viteSets, 'SITE', 'ASSETS_PREFIX'],
  caches: ['.astro', 'node_modules/.astro', viteCache],
  settings: { ...viteKeys, keys: { ...viteKeys.keys, output: readMode } },
  plugin: 'adder/vite',
  handlers: httpMethods,
  programs: { astro: { dev: ['dev'], serve: ['preview'] } },
};
