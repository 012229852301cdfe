import { DART_READS } from './read-from.js';

/** What is known of a build tool. One entry a tool. */
interface Toolchain {
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
}

const modeFiles = ['.env', '.env.local', '.env.{mode}', '.env.{mode}.local'];
const localLast = ['.env', '.env.{mode}', '.env.local', '.env.{mode}.local'];

export const toolchains: Readonly<Record<string, Toolchain>> = {
  next: { prefix: 'NEXT_PUBLIC_', reads: 'process.env', envFiles: localLast, fillsEnvironment: true },
  nuxt: {
    prefix: 'NUXT_PUBLIC_',
    reads: 'process.env',
    alsoReads: ['import.meta.env', 'useRuntimeConfig().public.*', '$config.public.*', 'useRuntimeConfig().*'],
    envFiles: ['.env'],
    fillsEnvironment: true,
  },
  sveltekit: {
    prefix: 'PUBLIC_',
    reads: '$env/static/public',
    alsoReads: ['$env/dynamic/public', 'import.meta.env'],
    inlinesObject: true,
    envFiles: modeFiles,
  },
  astro: {
    prefix: 'PUBLIC_',
    reads: 'import.meta.env',
    alsoReads: ['astro:env/client'],
    inlinesObject: true,
    envFiles: modeFiles,
  },
  gatsby: { prefix: 'GATSBY_', reads: 'process.env', envFiles: ['.env.{mode}'], fillsEnvironment: true },
  'react-scripts': { prefix: 'REACT_APP_', reads: 'process.env', envFiles: localLast, fillsEnvironment: true },
  'vue-cli': { prefix: 'VUE_APP_', reads: 'process.env', envFiles: modeFiles, fillsEnvironment: true },
  angular: { prefix: '', reads: 'process.env' },
  metro: { prefix: '', reads: 'process.env' },
  vite: { prefix: 'VITE_', reads: 'import.meta.env', inlinesObject: true, envFiles: modeFiles },
  webpack: { prefix: '', reads: 'process.env' },
  rspack: { prefix: '', reads: 'process.env' },
  parcel: { prefix: '', reads: 'process.env', envFiles: localLast, fillsEnvironment: true },
  rollup: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'] },
  rolldown: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'] },
  esbuild: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'] },
  dart: { prefix: '', reads: DART_READS },
  other: { prefix: '', reads: 'process.env', alsoReads: ['import.meta.env'] },
};
