import { posix } from 'node:path';
import { describe, expect, test } from 'vitest';
import { type Draft, draft } from '../../../src/core/draft/draft.js';
import { guessForm } from '../../../src/core/draft/forms.js';
import { gather } from '../../../src/core/draft/gather.js';
import type { Material, Package } from '../../../src/core/draft/material.js';
import { mergedText, newIn } from '../../../src/core/draft/merge.js';
import { contractText } from '../../../src/core/draft/write.js';
import { compareStages, valueFileOf } from '../../../src/core/files/value-files.js';
import { contractOf, diagnose } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

test.each([
  ['.env', 'env'],
  ['.env.local', 'env local'],
  ['.env.production', 'env production'],
  ['config/.env.stg.local', 'env staging local'],
  ['prod.env', 'env production'],
  ['.env.harbour', 'env harbour'],
  ['.env.example', 'example'],
  ['.env.production.sample', 'example'],
  ['.env.bak', 'leftover'],
  ['.env.production.txt', 'misnamed production, meant .env.production'],
  ['.env .production', 'misnamed production, meant .env.production'],
  ['.env.js', 'misnamed, meant .env'],
  ['.evn', 'misnamed, meant .env'],
  ['web/env', 'misnamed, meant web/.env'],
  ['config/production.json', 'structured production'],
  ['config/default.yaml', 'structured'],
  ['app.config.staging.json', 'structured staging'],
  ['src/environments/environment.prod.ts', 'module production'],
  ['src/environments/environment.ts', 'module'],
  ['src/components/stage.tsx', '-'],
  ['src/production.ts', '-'],
  ['package.json', '-'],
  ['src/env.d.ts', '-'],
])('%s is %s', (path, said) => {
  const found = valueFileOf(path);
  const { kind, stage, isLocal, meant } = found ?? {};
  const words = [kind, stage, isLocal && 'local'].filter(Boolean).join(' ');
  expect(found ? words + (meant ? `, meant ${meant}` : '') : '-').toBe(said);
});

test('stages are in the order from development to production', () => {
  expect(['production', 'harbour', 'staging', 'development'].sort(compareStages)).toEqual([
    'development',
    'staging',
    'harbour',
    'production',
  ]);
});

test.each<[name: string, values: string[], form: string | undefined]>([
  ['A', [], undefined],
  ['A', ['x', '1'], undefined],
  ['A', ['true', 'false'], 'flag'],
  ['SHOW_TIDES', ['0', '1'], 'flag'],
  ['A', ['0', '1'], 'flag'],
  ['A', ['0'], 'integer'],
  ['BERTH_CODE', ['007'], undefined],
  ['PHONE', ['49301234567890'], undefined],
  ['A', ['0.5', '2'], 'number'],
  ['QUAY_PORT', ['4180'], 'port'],
  ['A', ['https://a.example', 'http://localhost:4180'], 'url'],
  ['A', ['https://a.example', 'a.example'], undefined],
  ['API_URL', ['https://a.example', 'a.example'], 'url'],
  ['API_URL', ['a.example/b'], 'url'],
  ['API_URL', ['/api'], undefined],
  ['A', ['{"a":1}', '[]'], 'json'],
  ['A', ['a@b.example'], 'email'],
  ['A', ['2026-11-24'], 'date'],
])('%s with %j is %s', (name, values, form) => expect(guessForm(name, values)?.form).toBe(form));

/** Finds relative imports, and scripts of pages, with the usual endings. */
function relativeModule(texts: Record<string, string>): Material['resolve'] {
  return (_, from, specifier) => {
    const path = posix.join(posix.dirname(from), /\.html$/.test(from) ? `./${specifier}` : specifier);
    return ['', '.ts', '.js', '/index.ts'].map((ending) => path + ending).find((one) => texts[one] !== undefined);
  };
}

function materialOf(texts: Record<string, string>, packages: Partial<Package>[] = []): Material {
  const bytes = (path: string) => (texts[path] === undefined ? undefined : Buffer.from(texts[path]));
  const exists = (path: string) => Object.keys(texts).some((one) => one === path || one.startsWith(`${path}/`));
  const material = gather(Object.keys(texts), bytes, exists, () => relativeModule(texts));
  const others = packages.map((one) => ({
    folder: '',
    name: 'desk',
    isDart: false,
    scripts: {},
    dependencies: [],
    ...one,
  }));
  return { ...material, packages: [...material.packages, ...others] };
}

describe('Storybook', () => {
  const files = {
    '.storybook/main.ts': '',
    '.storybook/preview.ts': 'f(import.meta.env.STORYBOOK_THEME)',
    'src/a.ts': '',
    '.env': 'STORYBOOK_THEME=sea\n',
  };
  const manifest = (...dependencies: string[]) =>
    JSON.stringify({
      name: 'desk',
      scripts: { build: 'tsc', 'build-storybook': 'storybook build' },
      devDependencies: Object.fromEntries(dependencies.map((name) => [name, '*'])),
    });

  test.each<[dependencies: string[], toolchain: string, prefixes: string[]]>([
    [['storybook', '@storybook/react-vite'], 'vite', ['STORYBOOK_', 'VITE_']],
    [['storybook', '@storybook/react-webpack5'], 'other', ['STORYBOOK_']],
  ])('of a package with %j and nothing else is the bundle', (dependencies, toolchain, prefixes) => {
    const { bundles, variables } = draft(materialOf({ ...files, 'package.json': manifest(...dependencies) }));
    expect(bundles).toMatchObject([
      {
        toolchain,
        prefixes,
        code: ['.storybook', 'src'],
        output: ['storybook-static'],
        build: 'npm run build-storybook',
      },
    ]);
    expect(variables).toMatchObject([{ name: 'STORYBOOK_THEME', reach: 'public' }]);
  });

  test('beside an app is a note with an entry that the contract takes', () => {
    const app = {
      ...files,
      'vite.config.ts': '',
      'package.json': manifest('vite', 'storybook', '@storybook/react-vite'),
    };
    const { bundles, undecided } = draft(materialOf(app));
    expect(bundles.map(({ code, output }) => [code, output])).toEqual([[['src'], ['dist']]]);
    const [note] = undecided.map(inWords).filter(({ message }) => message.includes('has Storybook'));
    const [, entry = ''] = /add `(.*)` to the bundles/.exec(note?.remedy ?? '') ?? [];
    const { bundles: declared } = contractOf(
      `adder: 1\nstages: { production: { layers: [.env] } }\nbundles:\n  ${entry}\nvariables: {}\n`,
    );
    expect(declared.get('storybook')?.prefixes).toEqual(['STORYBOOK_', 'VITE_']);
  });
});

describe('a package that an unknown tool builds', () => {
  const page = '<div id="root"></div><script type="module" src="./src/main.js"></script>';
  const manifest = (build: string) => JSON.stringify({ name: 'desk', scripts: { build } });
  const code = { 'src/main.js': 'fetch(import.meta.env.VITE_API_URL)', '.env': 'VITE_API_URL=https://a.example\n' };

  test.each<[what: string, files: Record<string, string>, prefixes: string[]]>([
    ['a page with a script', { 'index.html': page, 'src/main.js': 'fetch(process.env.API_URL)' }, []],
    ['a name with a public prefix in its code', code, ['VITE_']],
  ])('has a bundle to check: %s', (_, files, prefixes) => {
    const { bundles, undecided } = draft(
      materialOf({ ...files, 'package.json': manifest('tsc && KEY=made-up-secret-value quaybuild --key=x') }),
    );
    expect(bundles).toMatchObject([{ toolchain: 'other', code: ['src'], output: ['dist'], prefixes }]);
    const said = undecided.map(inWords).map(({ message, place }) => `${place?.path} ${message}`);
    expect(said).toContain(
      'package.json package.json builds with `quaybuild`, which Adder does not know, so the bundle is a guess',
    );
  });

  test.each<[what: string, files: Record<string, string>]>([
    ['a library', { 'package.json': manifest('tsc'), 'src/main.js': 'export const a = 1;' }],
    ['no build script', { 'package.json': '{ "name": "desk" }', ...code }],
    [
      'the root of a workspace',
      {
        'package.json': manifest('turbo run build'),
        'apps/a/package.json': '{}',
        'apps/a/src/main.js': code['src/main.js'],
      },
    ],
  ])('has none: %s', (_, files) => {
    const { bundles, undecided } = draft(materialOf(files));
    expect(bundles).toEqual([]);
    expect(undecided.map(inWords).filter(({ message }) => message.includes('builds with'))).toEqual([]);
  });

  test('has none, and the draft says so, if nothing shows that it is for browsers', () => {
    const { bundles, undecided } = draft(
      materialOf({ 'package.json': manifest('quaybuild build'), 'src/pages/index.js': 'export default 1;' }),
    );
    expect(bundles).toEqual([]);
    expect(undecided.map(inWords)).toMatchObject([
      {
        message: 'package.json builds with `quaybuild`, which Adder does not know, so there is no bundle for it',
        remedy: 'if it builds for browsers, add a bundle with `toolchain: other`, `code` and `output`',
        place: { path: 'package.json' },
      },
    ]);
  });
});

test.each<[toolchain: string, files: Record<string, string>, bundle: object]>([
  [
    'rsbuild',
    {
      'rsbuild.config.ts': 'export default { output: { distPath: { root: "out" } } };',
      'src/index.js': 'process.env.PUBLIC_A',
    },
    { code: ['src'], output: ['out'], prefixes: ['PUBLIC_'] },
  ],
  ['rsbuild', { 'rsbuild.config.mjs': 'export default { output: { distPath: "web" } };' }, { output: ['web'] }],
  [
    'wxt',
    { 'package.json': '{"devDependencies":{"wxt":"1"}}', 'entrypoints/background.ts': 'a' },
    { code: ['entrypoints'], output: ['.output'], prefixes: ['WXT_', 'VITE_'] },
  ],
  [
    'electron-vite',
    {
      'package.json': '{"devDependencies":{"electron-vite":"5","electron":"39","vite":"7"}}',
      'src/main/index.ts': 'a',
      'src/renderer/index.html': '<script type="module" src="/src/main.ts"></script>',
      'src/renderer/src/main.ts': 'a',
    },
    {
      runs: 'desktop',
      code: ['src/renderer', 'src/main'],
      output: ['out'],
      prefixes: ['VITE_', 'RENDERER_VITE_', 'MAIN_VITE_', 'PRELOAD_VITE_'],
    },
  ],
  [
    'qwik',
    { 'package.json': '{"devDependencies":{"@builder.io/qwik":"1","vite":"7"}}', 'src/root.tsx': 'a' },
    { code: ['src'], output: ['dist'], prefixes: ['PUBLIC_', 'VITE_'] },
  ],
  [
    'tanstack-start',
    { 'package.json': '{"dependencies":{"@tanstack/react-start":"1","vite":"7"}}', 'src/router.tsx': 'a' },
    { code: ['src'], output: ['dist/client'], prefixes: ['VITE_'] },
  ],
  [
    'tanstack-start',
    {
      'package.json': '{"dependencies":{"@tanstack/react-start":"1","vite":"7"}}',
      'vite.config.ts': "import { nitro } from 'nitro/vite';\nexport default { plugins: [nitro()] };",
      'src/router.tsx': 'a',
    },
    { output: ['.output/public'] },
  ],
  [
    'solid-start',
    { 'package.json': '{"dependencies":{"@solidjs/start":"1","vinxi":"0.5"}}', 'src/app.tsx': 'a' },
    { code: ['src'], output: ['.output/public'], prefixes: ['VITE_'] },
  ],
  [
    'vitepress',
    { 'package.json': '{"devDependencies":{"vitepress":"1"}}', 'docs/.vitepress/dist/index.html': 'a' },
    { code: ['docs'], output: ['docs/.vitepress/dist'], prefixes: ['VITE_'] },
  ],
  [
    'vitepress',
    { 'package.json': '{"devDependencies":{"vitepress":"1"}}', '.vitepress/config.ts': 'a' },
    { code: ['.vitepress'], output: ['.vitepress/dist'] },
  ],
])('%s is detected', (toolchain, files, bundle) => {
  const { bundles } = draft(materialOf({ 'package.json': '{}', ...files }));
  // The part that a server runs is a bundle of its own.
  expect(bundles.filter(({ runs }) => runs !== 'server')).toMatchObject([{ toolchain, ...bundle }]);
});

describe('names that a build without a prefix would inline', () => {
  const files = {
    'webpack.config.js': "new EnvironmentPlugin(['FARE_TOKEN', 'API_URL', 'MAP_SOURCE', 'TILES_PUBLIC_KEY'])",
    'src/index.js':
      "import './fares.js'; import '../shared/flags.js'; f(process.env.FARE_TOKEN, process.env.API_URL, process.env.MAP_SOURCE, process.env.TILES_PUBLIC_KEY)",
    'src/fares.js': 'f(process.env.SITE_TITLE)',
    'src/report.js': 'f(process.env.QUAY_GREETING)',
    'shared/flags.js': 'f(process.env.TIDE_CHART)',
    '.env': `FARE_TOKEN=abc\nAPI_URL=https://a.example\nMAP_SOURCE=q7Zr2kP9xW4vN8bT1mL6\nSITE_TITLE=Ferries\nQUAY_GREETING=ahoy\nTIDE_CHART=1\nTILES_PUBLIC_KEY=tiles\n`,
  };
  const { variables, undecided } = draft(materialOf(files, [{ dependencies: ['webpack'] }]));
  const reachOf = (name: string) => variables.find((one) => one.name === name)?.reach;

  test.each([
    ['a secret’s word in the name', 'FARE_TOKEN', 'server'],
    ['a random value', 'MAP_SOURCE', 'server'],
    ['neither', 'API_URL', 'public'],
    ['a word that says public', 'TILES_PUBLIC_KEY', 'public'],
    ['in a file that the entry loads', 'SITE_TITLE', 'public'],
    ['in a shared file that the entry loads', 'TIDE_CHART', 'public'],
    ['in a file that no entry loads', 'QUAY_GREETING', 'server'],
  ])('%s: %s is %s', (_, name, reach) => {
    expect(reachOf(name)).toBe(reach);
    expect(undecided.some(({ variable }) => variable === name)).toBe(reach === 'server');
    expect(JSON.stringify(undecided)).not.toContain('q7Zr2kP9');
  });

  test('a public prefix decides, unless the name is a secret’s', () => {
    const texts = { 'src/main.ts': 'f(import.meta.env.VITE_MAP_KEY)', '.env': 'VITE_MAP_KEY=tiles-of-the-harbour\n' };
    expect(draft(materialOf(texts, vite)).variables).toMatchObject([{ name: 'VITE_MAP_KEY', reach: 'public' }]);
  });
});

test('a source file beyond the limit is reported, not skipped silently', () => {
  const { undecided } = draft(materialOf({ '.env': 'A=1\n', 'src/big.js': `//${'x'.repeat(2 * 2 ** 20)}\n` }, vite));
  expect(undecided.map(inWords)).toMatchObject([
    { message: 'src/big.js is larger than 2.1 MB and was not read', place: { path: 'src/big.js' } },
  ]);
});

test('a name that code sets itself is no variable, unless a file sets it or the code keeps an earlier value', () => {
  const names = (code: string, env = '') =>
    draft(
      materialOf({ 'server.js': code, ...(env !== '' && { '.env': env }) }, [{ dependencies: ['express'] }]),
    ).variables.map(({ name }) => name);
  const read = 'use(process.env.APP_ROOT);';
  expect(names(read)).toEqual(['APP_ROOT']);
  expect(names(`process.env.APP_ROOT = '.'; ${read}`)).toEqual([]);
  expect(names(`process.env.APP_ROOT ??= '.'; ${read}`)).toEqual(['APP_ROOT']);
  expect(names(`process.env.APP_ROOT = '.'; ${read}`, 'APP_ROOT=x\n')).toEqual(['APP_ROOT']);
});

test('a value that others are made of is read, and is public if it is part of a public one', () => {
  const { variables, unread } = draft(
    materialOf(
      {
        '.env':
          'API_HOST=api.example\nDB_PASSWORD=made-up-word-1\nVITE_URL=https://$API_HOST/v1\nLEDGER=https://u:$DB_PASSWORD@$LEDGER_HOST\nLEDGER_HOST=l.example\nLEFT=1\n',
        'src/a.ts': 'f(import.meta.env.VITE_URL)',
      },
      [{ dependencies: ['vite'] }],
    ),
  );
  const reaches = Object.fromEntries(variables.map(({ name, reach }) => [name, reach]));
  expect(reaches).toEqual({
    ...{ API_HOST: 'public', DB_PASSWORD: 'server', LEDGER: 'server' },
    ...{ LEDGER_HOST: 'server', LEFT: 'server', VITE_URL: 'public' },
  });
  expect(unread).toEqual(['LEDGER', 'LEFT']);
});

test('a shell script that is called NAME.env is no layer', () => {
  const { stages } = draft(materialOf({ 'ios/tools.env': 'export NODE=$(command -v node)\n', '.env': 'A=1\n' }, vite));
  expect(stages.flatMap(({ layers }) => layers)).not.toContain('ios/tools.env');
});

test('a URL of one machine in browser code is reported, in a comment or a fallback of the build not', () => {
  const { undecided } = draft(
    materialOf(
      {
        'src/api.ts': "// http://localhost:1\nfetch('http://localhost:4000/a'); fetch('http://localhost:4000/b');\n",
        'vite.config.ts': "proxy('http://localhost:5000')",
      },
      vite,
    ),
  );
  expect(undecided.map(inWords).map(({ message, place }) => `${place?.path}:${place?.line} ${message}`)).toContain(
    'src/api.ts:2 browser code has the URL http://localhost:4000 in it, so every stage gets it',
  );
  expect(JSON.stringify(undecided)).not.toMatch(/localhost:(1|5000)/);
});

test('keys of a define file keep the names that the code uses', () => {
  const texts = {
    'pubspec.yaml': 'name: deck\n',
    'lib/main.dart': "const url = String.fromEnvironment('baseUrl');\n",
    'defines/dev.json': '{ "baseUrl": "http://localhost:4000" }',
    'defines/prod.json': '{ "baseUrl": "https://api.example" }',
  };
  const { variables } = draft(materialOf(texts));
  expect(variables).toEqual([
    expect.objectContaining({ name: 'BASE_URL', reach: 'public', names: { deck: 'baseUrl' } }),
  ]);
});

test('a settings module with an object for each stage is a layer of each', () => {
  const settings = `const all = {
  development: { apiUrl: 'http://localhost:4180', tides: false },
  staging: { apiUrl: 'https://api.staging.saltmarsh.test', tides: true },
};
export default all[import.meta.env.MODE];
`;
  const found = draft(materialOf({ 'src/settings.ts': settings }, vite));
  const text = contractText(found);
  expect(text).toContain('  development: { layers: [{ file: src/settings.ts, key: development }] }');
  expect(text).toContain('  staging: { layers: [{ file: src/settings.ts, key: staging }] }');
  expect(found.variables.map(({ name, reach }) => `${name} ${reach}`)).toEqual(['API_URL public', 'TIDES public']);
  expect(contractOf(text).stages.size).toBe(2);
});

test('stages that scripts and workflows build', () => {
  const texts = {
    'package.json': '{ "name": "desk", "dependencies": { "vite": "8" }, "scripts": { "b": "vite build --mode uat" } }',
    '.github/workflows/ship.yml': 'jobs: { a: { steps: [{ run: npx vite build --mode=staging }] } }',
    '.env': 'A=1',
  };
  const { stages } = draft(materialOf(texts));
  expect(stages.map(({ name, because }) => `${name}: ${because}`)).toEqual([
    'development: no file is only for this stage',
    'uat: package.json builds it (b)',
    'staging: .github/workflows/ship.yml builds it',
  ]);
});

test('a shipped stage without a value that code reads is reported', () => {
  const texts = {
    '.env.development': 'VITE_A=1\nVITE_B=1\nVITE_C=1\n',
    '.env.production': 'VITE_A=2\n',
    'src/a.ts': 'f(import.meta.env.VITE_A, import.meta.env.VITE_B, import.meta.env.VITE_C ?? 1)',
  };
  const { undecided, variables } = draft(materialOf(texts, vite));
  expect(variables.map(({ required }) => required)).toEqual([undefined, ['development'], ['development']]);
  expect(undecided.map(inWords)).toMatchObject([
    {
      message: 'production ships without VITE_B, which code reads and other stages set',
      remedy: 'set it in production, and add production to `required`',
    },
  ]);
});

test('a name that the configuration inlines without the prefix keeps it', () => {
  const texts = {
    'next.config.js': 'module.exports = { env: { API_URL: process.env.API_URL } };',
    '.env': 'API_URL=https://api.example\n',
    'src/pages/index.tsx': 'f(process.env.API_URL)',
    'package.json': '{ "name": "desk", "dependencies": { "next": "16" } }',
  };
  const { variables } = draft(materialOf(texts));
  expect(variables).toEqual([
    expect.objectContaining({ name: 'API_URL', reach: 'public', names: { desk: 'API_URL' } }),
  ]);
});

test('a module that has any names, and the part of a page that runs on the server', () => {
  const { variables, undecided } = draft(
    materialOf({
      'package.json': '{"name":"harbour","dependencies":{"astro":"5"}}',
      'astro.config.mjs': 'export default {}',
      '.env': 'API_URL=https://api.saltmarsh.example/v1\nTIDES=low\nBERTH=12\nFARE_KEY=k\nDEPTH=3\n',
      'src/pages/index.astro': `---
import { TIDES, getSecret } from 'astro:env/server';
const key = getSecret('FARE_KEY') + import.meta.env.BERTH;
---
<script>
  import { API_URL } from 'astro:env/client';
  console.log(API_URL, import.meta.env.DEPTH);
</script>`,
    }),
  );
  expect(variables.map(({ name, reach, names }) => ({ name, reach, names }))).toEqual([
    { name: 'API_URL', reach: 'public', names: { harbour: 'API_URL' } },
    { name: 'TIDES', reach: 'server' },
    { name: 'BERTH', reach: 'server' },
    { name: 'FARE_KEY', reach: 'server' },
    { name: 'DEPTH', reach: 'server' },
  ]);
  // Only one of them is read where it is undefined.
  expect(undecided.map(inWords).flatMap(({ variable, message }) => (variable ? [message] : []))).toEqual([
    'browser code reads DEPTH without the prefix PUBLIC_, so it is undefined there',
  ]);
});

test('names that a configuration lists, and reads that the tool does not replace', () => {
  const config = "export const config = { namespace: 'pier', env: { QUAY_URL: process.env.QUAY_URL } };";
  const { bundles, variables } = draft(
    materialOf({
      'package.json': '{ "name": "pier", "dependencies": { "@stencil/core": "4" } }',
      'stencil.config.ts': config,
      '.env': 'QUAY_URL=https://quay.example\nTIDES=low\n',
      'src/pier.tsx': "import { Env } from '@stencil/core';\nf(Env.QUAY_URL, Env.TIDES, process.env.DEPTH)",
    }),
  );
  expect(bundles).toMatchObject([{ toolchain: 'stencil', output: ['www'] }]);
  expect(variables.map(({ name, reach }) => `${name} ${reach}`)).toEqual([
    'QUAY_URL public',
    'TIDES public',
    'DEPTH server',
  ]);
  expect(variables[2]?.reasons[0]).toMatch(
    /^server: unsure: browser code reads it from process\.env, which stencil does not/,
  );
});

test('a value that the configuration gives another name, and a slip of that name', () => {
  const { variables, undecided } = draft(
    materialOf({
      'package.json': '{ "name": "pier", "dependencies": { "@stencil/core": "4" } }',
      'stencil.config.ts': 'export const config = { env: { apiUrl: process.env.API_URL } };',
      '.env': 'API_URL=https://quay.example\n',
      'src/pier.tsx': "import { Env as E } from '@stencil/core';\nf(E.apiUrl, E.apiUlr)",
    }),
  );
  expect(variables.map(({ name, reach, names }) => [name, reach, names])).toEqual([
    ['API_URL', 'public', undefined],
    ['apiUlr', 'public', undefined],
  ]);
  expect(undecided.map(inWords).flatMap(({ variable, message }) => (variable ? [message] : []))).toEqual([
    'code reads apiUlr, which no file sets; apiUrl is almost the same, and is set',
  ]);
});

test('a prefix is not asked of a name that the configuration gives another name', () => {
  const { variables } = draft(
    materialOf({
      'next.config.js': 'module.exports = { env: { apiUrl: process.env.API_URL } };',
      '.env': 'API_URL=https://api.example\n',
      'src/pages/index.tsx': 'f(process.env.apiUrl)',
      'package.json': '{ "name": "desk", "dependencies": { "next": "16" } }',
    }),
  );
  expect(variables).toEqual([
    expect.objectContaining({ name: 'API_URL', reach: 'public', names: { desk: 'API_URL' } }),
  ]);
});

test('what is in a configuration that ships is public, and a secret in it is reported', () => {
  const { variables, undecided } = draft(
    materialOf({
      'package.json': '{ "name": "docs", "dependencies": { "@docusaurus/core": "3" } }',
      'docusaurus.config.js':
        'export default { customFields: { api: process.env.API_URL }, plugins: [[p, { a: process.env.TIDES, b: process.env.FARE_SECRET }]] };',
      '.env': 'API_URL=https://quay.example\nTIDES=low\nFARE_SECRET=made-up-word\n',
      'src/pages/index.jsx': 'const { siteConfig } = useDocusaurusContext();\nf(siteConfig.customFields.api)',
    }),
  );
  expect(variables.map(({ name, reasons }) => `${name} ${reasons[0]?.split(';')[0]}`)).toEqual([
    'API_URL public: is passed to the app by the configuration of docs, as api',
    'TIDES public: is passed to the app by the configuration of docs, as plugins.a',
    "FARE_SECRET server: has a secret's name",
  ]);
  expect(undecided.map(inWords).flatMap(({ variable, message }) => (variable ? [message] : []))).toEqual([
    "FARE_SECRET has a secret's name, but is passed to the app by the configuration of docs, as plugins.b, so a build would inline it",
  ]);
});

test('keys of a runtime configuration are variables', () => {
  const texts = {
    'package.json': '{ "name": "desk", "dependencies": { "nuxt": "4" } }',
    'nuxt.config.ts': "export default defineNuxtConfig({ runtimeConfig: { ledgerUrl: '', public: { apiBase: '' } } })",
    'app/app.vue': '<script setup>\nconst { apiBase } = useRuntimeConfig().public;\n</script>',
  };
  const { variables } = draft(materialOf(texts));
  expect(variables.map(({ name, reach }) => `${name} ${reach}`)).toEqual([
    'NUXT_PUBLIC_API_BASE public',
    'NUXT_LEDGER_URL server',
  ]);
});

test('an example file explains its names, but not by an assignment in a comment', () => {
  const example = '# Where tickets are sold\nSHOP_URL=\n# KEY=abc\nOTHER=\n';
  const [file] = materialOf({ '.env.example': example }).files;
  expect([...(file?.about ?? [])]).toEqual([['SHOP_URL', 'Where tickets are sold']]);
});

const vite = [{ dependencies: ['vite'] }];
const shaped = ['sk', 'live', 'madeup00madeup00madeup00'].join('_');

describe('who may read a value', () => {
  test.each<[title: string, texts: Record<string, string>, reach: string, because: RegExp, doubt?: RegExp]>([
    ['a public prefix', { '.env': 'VITE_A=1' }, 'public', /starts with VITE_/],
    [
      'read in browser code with the prefix',
      { '.env': 'A=1', 'src/a.ts': 'import.meta.env.VITE_A' },
      'public',
      /is read by browser code at src\/a\.ts:1/,
    ],
    [
      'read there without it',
      { '.env': 'A=1', 'src/a.ts': 'import.meta.env.A' },
      'server',
      /unsure: .*without the prefix/,
      /so it is undefined there/,
    ],
    [
      'a secret shape with the prefix',
      { '.env': `VITE_A=${shaped}` },
      'server',
      /has the shape of/,
      /so a build would inline it$/,
    ],
    ['a secret name', { '.env': 'A_PASSWORD=x' }, 'server', /has a secret's name/],
    ['a password in an address', { '.env': 'A=redis://u:p@h' }, 'server', /contains a password in/],
    [
      'read by the build alone',
      { '.env': 'A=1', 'vite.config.ts': 'process.env.A' },
      'build',
      /is read only by the build/,
    ],
    ['read by server code', { '.env': 'A=1', 'server/a.ts': 'process.env.A' }, 'server', /is read by server code/],
    [
      'read where nobody knows',
      { '.env': 'A=1', 'lib/a.ts': 'process.env.A', 'src/main.ts': '' },
      'server',
      /unsure: read at lib\/a\.ts/,
      /cannot tell/,
    ],
    ['read by a test', { '.env': 'A=1', 'src/a.test.ts': 'process.env.A' }, 'server', /unsure: no code reads it/],
    [
      'a constant of the app',
      { 'src/environments/environment.prod.ts': 'export const environment = { a: 1 }' },
      'public',
      /constant in the app's code/,
    ],
    ['read nowhere', { '.env': 'A=1' }, 'server', /unsure: no code reads it/],
  ])('%s', (_, texts, reach, because, doubt) => {
    const { variables, undecided } = draft(materialOf(texts, vite));
    expect(variables.map((one) => one.reach)).toEqual([reach]);
    expect(variables[0]?.reasons[0]).toMatch(because);
    const doubts = undecided
      .map(inWords)
      .filter(({ variable }) => variable !== undefined)
      .map(({ message }) => message);
    if (doubt) expect(doubts).toEqual([expect.stringMatching(doubt)]);
    else expect(doubts).toEqual([]);
  });
});

test('stages and their layers: shared first, local last and never in what ships, modules of one stage alone', () => {
  const { stages, undecided } = draft(
    materialOf({
      '.env': 'A=1',
      '.env.local': 'A=2',
      '.env.prod': 'A=3',
      '.env.production': 'A=4',
      '.env.production.local': 'A=5',
      'config/default.json': '{"b":1}',
      'config/production.json': '{"b":2}',
      'src/environments/environment.ts': 'export default { c: 1 }',
      'src/environments/environment.prod.ts': 'export default { c: 2 }',
    }),
  );
  expect(Object.fromEntries(stages.map(({ name, layers }) => [name, layers]))).toEqual({
    development: ['config/default.json', 'src/environments/environment.ts', '.env', '.env.local'],
    production: [
      'config/default.json',
      'config/production.json',
      'src/environments/environment.prod.ts',
      '.env',
      '.env.prod',
      '.env.production',
      'process',
    ],
  });
  expect(undecided.map(inWords).map(({ message }) => message)).toEqual([
    '.env.prod and .env.production are for the same stage, production; the last one wins',
    '.env.production.local is a local file, so it is not a layer of production',
    'Adder found nothing that builds for browsers or devices here, so no code and no output will be checked',
  ]);
});

test('what stages have and lack, and what they share', () => {
  const { variables, undecided } = draft(
    materialOf(
      {
        '.env.development': 'ONLY=1\nFARE_SECRET=a\nADDRESS_URL=http://a.example',
        '.env.staging': 'FARE_SECRET=b\nADDRESS_URL=https://b.example',
        '.env.production': 'FARE_SECRET=b\nADDRESS_URL=https://c.example',
        'src/a.ts': 'import.meta.env.VITE_ADDRESS_URL; import.meta.env.VITE_NOWHERE ?? "x"',
      },
      vite,
    ),
  );
  const by = Object.fromEntries(variables.map(({ reasons: _, name, ...rest }) => [name, rest]));
  expect(by).toEqual({
    ADDRESS_URL: { name: undefined, reach: 'public', form: 'url', distinct: true, https: ['staging', 'production'] },
    VITE_NOWHERE: { reach: 'public', required: false },
    ONLY: { reach: 'server', form: 'integer', required: ['development'] },
    FARE_SECRET: { reach: 'server' },
  });
  expect(undecided.map(inWords).map(({ message }) => message)).toEqual([
    'FARE_SECRET has the same value in staging and production',
  ]);
});

test('a misspelt name in code: next to the one that is set', () => {
  const undecided = (env: string) =>
    draft(materialOf({ '.env': env, 'src/a.ts': 'import.meta.env.VITE_TITEL' }, vite))
      .undecided.map(inWords)
      .map(({ variable, message }) => [variable, message]);
  expect(undecided('VITE_TITLE=a')).toEqual([
    ['VITE_TITEL', 'code reads VITE_TITEL, which no file sets; VITE_TITLE is set, but no code reads it'],
  ]);
  expect(undecided('VITE_TITEL=a\nVITE_TITLE=a')).toEqual([]);
  expect(undecided('VITE_HARBOUR=a')).toEqual([]);
});

describe('--merge', () => {
  const drafted: Draft = draft(materialOf({ '.env': 'VITE_A=1\nVITE_B=2', '.env.qa': 'VITE_C=3' }, vite));

  test('a contract keeps every byte, and gets new entries at the end of their section', () => {
    const text = `adder: 1 # ours

stages:
    development: { layers: [.env] }   # the desk
bundles:
    shop: { toolchain: vite, code: [src], output: [dist] }

# the list
variables:
    A: public # read as VITE_A

accept: []
`;
    const merged = mergedText(text, newIn(drafted, contractOf(text)));
    const lines = merged.split('\n');
    expect(lines.filter((line) => !text.split('\n').includes(line)).join('\n')).toBe(`    # from the name of .env.qa
    qa: { layers: [.env, .env.qa, process] }
    # public: starts with VITE_, which the build of desk exposes
    # integer: by all of its 2 values
    VITE_B: { reach: public, form: integer }
    # public: starts with VITE_, which the build of desk exposes
    # integer: by its only value
    # required: development has no value
    VITE_C: { reach: public, form: integer, required: [qa] }`);
    expect(lines.filter((line) => text.split('\n').includes(line)).join('\n')).toBe(text);
    expect([...contractOf(merged).variables.keys()]).toEqual(['A', 'VITE_B', 'VITE_C']);
    expect(mergedText(merged, newIn(drafted, contractOf(merged)))).toBe(merged);
  });

  test('sections that are absent or empty are begun', () => {
    const text = 'adder: 1\nstages: { development: { layers: [.env] }, qa: { layers: [.env] } }\nvariables:\n';
    const additions = { ...drafted, stages: [], undecided: [] };
    const merged = mergedText(text, additions);
    expect(diagnose(merged)).toEqual([]);
    expect([...contractOf(merged).bundles.keys(), ...contractOf(merged).variables.keys()]).toEqual([
      'desk',
      'VITE_A',
      'VITE_B',
      'VITE_C',
    ]);
  });

  test('a section on a single line cannot be added to', () => {
    const text = 'adder: 1\nstages: { development: { layers: [.env] }, qa: { layers: [.env] } }\nvariables:\n';
    expect(() => mergedText(text, drafted)).toThrow('stages');
  });
});

test('a draft is a valid contract, with any names and texts', () => {
  const texts = { '.env': 'VITE_A="#: {x}, \'y\'"\nB=-', '.env.on': 'NO=yes', 'src/a.ts': 'import.meta.env.VITE_null' };
  const drafted = draft(materialOf(texts, [{ dependencies: ['vite'], name: '@s/a b' }]));
  const contract = contractOf(contractText(drafted));
  expect([...contract.stages.keys(), ...contract.bundles.keys(), ...contract.variables.keys()]).toEqual([
    'development',
    'on',
    'a-b',
    'VITE_A',
    'VITE_null',
    'B',
    'NO',
  ]);
});

describe('a line of an env file that cannot be parsed', () => {
  const drafted = (env: string) =>
    draft(
      materialOf(
        { '.env': env, 'src/a.ts': 'f(import.meta.env.VITE_A)', 'server/a.ts': 'f(process.env.SESSION_SECRET)' },
        [{ dependencies: ['vite'] }],
      ),
    ).variables.find(({ name }) => name === 'SESSION_SECRET');

  test.each(['VITE_A=x\nSESSION_SECRET="hush\n', 'VITE_A=x\nSESSION_SECRET=$(hush)\n'])('sets its name: %j', (env) => {
    const { required, reasons = [] } = drafted(env) ?? {};
    expect(required).toBeUndefined();
    expect(reasons).toContain('.env:2 cannot be parsed');
    expect(reasons.join()).not.toContain('hush');
  });

  test.each([
    ['hu$sh', ['.env:2 refers to a name that no file sets']],
    ['hu$VITE_A', []],
    ['hu${sh:-1}', []],
    ["'hu$sh'", []],
  ])('a dollar sign in %s', (value, said) => {
    const { reasons = [] } = drafted(`VITE_A=x\nSESSION_SECRET=${value}\n`) ?? {};
    expect(reasons.filter((one) => /refers|no file/.test(one))).toEqual(said);
  });

  test('is no matter if another one has the value', () => {
    expect(drafted('VITE_A=x\nSESSION_SECRET="hush\nSESSION_SECRET=hush\n')?.reasons.join()).not.toContain('parsed');
  });
});
