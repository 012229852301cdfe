// The projects of the field suite: how each one is made, and where a read, a secret and a mistake go. Templates come from the
// npm registry; a few frameworks publish their template elsewhere, so their usual minimal layout is written here.

/** @typedef {object} FieldProject
 * @property {string} name
 * @property {string} shows the package whose version the table shows
 * @property {string} toolchain the expected toolchain of the draft
 * @property {{ package: string, directory?: string, more?: string[] } | { command: string } | { files: Record<string, string> }} make
 * @property {string} entry a file of browser code
 * @property {(name: string) => string} read an expression of browser code that reads a public variable
 * @property {string} prefix of public names in env files
 * @property {string} [use] a statement with `$` for an expression, where `console.log($)` is not possible
 * @property {[string, string]} [insert] where the statement goes in `entry`: after this text, or at the end
 * @property {string[]} [install] more packages
 * @property {string} [build] default: npm run build
 * @property {string} [page] the directory of its page, if it is not the output
 * @property {boolean} [plugin] whether its build has Adder's plugin, which \`configure\` adds
 * @property {string[]} [known] codes of what is true of every app of the framework
 * @property {boolean} [quick] runs in the pipeline too
 */

const vite = (template, entry, more = {}) => ({
  name: `vite-${template}`,
  toolchain: 'vite',
  shows: 'vite',
  make: { package: 'create-vite@9', directory: `template-${template}` },
  entry,
  prefix: 'VITE_',
  read: (name) => `import.meta.env.${name}`,
  ...more,
});

/** Fonts would be fetched from the network during the build. */
const fonts = [
  'import { Geist, Geist_Mono } from "next/font/google";',
  'const Geist = (_: unknown) => ({ variable: "sans" });\nconst Geist_Mono = Geist;',
];

/** A build of Vue and Svelte components by the loaders that their authors recommend. */
const componentsConfig = (
  tool,
) => `import { VueLoaderPlugin } from '${tool === 'webpack' ? 'vue-loader' : 'rspack-vue-loader'}';

export default {
  mode: 'production',
  entry: './src/main.ts',
  output: { path: import.meta.dirname + '/dist' },
  resolve: { extensions: ['.mjs', '.js', '.ts', '.svelte'], conditionNames: ['svelte', 'browser', 'import'] },
  module: {
    rules: [
      { test: /\\.vue$/, loader: '${tool === 'webpack' ? 'vue-loader' : 'rspack-vue-loader'}'${tool === 'rspack' ? ', options: { experimentalInlineMatchResource: true }' : ''} },
      { test: /\\.ts$/, loader: 'ts-loader', options: { transpileOnly: true, appendTsSuffixTo: [/\\.vue$/] } },
      { test: /\\.svelte$/, loader: 'svelte-loader' },
    ],
  },
  plugins: [new VueLoaderPlugin()],
};
`;

const afterScript = (tag) => [tag, '\n'];

/** @type {FieldProject[]} */
export const projects = [
  vite('react-ts', 'src/main.tsx'),
  vite('vanilla', 'src/main.js'),
  vite('vanilla-ts', 'src/main.ts'),
  vite('react', 'src/main.jsx'),
  vite('vue', 'src/App.vue', { insert: afterScript('<script setup>') }),
  vite('vue-ts', 'src/App.vue', { insert: afterScript('<script setup lang="ts">'), quick: true }),
  vite('preact', 'src/main.jsx'),
  vite('preact-ts', 'src/main.tsx'),
  vite('lit', 'src/my-element.js'),
  vite('lit-ts', 'src/my-element.ts'),
  vite('svelte', 'src/App.svelte', { insert: afterScript('<script>') }),
  vite('svelte-ts', 'src/App.svelte', {
    insert: afterScript('<script lang="ts">'),
    edit: { 'src/App.svelte': ['<script>', '<script lang="ts">'] },
  }),
  vite('solid', 'src/index.jsx'),
  vite('solid-ts', 'src/index.tsx'),
  vite('qwik', 'src/main.jsx', { toolchain: 'qwik', install: ['@builder.io/qwik@1'] }),
  vite('qwik-ts', 'src/main.tsx', { toolchain: 'qwik', install: ['@builder.io/qwik@1'] }),
  {
    name: 'create-vue',
    toolchain: 'vite',
    shows: 'vite',
    make: { command: 'create-vue@3 app --ts --router --pinia --bare' },
    entry: 'src/App.vue',
    insert: afterScript('<script setup lang="ts">'),
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'next-app',
    toolchain: 'next',
    shows: 'next',
    make: {
      command:
        'create-next-app@16 app --ts --app --no-tailwind --no-eslint --no-src-dir --use-npm --skip-install --yes --disable-git',
    },
    edit: { 'app/layout.tsx': fonts },
    entry: 'app/page.tsx',
    prefix: 'NEXT_PUBLIC_',
    insert: ['export default function Home() {', '\n'],
    read: (name) => `process.env.${name}`,
    client: { path: 'app/pier.tsx', text: "'use client';\nexport function Pier() {\n  return <p>{$}</p>;\n}\n" },
    use: '{ const pier = <Pier />; console.log(pier); }',
    imports: "import { Pier } from './pier';\n",
  },
  {
    name: 'next-pages',
    toolchain: 'next',
    shows: 'next',
    make: {
      command:
        'create-next-app@16 app --ts --no-app --no-tailwind --no-eslint --src-dir --use-npm --skip-install --yes --disable-git',
    },
    edit: { 'src/pages/index.tsx': fonts },
    entry: 'src/pages/_app.tsx',
    prefix: 'NEXT_PUBLIC_',
    insert: ['export default function App({ Component, pageProps }: AppProps) {', '\n'],
    read: (name) => `process.env.${name}`,
  },
  {
    name: 'angular',
    toolchain: 'angular',
    shows: '@angular/core',
    make: { command: '@angular/cli@21.2.24 new app --defaults --skip-install --skip-git' },
    entry: 'src/main.ts',
    prefix: '',
    read: () => 'environment.ferryApiUrl',
    imports: "import { environment } from './environments/environment';\n",
    misspells: false,
    files: {
      development: 'src/environments/environment.development.ts',
      production: 'src/environments/environment.ts',
    },
    value: (text) => `export const environment = { ferryApiUrl: '${text}' };\n`,
    workspace: {
      path: 'angular.json',
      add: (workspace) => {
        const [application] = Object.values(workspace.projects);
        application.architect.build.configurations.development.fileReplacements = [
          { replace: 'src/environments/environment.ts', with: 'src/environments/environment.development.ts' },
        ];
      },
    },
  },
  {
    name: 'nuxt',
    toolchain: 'nuxt',
    shows: 'nuxt',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'nuxt-app',
          type: 'module',
          private: true,
          scripts: { build: 'nuxt build', dev: 'nuxt dev', postinstall: 'nuxt prepare' },
        }),
        'nuxt.config.ts':
          "export default defineNuxtConfig({\n  compatibilityDate: '2025-07-15',\n  devtools: { enabled: true },\n})\n",
        'app/app.vue':
          '<script setup lang="ts">\n</script>\n\n<template>\n  <div>\n    <NuxtRouteAnnouncer />\n    <NuxtWelcome />\n  </div>\n</template>\n',
        'tsconfig.json': '{ "files": [], "references": [{ "path": "./.nuxt/tsconfig.app.json" }] }\n',
        '.gitignore': '.output\n.data\n.nuxt\n.nitro\n.cache\ndist\nnode_modules\n.env\n.env.*\n!.env.example\n',
      },
    },
    install: ['nuxt@4', 'vue', 'vue-router'],
    entry: 'app/app.vue',
    insert: afterScript('<script setup lang="ts">'),
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
  },
  ...['auto', 'static', 'node'].map((adapter) => ({
    name: `sveltekit-${adapter}`,
    toolchain: 'sveltekit',
    shows: '@sveltejs/kit',
    make: { command: 'sv@0.17 create app --template minimal --types ts --no-add-ons --no-install' },
    install: { auto: [], static: ['@sveltejs/adapter-static@3'], node: ['@sveltejs/adapter-node@5'] }[adapter],
    edit: adapter === 'auto' ? {} : { 'vite.config.ts': ['@sveltejs/adapter-auto', `@sveltejs/adapter-${adapter}`] },
    add: adapter === 'static' ? { 'src/routes/+layout.ts': 'export const prerender = true;\n' } : {},
    entry: 'src/routes/+page.svelte',
    prefix: 'PUBLIC_',
    insert: ['', ''],
    prepend: (name) =>
      `<script lang="ts">\n  import { ${name} } from '$env/static/public';\n  console.log(${name});\n</script>\n\n`,
    read: (name) => name,
  })),
  {
    name: 'astro',
    toolchain: 'astro',
    shows: 'astro',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'astro-app',
          type: 'module',
          private: true,
          scripts: { dev: 'astro dev', build: 'astro build', preview: 'astro preview' },
        }),
        'astro.config.mjs':
          "// @ts-check\nimport { defineConfig } from 'astro/config';\n\nexport default defineConfig({});\n",
        'src/pages/index.astro':
          '---\n---\n\n<html lang="en">\n  <head>\n    <meta charset="utf-8" />\n    <title>Astro</title>\n  </head>\n  <body>\n    <h1>Astro</h1>\n<script>\n</script>\n  </body>\n</html>\n',
        'tsconfig.json': '{ "extends": "astro/tsconfigs/strict" }\n',
        '.gitignore': 'dist/\n.astro/\nnode_modules/\n.env\n.env.production\n',
      },
    },
    install: ['astro@5'],
    entry: 'src/pages/index.astro',
    insert: afterScript('<script>'),
    prefix: 'PUBLIC_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'gatsby',
    toolchain: 'gatsby',
    shows: 'gatsby',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'gatsby-app', private: true, scripts: { build: 'gatsby build' } }),
        'gatsby-config.js': 'module.exports = { siteMetadata: { title: `Ferries` }, plugins: [] };\n',
        'src/pages/index.js':
          "import * as React from 'react';\n\nexport default function IndexPage() {\n  return <main>Ferries</main>;\n}\n",
        '.gitignore': 'node_modules\npublic\n.cache\n.env*\n',
      },
    },
    install: ['gatsby@5', 'react@18', 'react-dom@18'],
    scripts: false,
    entry: 'src/pages/index.js',
    insert: ['export default function IndexPage() {', '\n'],
    prefix: 'GATSBY_',
    read: (name) => `process.env.${name}`,
  },
  {
    name: 'react-router',
    toolchain: 'react-router',
    shows: 'react-router',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'rr-app',
          type: 'module',
          private: true,
          scripts: { build: 'react-router build', dev: 'react-router dev' },
        }),
        'vite.config.ts':
          "import { reactRouter } from '@react-router/dev/vite';\nimport { defineConfig } from 'vite';\n\nexport default defineConfig({ plugins: [reactRouter()] });\n",
        'react-router.config.ts':
          "import type { Config } from '@react-router/dev/config';\n\nexport default { ssr: true } satisfies Config;\n",
        'app/root.tsx':
          'import { Links, Meta, Outlet, Scripts } from \'react-router\';\n\nexport default function App() {\n  return (\n    <html lang="en">\n      <head>\n        <Meta />\n        <Links />\n      </head>\n      <body>\n        <Outlet />\n        <Scripts />\n      </body>\n    </html>\n  );\n}\n',
        'app/routes.ts':
          "import { index, type RouteConfig } from '@react-router/dev/routes';\n\nexport default [index('routes/home.tsx')] satisfies RouteConfig;\n",
        'app/routes/home.tsx': 'export default function Home() {\n  return <h1>Ferries</h1>;\n}\n',
        'tsconfig.json': '{ "compilerOptions": { "jsx": "react-jsx", "strict": true, "types": ["vite/client"] } }\n',
        '.gitignore': 'node_modules\nbuild\n.react-router\n.env*\n',
      },
    },
    install: [
      'react-router@7',
      '@react-router/dev@7',
      '@react-router/node@7',
      'react',
      'react-dom',
      'isbot',
      'vite@7',
      'typescript@5',
    ],
    entry: 'app/routes/home.tsx',
    insert: ['export default function Home() {', '\n'],
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'rspack-react-ts',
    toolchain: 'rspack',
    shows: '@rspack/core',
    make: { package: 'create-rspack@2', directory: 'template-react-ts', more: ['template-common'] },
    edit: { 'package.json': [/"workspace:\*"/g, '"*"'] },
    entry: 'src/main.tsx',
    prefix: '',
    read: (name) => `process.env.${name}`,
    configure: {
      'rspack.config.ts': ['plugins: [', "plugins: [\n    new rspack.EnvironmentPlugin(['FERRY_API_URL']),"],
    },
    quick: true,
  },
  {
    name: 'rsbuild',
    toolchain: 'rsbuild',
    shows: '@rsbuild/core',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'rsbuild-app', private: true, scripts: { build: 'rsbuild build' } }),
        'rsbuild.config.mjs':
          "import { defineConfig } from '@rsbuild/core';\n\nexport default defineConfig({ html: { template: './page.html' }, output: { sourceMap: { js: 'source-map' } } });\n",
        'page.html': '<!doctype html><div id="root"></div>\n',
        'src/index.js': "document.getElementById('root').textContent = 'Ferries';\n",
        '.gitignore': 'node_modules\ndist\n.env*\n',
      },
    },
    install: ['@rsbuild/core'],
    entry: 'src/index.js',
    prefix: 'PUBLIC_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'vitepress',
    toolchain: 'vitepress',
    shows: 'vitepress',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'guide', private: true, scripts: { build: 'vitepress build docs' } }),
        'docs/index.md': '# Ferries\n',
        'docs/.vitepress/config.mjs': "export default { title: 'Ferries' };\n",
        'docs/.vitepress/theme/index.js':
          "import DefaultTheme from 'vitepress/theme';\n\nexport default DefaultTheme;\n",
        '.gitignore': 'node_modules\ndocs/.vitepress/dist\ndocs/.vitepress/cache\n.env*\n',
      },
    },
    install: ['vitepress@1', 'vue@3'],
    entry: 'docs/.vitepress/theme/index.js',
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'wxt',
    toolchain: 'wxt',
    shows: 'wxt',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'harbour-tool', private: true, scripts: { build: 'wxt build' } }),
        'entrypoints/popup/index.html':
          '<!doctype html><div id="root"></div><script type="module" src="./main.ts"></script>\n',
        'entrypoints/popup/main.ts': "document.getElementById('root')!.textContent = 'Ferries';\n",
        'entrypoints/background.ts': "export default defineBackground(() => console.log('Ferries'));\n",
        '.gitignore': 'node_modules\n.output\n.wxt\n.env*\n',
      },
    },
    install: ['wxt'],
    entry: 'entrypoints/popup/main.ts',
    prefix: 'WXT_',
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'qwik-city',
    toolchain: 'qwik',
    shows: '@builder.io/qwik',
    make: { command: 'create-qwik@1 empty app' },
    entry: 'src/routes/index.tsx',
    prefix: 'PUBLIC_',
    insert: ['export default component$(() => {', '\n'],
    read: (name) => `import.meta.env.${name}`,
    build: 'npx vite build',
  },
  {
    name: 'tanstack-start',
    toolchain: 'tanstack-start',
    shows: '@tanstack/react-start',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'harbour-start',
          private: true,
          type: 'module',
          scripts: { dev: 'vite dev', build: 'vite build' },
        }),
        'vite.config.ts':
          "import { defineConfig } from 'vite';\nimport { tanstackStart } from '@tanstack/react-start/plugin/vite';\nimport react from '@vitejs/plugin-react';\n\nexport default defineConfig({ plugins: [tanstackStart(), react()] });\n",
        'src/router.tsx':
          "import { createRouter } from '@tanstack/react-router';\nimport { routeTree } from './routeTree.gen';\n\nexport function getRouter() {\n  return createRouter({ routeTree });\n}\n",
        'src/routes/__root.tsx':
          "import { createRootRoute, HeadContent, Outlet, Scripts } from '@tanstack/react-router';\n\nexport const Route = createRootRoute({ component: Root });\n\nfunction Root() {\n  return (\n    <html>\n      <head>\n        <HeadContent />\n      </head>\n      <body>\n        <Outlet />\n        <Scripts />\n      </body>\n    </html>\n  );\n}\n",
        'src/routes/index.tsx':
          "import { createFileRoute } from '@tanstack/react-router';\n\nexport const Route = createFileRoute('/')({ component: Home });\n\nfunction Home() {\n  return <p>Ferries</p>;\n}\n",
        '.gitignore': 'node_modules\ndist\n.tanstack\n.env*\n',
      },
    },
    install: [
      '@tanstack/react-start@1.169',
      '@tanstack/react-router@1.170',
      '@vitejs/plugin-react@6',
      'vite@8',
      'react@19',
      'react-dom@19',
    ],
    entry: 'src/routes/index.tsx',
    prefix: 'VITE_',
    insert: ['function Home() {', '\n'],
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'solid-start',
    toolchain: 'solid-start',
    shows: '@solidjs/start',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'harbour-solid',
          private: true,
          type: 'module',
          scripts: { dev: 'vinxi dev', build: 'vinxi build' },
        }),
        'app.config.ts': "import { defineConfig } from '@solidjs/start/config';\n\nexport default defineConfig({});\n",
        'src/app.tsx':
          "import { Router } from '@solidjs/router';\nimport { FileRoutes } from '@solidjs/start/router';\nimport { Suspense } from 'solid-js';\n\nexport default function App() {\n  return (\n    <Router root={(props) => <Suspense>{props.children}</Suspense>}>\n      <FileRoutes />\n    </Router>\n  );\n}\n",
        'src/entry-client.tsx':
          "// @refresh reload\nimport { mount, StartClient } from '@solidjs/start/client';\n\nmount(() => <StartClient />, document.getElementById('app')!);\n",
        'src/entry-server.tsx':
          '// @refresh reload\nimport { createHandler, StartServer } from "@solidjs/start/server";\n\nexport default createHandler(() => (\n  <StartServer\n    document={({ assets, children, scripts }) => (\n      <html lang="en">\n        <head>{assets}</head>\n        <body>\n          <div id="app">{children}</div>\n          {scripts}\n        </body>\n      </html>\n    )}\n  />\n));\n',
        'src/routes/index.tsx': 'export default function Home() {\n  return <main>Ferries</main>;\n}\n',
        '.gitignore': 'node_modules\n.output\n.vinxi\n.env*\n',
      },
    },
    // vinxi writes the path of each route's file on the build machine into the code for browsers.
    known: ['leak/build-machine'],
    install: ['@solidjs/start@1', '@solidjs/router@0.15', 'solid-js@1', 'vinxi@0.5'],
    entry: 'src/routes/index.tsx',
    prefix: 'VITE_',
    insert: ['function Home() {', '\n'],
    read: (name) => `import.meta.env.${name}`,
  },
  {
    name: 'electron-vite',
    toolchain: 'electron-vite',
    shows: 'electron-vite',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'harbour-desk',
          private: true,
          main: 'out/main/index.js',
          scripts: { dev: 'electron-vite dev', build: 'electron-vite build' },
        }),
        'electron.vite.config.ts':
          "import { defineConfig } from 'electron-vite';\n\nexport default defineConfig({ main: {}, preload: {}, renderer: {} });\n",
        'src/main/index.ts':
          "import { app, BrowserWindow } from 'electron';\n\napp.whenReady().then(() => {\n  const window = new BrowserWindow();\n  const address = process.env['ELECTRON_RENDERER_URL'];\n  if (address) window.loadURL(address);\n  else window.loadFile(`${__dirname}/../renderer/index.html`);\n});\n",
        'src/preload/index.ts': "console.log('ferries');\n",
        'src/renderer/index.html':
          '<!doctype html><div id="root"></div><script type="module" src="./src/main.ts"></script>\n',
        'src/renderer/src/main.ts': "document.getElementById('root')!.textContent = 'Ferries';\n",
        '.gitignore': 'node_modules\nout\n.env*\n',
      },
    },
    install: ['electron-vite@5', 'vite@7', 'electron@39'],
    scripts: false,
    entry: 'src/renderer/src/main.ts',
    prefix: 'RENDERER_VITE_',
    read: (name) => `import.meta.env.${name}`,
    page: 'out/renderer',
  },
  {
    name: 'webpack-react',
    toolchain: 'webpack',
    shows: 'webpack',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'webpack-app',
          private: true,
          scripts: { build: 'webpack --mode production' },
        }),
        'webpack.config.js':
          "const { EnvironmentPlugin } = require('webpack');\n\nmodule.exports = {\n  entry: './src/index.js',\n  output: { path: __dirname + '/dist' },\n  plugins: [new EnvironmentPlugin({ FERRY_API_URL: null })],\n};\n",
        'src/index.js':
          "import { createElement } from 'react';\nimport { createRoot } from 'react-dom/client';\n\ncreateRoot(document.getElementById('root')).render(createElement('p', null, 'Ferries'));\n",
        'public/index.html': '<!doctype html><div id="root"></div><script src="main.js"></script>\n',
        '.gitignore': 'node_modules\ndist\n.env*\n',
      },
    },
    install: ['webpack@5', 'webpack-cli@6', 'react', 'react-dom'],
    entry: 'src/index.js',
    prefix: '',
    read: (name) => `process.env.${name}`,
  },
  {
    name: 'stencil',
    toolchain: 'stencil',
    shows: '@stencil/core',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'pier', private: true, scripts: { build: 'stencil build' } }),
        'stencil.config.ts':
          "import type { Config } from '@stencil/core';\n\nexport const config: Config = {\n  namespace: 'pier',\n  outputTargets: [{ type: 'www', serviceWorker: null }],\n};\n",
        'tsconfig.json': JSON.stringify({
          compilerOptions: {
            ...{ jsx: 'react', jsxFactory: 'h', lib: ['dom', 'es2022'], module: 'esnext', target: 'es2022' },
            ...{ experimentalDecorators: true, moduleResolution: 'bundler' },
          },
          include: ['src'],
        }),
        'src/components/pier-ferries/pier-ferries.tsx':
          "import { Component, h } from '@stencil/core';\n\n@Component({ tag: 'pier-ferries' })\nexport class PierFerries {\n  render() {\n    return <p>Ferries</p>;\n  }\n}\n",
        'src/index.html':
          '<!doctype html>\n<html lang="en">\n<head><script type="module" src="/build/pier.esm.js"></script></head>\n<body><pier-ferries></pier-ferries></body>\n</html>\n',
        '.gitignore': 'node_modules\nwww\n.stencil\n.env*\n',
      },
    },
    install: ['@stencil/core@4'],
    entry: 'src/components/pier-ferries/pier-ferries.tsx',
    insert: ['render() {', '\n'],
    imports: "import { Env } from '@stencil/core';\n",
    prefix: '',
    read: (name) => `Env.${name}`,
    configure: {
      'stencil.config.ts': [
        "namespace: 'pier',",
        "namespace: 'pier',\n  env: { FERRY_API_URL: process.env.FERRY_API_URL },",
      ],
    },
  },
  {
    name: 'docusaurus',
    toolchain: 'docusaurus',
    shows: '@docusaurus/core',
    make: { command: 'create-docusaurus@3 app classic --typescript --skip-install' },
    // The tutorial tells where a server of one's own listens.
    known: ['stage/local-address'],
    entry: 'src/pages/index.tsx',
    insert: ['export default function Home(): ReactNode {', '\n'],
    prefix: '',
    read: (name) => `useDocusaurusContext().siteConfig.customFields?.${name}`,
    configure: {
      'docusaurus.config.ts': [
        "title: 'My Site',",
        "title: 'My Site',\n  customFields: { FERRY_API_URL: process.env.FERRY_API_URL },",
      ],
    },
  },
  ...['webpack', 'rspack'].map((tool) => ({
    name: `${tool}-components`,
    toolchain: tool,
    shows: tool === 'webpack' ? 'webpack' : '@rspack/core',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: `${tool}-components`,
          private: true,
          type: 'module',
          scripts: { build: tool === 'webpack' ? 'webpack' : 'rspack build' },
        }),
        [`${tool}.config.mjs`]: componentsConfig(tool),
        'src/main.ts': `import { mount } from 'svelte';
import { createApp } from 'vue';
import Desk from './Desk.vue';
import Pier from './Pier.svelte';
import Plain from './Plain.vue';

createApp(Desk).mount('#desk');
createApp(Plain).mount('#plain');
mount(Pier, { target: document.body });
`,
        'src/Desk.vue':
          '<template>\n  <p>{{ desk }}</p>\n</template>\n<script setup lang="ts">\nconst desk: string = \'Ferries\';\n</script>\n',
        'src/Plain.vue':
          "<template>\n  <p>{{ desk }}</p>\n</template>\n<script>\nexport default { data: () => ({ desk: 'Ferries' }) };\n</script>\n",
        'src/Pier.svelte': '<script lang="ts">\n  const pier: string = \'Pier\';\n</script>\n\n<p>{pier}</p>\n',
        'src/components.d.ts': "declare module '*.vue';\ndeclare module '*.svelte';\n",
        'tsconfig.json':
          '{ "compilerOptions": { "target": "es2022", "module": "esnext", "moduleResolution": "bundler" }, "include": ["src"] }\n',
        'dist/index.html':
          '<!doctype html><div id="desk"></div><div id="plain"></div><script src="main.js"></script>\n',
        '.gitignore': 'node_modules\ndist/main.js*\n.env*\n',
      },
    },
    install: [
      ...(tool === 'webpack'
        ? ['webpack@5', 'webpack-cli@6', 'vue-loader@17']
        : ['@rspack/core@2', '@rspack/cli@2', 'rspack-vue-loader']),
      ...['ts-loader@9', 'typescript@5', 'vue@3', 'svelte@5', 'svelte-loader@3'],
    ],
    entry: 'src/Desk.vue',
    insert: afterScript('<script setup lang="ts">'),
    prefix: '',
    plugin: true,
    read: (name) => `process.env.${name}`,
    configure: {
      [`${tool}.config.mjs`]: [
        'new VueLoaderPlugin()',
        `new VueLoaderPlugin(), (await import('adder/${tool}')).default()`,
      ],
      'src/Plain.vue': ["'Ferries'", 'process.env.FERRY_API_URL'],
      'src/Pier.svelte': ["'Pier'", 'process.env.FERRY_API_URL'],
    },
  })),
  {
    name: 'create-react-app',
    toolchain: 'react-scripts',
    shows: 'react-scripts',
    make: { package: 'cra-template-typescript@1', directory: 'template' },
    add: {
      'src/react-app-env.d.ts': '/// <reference types="react-scripts" />\n',
      'package.json': JSON.stringify({
        name: 'cra-app',
        private: true,
        scripts: { start: 'react-scripts start', build: 'react-scripts build' },
        browserslist: { production: ['>0.2%'], development: ['last 1 chrome version'] },
        eslintConfig: { extends: ['react-app'] },
      }),
      'tsconfig.json':
        '{ "compilerOptions": { "jsx": "react-jsx", "lib": ["dom", "esnext"], "skipLibCheck": true, "esModuleInterop": true, "strict": true, "module": "esnext", "moduleResolution": "node", "resolveJsonModule": true, "isolatedModules": true, "noEmit": true }, "include": ["src"] }\n',
    },
    install: [
      'react-scripts@5',
      'react@18',
      'react-dom@18',
      'web-vitals@2',
      'typescript@4',
      '@types/node@20',
      '@types/react@18',
      '@types/react-dom@18',
      '@testing-library/react@13',
      '@testing-library/jest-dom@5',
      '@types/jest@27',
      'ajv@8',
    ],
    entry: 'src/index.tsx',
    prefix: 'REACT_APP_',
    read: (name) => `process.env.${name}`,
  },
  {
    name: 'parcel',
    toolchain: 'parcel',
    shows: 'parcel',
    make: {
      files: {
        'package.json': JSON.stringify({
          name: 'parcel-app',
          private: true,
          source: 'src/index.html',
          scripts: { build: 'parcel build' },
        }),
        'src/index.html': '<!doctype html><div id="root"></div><script type="module" src="app.js"></script>\n',
        'src/app.js': "document.getElementById('root').textContent = 'Ferries';\n",
        '.gitignore': 'node_modules\ndist\n.parcel-cache\n.env*\n',
      },
    },
    install: ['parcel@2'],
    entry: 'src/app.js',
    prefix: '',
    read: (name) => `process.env.${name}`,
  },
  {
    name: 'expo',
    toolchain: 'metro',
    shows: 'expo',
    make: { package: 'expo-template-blank-typescript@54' },
    install: [],
    entry: 'App.tsx',
    prefix: 'EXPO_PUBLIC_',
    read: (name) => `process.env.${name}`,
    // Its cache does not notice changed values.
    build: 'npx expo export --platform android --no-minify --clear',
  },
  {
    name: 'react-native',
    toolchain: 'metro',
    shows: 'react-native',
    make: { package: '@react-native-community/template@0.82', directory: 'template' },
    // The framework's own command does the same.
    renames: { 'ios/_xcode.env': 'ios/.xcode.env', _bundle: '.bundle', _watchmanconfig: '.watchmanconfig' },
    entry: 'App.tsx',
    prefix: '',
    read: () => "'harbour'",
    reads: false,
    build:
      'npx react-native bundle --platform android --dev false --entry-file index.js --bundle-output dist/index.android.bundle --sourcemap-output dist/index.android.bundle.map',
    mkdir: 'dist',
  },
  {
    name: 'dart',
    toolchain: 'dart',
    // The compiler is the demo's stand-in: the real toolchain does not run everywhere.
    make: { copies: { tool: 'src/demo/mobile/tool', deckhand: 'src/demo/mobile/deckhand' } },
    install: ['yazl@3'],
    add: {
      'package.json': '{ "private": true }',
      'deckhand/lib/main.dart': "void main() {\n  print('Boarding');\n}\n",
    },
    entry: 'deckhand/lib/main.dart',
    prefix: '',
    use: 'const ferry = $;',
    read: (name) => `String.fromEnvironment('${name}')`,
    // The stand-in compiles constants only.
    leaks: false,
    build: 'node tool/mobile-build.mjs --dart-define-from-file={defines}',
  },
  {
    name: 'monorepo',
    toolchain: 'vite',
    shows: 'vite',
    make: {
      files: {
        'package.json': JSON.stringify({ name: 'quay', private: true, workspaces: ['apps/*'] }),
        ...Object.fromEntries(
          ['desk', 'kiosk'].flatMap((name) => [
            [
              `apps/${name}/package.json`,
              JSON.stringify({
                name,
                type: 'module',
                scripts: { build: 'vite build' },
                devDependencies: { vite: '8' },
              }),
            ],
            [`apps/${name}/index.html`, '<!doctype html><script type="module" src="/src/main.ts"></script>\n'],
            [`apps/${name}/src/main.ts`, `document.body.textContent = '${name}';\n`],
          ]),
        ),
        '.gitignore': 'node_modules\ndist\n',
      },
    },
    entry: 'apps/desk/src/main.ts',
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
    build: 'npm run build --workspaces',
  },
  {
    name: 'desktop-shell',
    toolchain: 'vite',
    shows: 'vite',
    make: { package: 'create-electron-vite@0.7', directory: 'template-vanilla-ts', more: ['electron'] },
    entry: 'src/main.ts',
    prefix: 'VITE_',
    read: (name) => `import.meta.env.${name}`,
    build: 'npx vite build',
    scripts: false,
  },
];
