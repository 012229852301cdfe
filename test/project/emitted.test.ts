import { describe, expect, test } from 'vitest';
import { module } from '../../src/core/emit/module.js';
import { types } from '../../src/core/emit/types.js';
import { toolchains } from '../../src/core/toolchains/index.js';
import { realWorld } from '../../src/host/world.js';
import { withoutEffect } from '../../src/project/ambient.js';
import { checkCode } from '../../src/project/lint.js';
import { openProject } from '../../src/project/open.js';
import { MemoryFiles } from '../support/memory-files.js';
import { inWords } from '../support/words.js';

const world = realWorld();

const contractFor = (toolchain: string) => `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: ${toolchain}, code: [src], output: [dist] } }
variables: { API_URL: { reach: public, form: url }, TIDES: { reach: public, form: flag, required: false } }
`;

function openAt(content: Record<string, string>) {
  const files = new MemoryFiles(
    Object.fromEntries(Object.entries(content).map(([path, text]) => [`/quay/${path}`, text])),
  );
  return { files, project: openProject({ ...world, files, cwd: '/quay' }) };
}

describe('an emitted module is code that lint accepts', () => {
  test.each(Object.keys(toolchains).filter((name) => name !== 'dart'))('%s', async (toolchain) => {
    const base = { 'adder.yaml': contractFor(toolchain), '.env': 'API_URL=https://api.example\n' };
    const { contract } = openAt(base).project;
    const bundle = contract.bundles.get('desk') ?? expect.unreachable();
    const text = module.emit({ contract, bundle, side: 'public', language: 'typescript', call: 'adder emit module' });
    const use = "import { API_URL, TIDES } from './values';\nconsole.log(API_URL, TIDES);\n";
    const { project } = openAt({ ...base, 'src/values.ts': text, 'src/main.ts': use });
    const { findings } = await checkCode(project, { bundles: [bundle] }, world);
    expect(findings.map(inWords).map(({ code, message }) => `${code} ${message}`)).toEqual([]);
    // A name is declared once: an export must not hide the constant that it reads.
    for (const name of ['API_URL', 'TIDES']) expect(text).toMatch(new RegExp(`export (const|\\{ \\w+ as) ${name}\\b`));
    expect(/declare const (\w+)[\s\S]*export const \1\b/.test(text)).toBe(false);
  });

  test('Dart has a kind of its own', () => {
    const { contract } = openAt({ 'adder.yaml': contractFor('dart') }).project;
    const bundle = contract.bundles.get('desk') ?? expect.unreachable();
    expect(() => module.emit({ contract, bundle, side: 'public', language: 'typescript', call: '' })).toThrow(
      'Dart code',
    );
  });
});

describe('a declaration file takes effect', () => {
  const base = { 'adder.yaml': contractFor('vite') };
  test.each<[path: string, config: Record<string, string>, because: string | undefined]>([
    ['src/env.d.ts', { 'tsconfig.json': '{ "include": ["src"] }' }, undefined],
    ['env.d.ts', { 'tsconfig.json': '{ "include": ["src"] }' }, 'tsconfig.json does not include it'],
    ['env.d.ts', { 'tsconfig.json': '{}' }, undefined],
    [
      'env.d.ts',
      {
        'tsconfig.json': '{ // comment\n "files": [], "references": [] }',
        'tsconfig.app.json': '{ "include": ["src/**/*.ts"] }',
      },
      'tsconfig.app.json and tsconfig.json do not include it',
    ],
    [
      'src/env.d.ts',
      { 'tsconfig.json': '{ "files": [] }', 'tsconfig.app.json': '{ "include": ["./src/"] }' },
      undefined,
    ],
    ['env.d.ts', { 'tsconfig.json': '{ "extends": "./.nuxt/tsconfig.json" }' }, undefined],
    ['env.d.ts', {}, undefined],
  ])('%s with %j', (path, config, because) => {
    const { files } = openAt({ ...base, ...config });
    expect(withoutEffect(files, `/quay/${path}`, '/quay')).toBe(because);
  });
});

test('declarations of a tool with several ways to read have the names of each', () => {
  const text = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: sveltekit, code: [src], prefix: [PUBLIC_, VITE_] } }
variables: { API_URL: public, VITE_MAP: { reach: public, required: false } }
`;
  const { contract } = openAt({ 'adder.yaml': text }).project;
  const bundle = contract.bundles.get('desk') ?? expect.unreachable();
  const declared = types.emit({ contract, bundle, call: '' });
  expect(/interface ImportMetaEnv \{([^}]*)\}/.exec(declared)?.[1]?.trim()).toBe('readonly VITE_MAP?: string;');
  expect(declared).not.toMatch(/strictImportMetaEnv|ProcessEnv/);
});
