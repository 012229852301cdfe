/** What is known of a build tool: the prefix that it usually exposes, and where its code reads values from. One line a tool. */
interface Toolchain {
  prefix: string;
  reads: string;
}

/** Compile-time constants of Dart, `String.fromEnvironment('NAME')`. */
export const DART_READS = 'string-from-environment';

export const toolchains: Readonly<Record<string, Toolchain>> = {
  next: { prefix: 'NEXT_PUBLIC_', reads: 'process.env' },
  nuxt: { prefix: 'NUXT_PUBLIC_', reads: 'process.env' },
  sveltekit: { prefix: 'PUBLIC_', reads: '$env/static/public' },
  astro: { prefix: 'PUBLIC_', reads: 'import.meta.env' },
  gatsby: { prefix: 'GATSBY_', reads: 'process.env' },
  angular: { prefix: '', reads: 'process.env' },
  metro: { prefix: '', reads: 'process.env' },
  vite: { prefix: 'VITE_', reads: 'import.meta.env' },
  webpack: { prefix: '', reads: 'process.env' },
  rspack: { prefix: '', reads: 'process.env' },
  parcel: { prefix: '', reads: 'process.env' },
  rollup: { prefix: '', reads: 'process.env' },
  rolldown: { prefix: '', reads: 'process.env' },
  esbuild: { prefix: '', reads: 'process.env' },
  dart: { prefix: '', reads: DART_READS },
  other: { prefix: '', reads: 'process.env' },
};
