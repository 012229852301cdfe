// Packages that hand out CommonJS to Node.js although they also have modules. The modules can be bundled without what is not used,
// and start faster. Tests use the same ones, so that what is tested is what ships.
import { join } from 'node:path';

const packages = join(import.meta.dirname, '../node_modules');

export const moduleForms = {
  'jsonc-parser': join(packages, 'jsonc-parser/lib/esm/main.js'),
  yaml: join(packages, 'yaml/browser/index.js'),
};
