import { modeFiles, type Toolchain, viteCache } from './toolchain.js';

export const sveltekit: Toolchain = {
  name: 'sveltekit',
  detect: { packages: ['@sveltejs/kit'], config: /^svelte\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  serverCode: ['src/lib/server'],
  aliases: { $lib: 'lib' },
  entries: 'every file',
  rendersOnServer: true,
  reads: [
    { from: '$env/static/public', prefix: 'PUBLIC_', side: 'any', time: 'build', inlinesObject: true },
    { from: '$env/dynamic/public', prefix: 'PUBLIC_', side: 'any', time: 'run' },
    { from: 'import.meta.env', prefix: 'VITE_', side: 'any', time: 'build', inlinesObject: true },
  ],
  envFiles: { names: modeFiles },
  output: ['build', '.svelte-kit/output/client'],
  serverOutput: ['build/server'],
  caches: ['.svelte-kit', viteCache],
};
