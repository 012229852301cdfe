import type { Dialect } from './program.js';

/** A framework whose build tells what happens to reads in code for browsers. */
export interface Framework extends Dialect {
  /** The project of the field suite that the programs go into. */
  name: string;
  toolchain: string;
  /** True if its modules may not wait at their top. */
  isWithoutAwait?: true;
  /** Directory of the programs. */
  folder: string;
  output: readonly string[];
  /** Files of the project that start the programs in the browser, with `$` for the module that does. */
  starts: Readonly<Record<string, string>>;
  /** Files that make the build take every program. */
  configures?: Readonly<Record<string, string>>;
  /** Directory of the built site. */
  site?: string;
  /** Arguments of Node.js that start the built server, which takes `PORT`. */
  server?: readonly string[];
}

const vite = { meta: 'import.meta', prefix: 'VITE_', compiles: true } as const;

/** A hook of React that runs after the page is there, and only in the browser. */
const effect = "useEffect(() => { import('$').then(({ run }) => run()); }, []);";

export const frameworks: readonly Framework[] = [
  {
    name: 'next-app',
    toolchain: 'next',
    meta: 'process',
    prefix: 'NEXT_PUBLIC_',
    compiles: true,
    folder: 'app/truth',
    output: ['.next'],
    starts: {
      'app/page.tsx': `'use client';\nimport { useEffect } from 'react';\nexport default function Home() {\n  ${effect.replace('$', './truth/run')}\n  return <p>Ferries</p>;\n}\n`,
    },
    configures: { 'next.config.ts': 'export default { typescript: { ignoreBuildErrors: true } };\n' },
    server: ['node_modules/next/dist/bin/next', 'start'],
  },
  {
    name: 'next-pages',
    toolchain: 'next',
    meta: 'process',
    prefix: 'NEXT_PUBLIC_',
    compiles: true,
    folder: 'src/truth',
    output: ['.next'],
    starts: {
      'src/pages/index.tsx': `import { useEffect } from 'react';\nexport default function Home() {\n  ${effect.replace('$', '../truth/run')}\n  return <p>Ferries</p>;\n}\n`,
    },
    configures: { 'next.config.ts': 'export default { typescript: { ignoreBuildErrors: true } };\n' },
    server: ['node_modules/next/dist/bin/next', 'start'],
  },
  {
    ...vite,
    name: 'nuxt',
    toolchain: 'nuxt',
    hasMarkup: false,
    folder: 'app/truth',
    output: ['.output/public'],
    starts: {
      'app/plugins/truth.client.ts':
        "export default defineNuxtPlugin(() => { import('../truth/run').then(({ run }) => run()); });\n",
    },
    configures: {
      'nuxt.config.ts':
        "export default defineNuxtConfig({ compatibilityDate: '2025-07-15', vite: { build: { target: 'esnext' } } });\n",
    },
    server: ['.output/server/index.mjs'],
  },
  {
    ...vite,
    name: 'sveltekit-static',
    toolchain: 'sveltekit',
    hasMarkup: false,
    folder: 'src/truth',
    output: ['build'],
    starts: {
      'src/routes/+page.svelte':
        "<script lang=\"ts\">\n  import { onMount } from 'svelte';\n  onMount(() => { import('../truth/run').then(({ run }) => run()); });\n</script>\n<p>Ferries</p>\n",
    },
    site: 'build',
  },
  {
    ...vite,
    name: 'astro',
    toolchain: 'astro',
    prefix: 'PUBLIC_',
    hasMarkup: false,
    folder: 'src/truth',
    output: ['dist'],
    starts: {
      'src/pages/index.astro':
        '---\n---\n<html lang="en"><body><p>Ferries</p>\n<script>\n  import(\'../truth/run\').then(({ run }) => run());\n</script>\n</body></html>\n',
    },
    configures: {
      'astro.config.mjs':
        "import { defineConfig } from 'astro/config';\n\nexport default defineConfig({ vite: { build: { target: 'esnext' } } });\n",
    },
    site: 'dist',
  },
  {
    name: 'gatsby',
    toolchain: 'gatsby',
    meta: 'process',
    prefix: 'GATSBY_',
    compiles: true,
    isWithoutAwait: true,
    folder: 'src/truth',
    output: ['public'],
    starts: {
      'gatsby-browser.js':
        "export const onInitialClientRender = () => { import('./src/truth/run').then(({ run }) => run()); };\n",
    },
    site: 'public',
  },
  {
    ...vite,
    name: 'react-router',
    toolchain: 'react-router',
    folder: 'app/truth',
    output: ['build/client'],
    starts: {
      'app/routes/home.tsx': `import { useEffect } from 'react';\nexport default function Home() {\n  ${effect.replace('$', '../truth/run')}\n  return <p>Ferries</p>;\n}\n`,
      'react-router.config.ts': 'export default { ssr: false };\n',
    },
    site: 'build/client',
  },
  {
    name: 'rsbuild',
    toolchain: 'rsbuild',
    meta: 'import.meta',
    prefix: 'PUBLIC_',
    compiles: true,
    folder: 'src/truth',
    output: ['dist'],
    starts: { 'src/index.js': "import('./truth/run').then(({ run }) => run());\n" },
    configures: {
      'rsbuild.config.mjs':
        "import { defineConfig } from '@rsbuild/core';\n\nexport default defineConfig({ html: { template: './page.html' }, output: { overrideBrowserslist: ['chrome >= 120'] } });\n",
    },
    site: 'dist',
  },
  {
    ...vite,
    name: 'vitepress',
    toolchain: 'vitepress',
    hasMarkup: false,
    folder: 'docs/.vitepress/theme/truth',
    output: ['docs/.vitepress/dist'],
    starts: {
      'docs/.vitepress/theme/index.js':
        "import DefaultTheme from 'vitepress/theme';\n\nexport default { extends: DefaultTheme, enhanceApp() { if (typeof window !== 'undefined') import('./truth/run').then(({ run }) => run()); } };\n",
      'docs/.vitepress/config.mjs': "export default { title: 'Ferries', vite: { build: { target: 'esnext' } } };\n",
    },
    site: 'docs/.vitepress/dist',
  },
  {
    ...vite,
    name: 'electron-vite',
    toolchain: 'electron-vite',
    prefix: 'RENDERER_VITE_',
    folder: 'src/renderer/src/truth',
    output: ['out/renderer'],
    starts: { 'src/renderer/src/main.ts': "import('./truth/run').then(({ run }) => run());\n" },
    site: 'out/renderer',
  },
  {
    ...vite,
    name: 'tanstack-start',
    toolchain: 'tanstack-start',
    folder: 'src/truth',
    output: ['dist/client'],
    starts: {
      'src/routes/index.tsx': `import { useEffect } from 'react';\nimport { createFileRoute } from '@tanstack/react-router';\nexport const Route = createFileRoute('/')({ component: Home });\nfunction Home() {\n  ${effect.replace('$', '../truth/run')}\n  return <p>Ferries</p>;\n}\n`,
      'vite.config.ts':
        "import { defineConfig } from 'vite';\nimport { tanstackStart } from '@tanstack/react-start/plugin/vite';\nimport react from '@vitejs/plugin-react';\n\nexport default defineConfig({ plugins: [tanstackStart({ spa: { enabled: true, prerender: { outputPath: '/index.html' } } }), react()] });\n",
    },
    site: 'dist/client',
  },
];
