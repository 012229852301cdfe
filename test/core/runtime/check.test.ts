import { expect, test } from 'vitest';
import { runtimeFindings } from '../../../src/core/runtime/check.js';
import { runtimeFile } from '../../../src/core/runtime/runtime.js';
import { contractOf, resolutionOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const contract = contractOf(`adder: 1
stages: { staging: { layers: [.env] }, production: { layers: [.env] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { MAP_STYLE: { reach: public, delivery: runtime } }
`);
const bundle = contract.bundles.get('desk') ?? expect.unreachable();
const resolution = resolutionOf(contract, 'production', 'MAP_STYLE=chart\n');
const staging = resolutionOf(contract, 'staging', 'MAP_STYLE=draft\n');
const file = runtimeFile(contract, bundle, resolution);
const wrong = runtimeFile(contract, bundle, staging);
const tag = `<script src="${file.name}" integrity="${file.integrity}"></script>`;
const app = '<script type="module" src="app.js"></script>';
const policy = (text: string) => `<meta http-equiv="Content-Security-Policy" content="${text}">`;

test.each<[title: string, files: Record<string, string>, said: string[]]>([
  ['a page with its values', { 'dist/index.html': `${tag}${app}`, [`dist/${file.name}`]: file.text }, []],
  ['a page without scripts', { 'dist/index.html': '<p>closed</p>' }, []],
  ['no tag', { 'dist/index.html': app }, ['serve/missing-file dist/index.html the page loads no values file']],
  [
    'no file',
    { 'dist/index.html': `${tag}${app}` },
    [`serve/missing-file dist/index.html the page loads ${file.name}`],
  ],
  [
    'too late',
    { 'dist/index.html': `<script src="app.js"></script>${tag}`, [`dist/${file.name}`]: file.text },
    ['serve/late-runtime-file dist/index.html the page may run a script before its values'],
  ],
  [
    'another content than the digest of the tag',
    { 'dist/index.html': `${tag}${app}`, [`dist/${file.name}`]: `${file.text}//` },
    [
      'serve/blocked-runtime-file dist/index.html browsers block the file: its digest',
      `serve/cached-runtime-file dist/${file.name} the file name does not contain a digest`,
    ],
  ],
  [
    'a policy that forbids it',
    { 'dist/index.html': `${policy("script-src 'none'")}${tag}${app}`, [`dist/${file.name}`]: file.text },
    ["serve/blocked-runtime-file dist/index.html browsers block the file: the page's content security policy"],
  ],
  [
    "another stage's value",
    {
      'dist/index.html': `<script src="${wrong.name}" integrity="${wrong.integrity}"></script>${app}`,
      [`dist/${wrong.name}`]: wrong.text,
    },
    [
      `stale/runtime-file dist/${wrong.name} the values file has a different MAP_STYLE than production (the value of staging)`,
    ],
  ],
  [
    'a name that proxies may keep',
    { 'dist/index.html': '<p>closed</p>', 'dist/adder-values.js': file.text },
    ['serve/cached-runtime-file dist/adder-values.js the file name does not contain a digest'],
  ],
  [
    'a settings script of the project',
    {
      'dist/index.html': `<script src="env.js"></script>${app}`,
      'dist/env.js': 'window.env = { "MAP_STYLE": "chart" };',
    },
    [],
  ],
  [
    "a settings script with another stage's value",
    {
      'dist/index.html': `<script src="/env.js"></script>${app}`,
      'dist/env.js': 'env.MAP_STYLE = "draft"; env.OTHER = 1',
    },
    ['stale/runtime-file dist/env.js the values file has a different MAP_STYLE than production (the value of staging)'],
  ],
  [
    'a settings script that does not exist',
    { 'dist/a/browser/index.html': `<script src="assets/env.js"></script>${app}` },
    ['serve/missing-file dist/a/browser/index.html the page loads dist/a/browser/assets/env.js, which does not exist'],
  ],
  ['JSON that the app fetches', { 'dist/index.html': app, 'dist/config.json': '{"MAP_STYLE":"chart"}' }, []],
])('%s', (_, files, said) => {
  const found = runtimeFindings({
    contract,
    bundle,
    resolution,
    others: [staging],
    files: new Set(Object.keys(files)),
    read: (path) => files[path],
  });
  const lines = found.map(inWords).map(({ code, place, message }) => `${code} ${place?.path} ${message}`);
  expect(lines).toEqual(said.map((line) => expect.stringContaining(line)));
});
