import { describe, expect, test } from 'vitest';
import { commands } from '../../src/cli/commands/index.js';
import { nameIn } from '../../src/core/contract/names.js';
import { knownKeys } from '../../src/core/contract/schema.js';
import { shells } from '../../src/core/draft/packages.js';
import { lastName, skippedDirectories } from '../../src/core/files/directories.js';
import { isSource, scriptLanguage } from '../../src/core/files/languages.js';
import { mayBePrivate, privateFiles } from '../../src/core/files/private-files.js';
import { valueFileOf } from '../../src/core/files/value-files.js';
import { forms } from '../../src/core/forms/index.js';
import { table } from '../../src/core/text/table.js';
import { toolchains } from '../../src/core/toolchains/index.js';
import { realWorld } from '../../src/host/world.js';
import { contractOf } from '../support/contract.js';

const names = Object.getOwnPropertyNames(Object.prototype);

describe('names that every object has are in no table', () => {
  const contract = contractOf(
    'adder: 1\nstages: { p: { layers: [.env] } }\nbundles: { constructor: {} }\nvariables: { A: public }\nlevels: {}\n',
  );
  test.each<[string, object]>([
    ['commands', commands],
    ['knownKeys', knownKeys()],
    ['toolchains', toolchains],
    ['shells', shells],
    ['forms', forms],
    ['skippedDirectories', skippedDirectories],
    ['the environment', realWorld().env],
    ['names of a variable', contract.variables.get('A')?.names ?? {}],
    ['levels', contract.levels],
    ['any other', table({ a: 1 })],
  ])('%s', (_, entries) => {
    for (const name of names) expect((entries as Record<string, unknown>)[name], name).toBeUndefined();
  });

  test('files and bundles of such names have no special meaning', () => {
    for (const name of names) {
      expect([scriptLanguage(`a.${name}`), isSource(`a.${name}`)]).toEqual([undefined, false]);
      expect(typeof (valueFileOf(`.env.${name}`)?.stage ?? '')).toBe('string');
    }
    const [bundle, variable] = [contract.bundles.get('constructor'), contract.variables.get('A')];
    expect(nameIn(bundle ?? expect.unreachable(), variable ?? expect.unreachable())).toBe('A');
  });
});

test('the quick test of names passes every private file', () => {
  const paths = [
    'a.jks',
    'A.KEYSTORE',
    'a.p12',
    'a.pfx',
    'a.pem',
    'a.key',
    'a.p8',
    'a.pkcs8',
    'a.ppk',
    'k/id_rsa',
    'id_ed25519',
  ];
  paths.push('.htpasswd', '.npmrc', '.yarnrc', 'w/.yarnrc.yml', '.pypirc', '.netrc', '.git-credentials', '.git/HEAD');
  paths.push(
    '.svn/entries',
    '.svn/wc.db',
    '.hg/requires',
    '.idea/workspace.xml',
    '.vscode/settings.json',
    'a/.vscode/launch.json',
  );
  for (const path of paths) expect(mayBePrivate(lastName(path)), path).toBe(true);
  for (const { path, what } of privateFiles)
    expect(
      paths.some((one) => path.test(one)),
      what,
    ).toBe(true);
  expect(['app.js', 'index.html', 'app.js.map', 'keys.js'].filter(mayBePrivate)).toEqual([]);
});
