import { table } from '../text/table.js';
import { DART_READS } from './read-from.js';

/** What is known of a build tool. One entry a tool. */
export interface Toolchain {
  /** The prefix that it usually exposes. */
  prefix: string;
  /** Where its code reads values from; what `adder emit` writes. */
  reads: string;
  /** Other objects that it replaces too. */
  alsoReads?: readonly string[];
  /** Whether it puts the object itself in place as well, so that destructuring works and carries the whole of it along. */
  inlinesObject?: boolean;
  /** The env files that it reads by itself, the last one wins; `{mode}` is the mode of its build. */
  envFiles?: readonly string[];
  /** Whether it puts all that is in them into the environment of its build. */
  fillsEnvironment?: boolean;
  /** Where it usually writes what ships. Paths from its own folder, as all below. */
  output: readonly string[];
  /** What of that never reaches the browser. */
  serverOutput?: readonly string[];
  /** What it keeps for its next build, and what of values is left in there. */
  caches?: readonly string[];
}

const modeFiles = ['.env', '.env.local', '.env.{mode}', '.env.{mode}.local'];
const localLast = ['.env', '.env.{mode}', '.env.local', '.env.{mode}.local'];
const dist = ['dist'];
const ofPackages = 'node_modules/.cache';
const ofVite = 'node_modules/.vite';

export const toolchains: Readonly<Record<string, Toolchain>> = table({
  next: {
    prefix: 'NEXT_PUBLIC_',
    reads: 'process.env',
    envFiles: localLast,
    fillsEnvironment: true,
    output: ['.next', 'out'],
    // Pages that were rendered ahead lie among the server's files.
    serverOutput: ['.next/*', '.next/server/**/*.{js,map}', '.next/standalone', '.next/diagnostics', '.next/types'],
    caches: ['.next/cache'],
  },
  nuxt: {
    prefix: 'NUXT_PUBLIC_',
    reads: 'process.env',
    alsoReads: ['import.meta.env', 'useRuntimeConfig().public.*', '$config.public.*', 'useRuntimeConfig().*'],
    envFiles: ['.env'],
    fillsEnvironment: true,
    output: ['.output'],
    serverOutput: ['.output/server'],
    caches: ['.nuxt', `${ofPackages}/nuxt`, ofVite],
  },
  sveltekit: {
    prefix: 'PUBLIC_',
    reads: '$env/static/public',
    alsoReads: ['$env/dynamic/public', 'import.meta.env'],
    inlinesObject: true,
    envFiles: modeFiles,
    output: ['build', '.svelte-kit/output/client'],
    serverOutput: ['build/server'],
    caches: ['.svelte-kit', ofVite],
  },
  astro: {
    prefix: 'PUBLIC_',
    reads: 'import.meta.env',
    alsoReads: ['astro:env/client'],
    inlinesObject: true,
    envFiles: modeFiles,
    output: dist,
    serverOutput: ['dist/server'],
    caches: ['.astro', 'node_modules/.astro', ofVite],
  },
  gatsby: {
    prefix: 'GATSBY_',
    reads: 'process.env',
    envFiles: ['.env.{mode}'],
    fillsEnvironment: true,
    output: ['public'],
    caches: ['.cache'],
  },
  'react-scripts': {
    prefix: 'REACT_APP_',
    reads: 'process.env',
    envFiles: localLast,
    fillsEnvironment: true,
    output: ['build'],
    caches: [ofPackages],
  },
  'vue-cli': {
    prefix: 'VUE_APP_',
    reads: 'process.env',
    envFiles: modeFiles,
    fillsEnvironment: true,
    output: dist,
    caches: [ofPackages],
  },
  angular: {
    prefix: '',
    reads: 'process.env',
    output: dist,
    serverOutput: ['dist/server'],
    caches: ['.angular/cache'],
  },
  metro: { prefix: '', reads: 'process.env', output: dist, caches: ['.expo', ofPackages] },
  vite: {
    prefix: 'VITE_',
    reads: 'import.meta.env',
    inlinesObject: true,
    envFiles: modeFiles,
    output: dist,
    caches: [ofVite],
  },
  webpack: { prefix: '', reads: 'process.env', output: dist, caches: [ofPackages] },
  rspack: { prefix: '', reads: 'process.env', output: dist, caches: [ofPackages] },
  parcel: {
    prefix: '',
    reads: 'process.env',
    envFiles: localLast,
    fillsEnvironment: true,
    output: dist,
    caches: ['.parcel-cache'],
  },
  rollup: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'], output: dist, caches: [ofPackages] },
  rolldown: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'], output: dist },
  esbuild: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'], output: dist },
  dart: { prefix: '', reads: DART_READS, output: ['build'], caches: ['.dart_tool'] },
  other: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'], output: dist },
});
