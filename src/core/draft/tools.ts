import type { RunsIn } from '../contract/contract.js';
import { table } from '../text/table.js';

/** How a build tool or framework is told from a package, and where it usually puts things. */
interface Tool {
  toolchain: string;
  /** Packages whose presence tells it. */
  packages: readonly string[];
  /** The name of its configuration file. */
  config?: RegExp;
  runs: RunsIn;
  code: readonly string[];
  serverCode?: readonly string[];
}

/** In the order of who decides: a framework before the bundler that it uses. One entry a tool. */
export const tools: readonly Tool[] = [
  {
    toolchain: 'next',
    packages: ['next'],
    config: /^next\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['app', 'pages', 'src', 'components'],
    serverCode: ['pages/api', 'app/api', 'src/pages/api', 'src/app/api'],
  },
  {
    toolchain: 'nuxt',
    packages: ['nuxt'],
    config: /^nuxt\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['app', 'pages', 'components', 'composables', 'src', 'server'],
    serverCode: ['server'],
  },
  {
    toolchain: 'sveltekit',
    packages: ['@sveltejs/kit'],
    config: /^svelte\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
    serverCode: ['src/lib/server'],
  },
  {
    toolchain: 'astro',
    packages: ['astro'],
    config: /^astro\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  {
    toolchain: 'gatsby',
    packages: ['gatsby'],
    config: /^gatsby-config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  {
    toolchain: 'angular',
    packages: ['@angular/core'],
    config: /^angular\.json$/,
    runs: 'browser',
    code: ['src'],
  },
  {
    toolchain: 'metro',
    packages: ['react-native', 'expo', 'metro'],
    config: /^metro\.config\.[cm]?[jt]s$/,
    runs: 'mobile',
    code: ['src', 'app', 'App.js', 'App.tsx', 'index.js'],
  },
  {
    toolchain: 'react-scripts',
    packages: ['react-scripts'],
    runs: 'browser',
    code: ['src', 'public/index.html'],
  },
  {
    toolchain: 'vue-cli',
    packages: ['@vue/cli-service'],
    config: /^vue\.config\.[cm]?js$/,
    runs: 'browser',
    code: ['src', 'public/index.html'],
  },
  {
    toolchain: 'vite',
    packages: ['vite'],
    config: /^vite\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src', 'index.html'],
  },
  {
    toolchain: 'rspack',
    packages: ['@rspack/core', '@rspack/cli'],
    config: /^rspack\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  {
    toolchain: 'webpack',
    packages: ['webpack'],
    config: /^webpack\.(config|prod|dev|common)(\.\w+)?\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  { toolchain: 'parcel', packages: ['parcel'], runs: 'browser', code: ['src', 'index.html'] },
  {
    toolchain: 'rollup',
    packages: ['rollup'],
    config: /^rollup\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  {
    toolchain: 'rolldown',
    packages: ['rolldown'],
    config: /^rolldown\.config\.[cm]?[jt]s$/,
    runs: 'browser',
    code: ['src'],
  },
  { toolchain: 'esbuild', packages: ['esbuild'], runs: 'browser', code: ['src'] },
];

/** A package of Dart: an app where it has a `lib`. */
export const dartTool: Tool = {
  toolchain: 'dart',
  packages: [],
  runs: 'mobile',
  code: ['lib'],
};

/** Packages that only a server has. */
export const serverPackages: readonly string[] = [
  'express',
  'fastify',
  'koa',
  'hono',
  '@nestjs/core',
  'hapi',
  '@hapi/hapi',
  'polka',
];

/** Packages that put a web build into a shell on desktop or phone. */
export const shells: Readonly<Record<string, RunsIn>> = table({
  electron: 'desktop',
  '@tauri-apps/api': 'desktop',
  '@capacitor/core': 'mobile',
  cordova: 'mobile',
});
