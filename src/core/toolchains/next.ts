import { readDefine, readEnv, readMode, readNames, readOutput, readShippedAs } from './settings.js';
import { httpMethods, localLast, type Toolchain, usualForms } from './toolchain.js';

export const next: Toolchain = {
  name: 'next',
  detect: { packages: ['next'], config: /^next\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['app', 'pages', 'src', 'components'],
  serverCode: ['pages/api', 'app/api', 'src/pages/api', 'src/app/api'],
  entries: 'pages and client modules',
  rendersOnServer: true,
  reads: [
    {
      ...{ from: 'process.env', prefix: 'NEXT_PUBLIC_', side: 'any', time: 'build' },
      forms: usualForms.filter((form) => form !== 'object in optional'),
      // Turbopack follows constants and aliases, webpack does not; `process?.env` is left by Turbopack (measured with Next 16).
      formsOfSomeVersions: [
        'object in optional',
        'destructuring',
        'destructuring in parts',
        'key',
        'alias',
        'check',
        'computed',
      ],
    },
  ],
  envFiles: { names: localLast, fillsEnvironment: true },
  copies: ['public'],
  output: ['.next'],
  outputBy: [{ when: 'export', output: ['out'] }],
  server: { notIn: ['export'], routes: /(^|\/)(pages\/api\/.*|app\/(.*\/)?route)\.[cm]?[jt]sx?$/ },
  sets: ['NEXT_RUNTIME'],
  // Prerendered pages are among the server's files.
  serverOutput: [
    '.next/*',
    '.next/server/*.json',
    '.next/server/**/*.{js,map}',
    '.next/server/**/{*-manifest,*.nft,preview-props}.json',
    '.next/standalone',
    '.next/diagnostics',
    '.next/types',
  ],
  caches: ['.next/cache'],
  settings: {
    keys: {
      ...{ distDir: readOutput, output: readMode, env: readEnv, define: readDefine },
      publicRuntimeConfig: readShippedAs('publicRuntimeConfig'),
      basePath: readShippedAs('basePath'),
      assetPrefix: readShippedAs('assetPrefix'),
    },
    calls: { DefinePlugin: readDefine, EnvironmentPlugin: readNames },
  },
  handlers: ['getServerSideProps', 'getStaticProps', 'getInitialProps', ...httpMethods],
  programs: { next: { dev: ['dev'], serve: ['start'] } },
};
