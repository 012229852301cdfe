import { importMetaEnv, processEnv, type Toolchain } from './toolchain.js';

/** Any tool that Adder does not know by name. */
export const other: Toolchain = {
  name: 'other',
  detect: { packages: [] },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [processEnv, importMetaEnv].map((way) => ({ ...way, forms: ['optional'] })),
  output: ['dist'],
};
