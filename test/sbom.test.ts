import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Spec, Validation } from '@cyclonedx/cyclonedx-library';
import { describe, expect, test } from 'vitest';

const root = join(import.meta.dirname, '..');
const readText = (path: string) => readFileSync(join(root, path), 'utf8');

const text = readText('dist/sbom.cdx.json');
const { components } = JSON.parse(text) as { components: { name: string; version: string; group?: string }[] };
const listed = components.map(({ group, name, version }) => `${group ? `${group}/` : ''}${name} ${version}`);

describe('the bill of materials', () => {
  test('is valid CycloneDX', async () => {
    expect(await new Validation.JsonStrictValidator(Spec.Version.v1dot6).validate(text)).toBeNull();
  });

  test('lists each package once', () => {
    expect(new Set(listed).size).toBe(listed.length);
  });

  test('lists every package whose licence ships', () => {
    const licensed = readText('dist/THIRD-PARTY-LICENSES.txt')
      .split(`\n${'-'.repeat(80)}\n\n`)
      .map((one) => one.split('\n', 1)[0]);
    expect(licensed.length).toBeGreaterThan(15);
    expect(listed).toEqual(expect.arrayContaining([...new Set(licensed)]));
  });

  test.each(['yargs', 'zod', 'yaml', 'oxc-parser', '@oxc-parser/binding-win32-x64-msvc', 'webpack-virtual-modules'])(
    'lists %s, which is bundled or installed',
    (name) => {
      expect(listed.filter((one) => one.startsWith(`${name} `))).toHaveLength(1);
    },
  );

  test.each(['vitest', 'rolldown', 'typescript'])('does not list %s, which only builds or tests Adder', (name) => {
    expect(listed.filter((one) => one.startsWith(`${name} `))).toEqual([]);
  });
});
