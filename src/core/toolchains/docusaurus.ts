import { readDefine, readShipped, readValues } from './settings.js';
import { packageCache, type Toolchain } from './toolchain.js';

/**
 * Docusaurus builds documentation sites. It leaves `process.env` in browser code. Values reach the browser in the
 * configuration, which ships as a whole, with the options of plugins (measured with version 3).
 */
export const docusaurus: Toolchain = {
  name: 'docusaurus',
  detect: { packages: ['@docusaurus/core'], config: /^docusaurus\.config\.[cm]?[jt]s$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'every file',
  rendersOnServer: true,
  reads: [{ from: 'useDocusaurusContext().siteConfig.customFields.*', prefix: '', side: 'any', time: 'build' }],
  settings: { keys: { customFields: readValues }, calls: { DefinePlugin: readDefine }, exported: readShipped },
  copies: ['static'],
  output: ['build'],
  caches: ['.docusaurus', packageCache],
  programs: { docusaurus: { dev: ['start'], serve: ['serve'] } },
};
