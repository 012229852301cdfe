import { readShippedKeys } from './settings.js';
import { objectForms, type Toolchain } from './toolchain.js';

export const gatsby: Toolchain = {
  name: 'gatsby',
  detect: { packages: ['gatsby'], config: /^gatsby-config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'every file',
  rendersOnServer: true,
  lacksProcess: true,
  // Its compiler rewrites optional chains and templates before values are put in.
  reads: [{ from: 'process.env', prefix: 'GATSBY_', side: 'any', time: 'build', forms: ['brackets', ...objectForms] }],
  envFiles: { names: ['.env.{mode}'], fillsEnvironment: true },
  copies: ['static'],
  output: ['public'],
  caches: ['.cache'],
  settings: { keys: {}, exported: readShippedKeys(['siteMetadata']) },
  queried: 'siteMetadata',
  programs: { gatsby: { dev: ['develop'], serve: ['serve'] } },
};
