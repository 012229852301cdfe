import { readValues } from './settings.js';
import { packageCache, type Toolchain } from './toolchain.js';

/** Documentation sites. `process.env` is left in browser code; values reach it in the configuration, all of which ships,
 * options of plugins too (measured with version 3). */
export const docusaurus: Toolchain = {
  name: 'docusaurus',
  detect: { packages: ['@docusaurus/core'], config: /^docusaurus\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'every file',
  rendersOnServer: true,
  shipsConfiguration: true,
  reads: [{ from: 'useDocusaurusContext().siteConfig.customFields.*', prefix: '', side: 'any', time: 'build' }],
  settings: { keys: { customFields: readValues } },
  copies: ['static'],
  output: ['build'],
  caches: ['.docusaurus', packageCache],
  programs: { docusaurus: { dev: ['start'], serve: ['serve'] } },
};
