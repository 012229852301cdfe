import { readOutput } from './settings.js';
import { httpMethods, modeFiles, type Toolchain, viteCache, viteSets, viteStarts, viteWay } from './toolchain.js';

export const sveltekit: Toolchain = {
  name: 'sveltekit',
  detect: { packages: ['@sveltejs/kit'], config: /^svelte\.config\.[cm]?[jt]s$/, needsPackage: true },
  runs: 'browser',
  code: ['src'],
  serverCode: ['src/lib/server'],
  aliases: { $lib: 'lib' },
  bundlesStarted: viteStarts,
  entries: {
    pattern: /(^|\/)(\+(page|layout|error)\.(svelte|[jt]s)|hooks\.client\.[jt]s|service-worker(\/index)?\.[jt]s)$/,
  },
  rendersOnServer: true,
  reads: [
    { from: '$env/static/public', prefix: 'PUBLIC_', side: 'any', time: 'build', inlinesObject: true },
    { from: '$env/dynamic/public', prefix: 'PUBLIC_', side: 'any', time: 'run' },
    { from: '$env/static/private', prefix: '', side: 'server', time: 'build' },
    { from: '$env/dynamic/private', prefix: '', side: 'server', time: 'run' },
    viteWay('VITE_'),
  ],
  envFiles: { names: modeFiles },
  copies: ['static'],
  // Without an adapter for this machine, only the intermediate directory exists.
  output: ['.svelte-kit/output/{client,prerendered}'],
  outputBy: [
    { when: '@sveltejs/adapter-static', output: ['build'] },
    { when: '@sveltejs/adapter-node', output: ['build/{client,prerendered}'] },
  ],
  server: { notWith: ['@sveltejs/adapter-static'], routes: /(^|\/)\+(server|page\.server)\.[jt]s$/ },
  startedIn: { property: 'env', file: '_app/env.js' },
  sets: viteSets,
  caches: ['.svelte-kit/generated', '.svelte-kit/output/server', viteCache],
  settings: { keys: { outDir: readOutput } },
  plugin: 'adder/vite',
  handlers: ['load', ...httpMethods],
};
