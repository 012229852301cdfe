import { describe, expect, test } from 'vitest';
import { fixedFiles } from '../../src/core/lint/fix.js';
import { realWorld } from '../../src/host/world.js';
import { checkCode } from '../../src/project/lint.js';
import { openProject } from '../../src/project/open.js';
import { secrets, TestProject } from '../support/adder.js';
import { inWords } from '../support/words.js';

const contract = (bundle = 'toolchain: vite, code: [src], entry: [src/main.ts]') => `adder: 1
stages:
  development: { layers: [.env] }
  production: { layers: [.env.production] }
bundles:
  desk: { ${bundle} }
variables:
  API_URL: { reach: public, form: url }
  TIDES: { reach: public, required: false }
  UPLOAD_TOKEN: { reach: build, required: false }
  FARE_SIGNING_KEY: server
`;

const values = {
  '.env': 'API_URL=http://dev.saltmarsh.test/v1\nTIDES=daily\nFARE_SIGNING_KEY=made-up-key-of-development-0009\n',
  '.env.production': `API_URL=https://api.saltmarsh.example/v1\nTIDES=daily\nFARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
};

/** One world for all: each one listens to the process's streams. */
const world = realWorld();

/** Lints a small project, in this process. */
async function lint(files: Record<string, string>, bundle?: string) {
  const at = new TestProject({ 'adder.yaml': contract(bundle), ...values, ...files });
  const project = openProject({ ...world, cwd: at.folder });
  const found = await checkCode(project, { bundles: [...project.contract.bundles.values()] }, world);
  const findings = found.findings.filter(({ code }) => code !== 'code/unused');
  const said = findings
    .map(inWords)
    .map(({ code, place, message }) => `${code} ${place?.path}:${place?.line}:${place?.column} ${message}`);
  const fixed = () =>
    Object.fromEntries(
      fixedFiles(found.fixable, (path) => found.code.files.get(path)?.text).map(({ path, after }) => [path, after]),
    );
  expect(JSON.stringify(found.findings)).not.toContain(secrets.FARE_SIGNING_KEY);
  return {
    said,
    findings: found.findings,
    unread: found.coverage?.unread,
    skipped: found.coverage?.skipped,
    fixed,
  };
}

const read = 'import.meta.env.VITE_API_URL;';

describe('each mistake once, and its clean twin', () => {
  test.each<[title: string, mistake: Record<string, string>, said: RegExp, twin: Record<string, string>]>([
    [
      'a server value in browser code',
      { 'src/main.ts': 'import.meta.env.FARE_SIGNING_KEY' },
      /^code\/server-read src\/main.ts:1:17 FARE_SIGNING_KEY, a server-only variable, is read by code that reaches the browser of desk$/,
      { 'src/main.ts': read },
    ],
    [
      'with a public prefix before it',
      { 'src/main.ts': 'import.meta.env.VITE_FARE_SIGNING_KEY' },
      /^code\/server-read .* VITE_FARE_SIGNING_KEY, a server-only variable/,
      { 'src/main.ts': read },
    ],
    [
      'through a chain of imports, with an alias of tsconfig',
      {
        'tsconfig.json': '{ "compilerOptions": { "paths": { "@/*": ["./src/*"] } } }',
        'src/main.ts': 'export * from "@/fares"',
        'src/fares.ts': 'const { sign } = await import("./lib/sign.js")',
        'src/lib/sign.ts': 'export const sign = () => process.env.FARE_SIGNING_KEY',
      },
      /^code\/server-read src\/lib\/sign.ts:1:39 FARE_SIGNING_KEY, .* reaches the browser: src\/main.ts → src\/fares.ts → src\/lib\/sign.ts$/,
      {
        'src/main.ts': 'import type { sign } from "./sign"',
        'src/sign.ts': 'export const sign = () => process.env.FARE_SIGNING_KEY',
      },
    ],
    [
      'server code that browser code loads',
      {
        'src/main.ts': 'import { key } from "./server/key"; key()',
        'src/server/key.ts': 'export const key = () => process.env.FARE_SIGNING_KEY',
      },
      /^code\/server-read src\/server\/key.ts:1:38 .* reaches the browser: src\/main.ts → src\/server\/key.ts$/,
      {
        'src/main.ts': 'import { Key } from "./server/key"; let a: Key',
        'src/server/key.ts': 'export type Key = string; process.env.FARE_SIGNING_KEY',
      },
    ],
    [
      'a build value',
      { 'src/main.ts': 'import.meta.env.UPLOAD_TOKEN' },
      /^code\/server-read .* UPLOAD_TOKEN, a build-only variable/,
      { 'src/main.ts': read, 'vite.config.ts': 'process.env.UPLOAD_TOKEN' },
    ],
    [
      'the prefix is missing',
      { 'src/main.ts': 'import.meta.env.API_URL' },
      /^code\/unknown-name src\/main.ts:1:17 API_URL is undefined here: the prefix VITE_ is missing$/,
      { 'src/main.ts': read },
    ],
    [
      'another tool’s prefix',
      { 'src/main.ts': 'import.meta.env.NEXT_PUBLIC_API_URL' },
      / NEXT_PUBLIC_API_URL is undefined here: this bundle has the prefix VITE_, not NEXT_PUBLIC_$/,
      { 'src/main.ts': read },
    ],
    [
      'the prefix twice',
      { 'src/main.ts': 'import.meta.env.VITE_VITE_API_URL' },
      /the prefix VITE_ is written twice$/,
      { 'src/main.ts': read },
    ],
    [
      'a slip',
      { 'src/main.ts': 'import.meta.env.VITE_API_ULR' },
      /^code\/unknown-name .* VITE_API_ULR is undefined here: it is not in the contract/,
      { 'src/main.ts': 'import.meta.env.MODE; import.meta.env.DEV' },
    ],
    [
      'the wrong object',
      { 'src/main.ts': 'process.env.VITE_API_URL' },
      /^code\/unreachable-read .* the build of desk does not replace process.env \(vite replaces import.meta.env\)/,
      { 'src/main.ts': read },
    ],
    [
      'a computed name',
      { 'src/main.ts': 'import.meta.env[name]' },
      /^code\/whole-object src\/main.ts:1:17 the name is computed, so vite puts every public value here/,
      { 'src/main.ts': read },
    ],
    [
      'brackets',
      { 'src/main.ts': 'import.meta.env["VITE_API_URL"]' },
      /^code\/whole-object .* is read with brackets: some versions of vite then put every public value here/,
      { 'src/main.ts': read },
    ],
    [
      'a key that is a constant',
      { 'src/main.ts': 'const key = "VITE_API_URL"; import.meta.env[key]' },
      /^code\/whole-object .* by a key that is a constant: vite then puts every public value here/,
      { 'src/main.ts': read },
    ],
    [
      'destructured',
      { 'src/main.ts': 'const { VITE_API_URL } = import.meta.env' },
      /^code\/whole-object src\/main.ts:1:9 VITE_API_URL is destructured/,
      { 'src/main.ts': read },
    ],
    [
      'the whole object',
      { 'src/main.ts': 'show({ ...import.meta.env })' },
      /^code\/whole-object src\/main.ts:1:11 uses all of import.meta.env/,
      { 'src/main.ts': read },
    ],
    [
      'a fallback',
      { 'src/main.ts': 'import.meta.env.VITE_API_URL ?? "http://localhost:4180"' },
      /^code\/fallback src\/main.ts:1:33 this fallback hides a missing VITE_API_URL/,
      { 'src/main.ts': 'import.meta.env.VITE_TIDES ?? "high"' },
    ],
    [
      'a value of a stage',
      { 'src/main.ts': 'fetch("https://api.saltmarsh.example/v1")' },
      /^code\/hard-coded src\/main.ts:1:8 hard-coded value of API_URL in production/,
      { 'src/main.ts': '// https://api.saltmarsh.example/v1\nfetch(a)' },
    ],
    [
      'the base of one',
      { 'src/main.ts': 'fetch(`https://api.saltmarsh.example/fares`)' },
      /^code\/hard-coded .* hard-coded base of API_URL in production, https:\/\/api.saltmarsh.example:/,
      { 'src/main.ts': 'fetch("https://saltmarsh.example/")' },
    ],
    [
      'a local address',
      { 'src/main.ts': 'fetch("http://192.168.4.20:4180/fares")' },
      /^code\/hard-coded .* hard-coded local or private URL: http:\/\/192.168.4.20:4180$/,
      { 'vite.config.ts': 'proxy("http://localhost:4180")', 'src/main.ts': read },
    ],
    [
      'one base in several places',
      {
        'src/main.ts': 'import "./b"; fetch("https://api.harbour.example/a")',
        'src/b.ts': 'fetch("https://api.harbour.example/b")',
      },
      /^code\/hard-coded .* hard-coded in 2 places, and in no variable: https:\/\/api.harbour.example$/,
      {
        'src/main.ts': 'import "./b"; open("https://harbour.example/a")',
        'src/b.ts': 'say("see https://docs.harbour.example/api/b")',
      },
    ],
    [
      'switched by comments',
      {
        'src/main.ts':
          "const host = 'https://a.example';\n// const host = 'https://b.example';\n//const host = 'https://c.example';",
      },
      /^code\/switched-by-comment src\/main.ts:1:14 host is switched by comments: 2 other values are commented out/,
      { 'src/main.ts': "const host = 'harbour desk';\n// const host = 'ticket desk';\n// see 'https://b.example'" },
    ],
    [
      'a class field that is switched by comments',
      {
        'src/main.ts':
          "class Api {\n  private readonly url = 'https://a.example';\n  // private readonly url = 'https://b.example';\n}",
      },
      /^code\/switched-by-comment src\/main.ts:2:26 url is switched by comments: another value is commented out/,
      { 'src/main.ts': "class Api {\n  url = 'https://a.example';\n}" },
    ],
    [
      'a secret in code',
      { 'src/lib.ts': `const key = "${secrets.FARE_SIGNING_KEY}"`, 'src/main.ts': read },
      /^code\/secret-in-code src\/lib.ts:1:14 hard-coded value of FARE_SIGNING_KEY in production$/,
      { 'src/main.ts': read },
    ],
    [
      'a token in code',
      { 'src/main.ts': `const key = "${['sk', 'live', 'madeup00madeup00madeup00'].join('_')}"` },
      /^code\/secret-in-code .* hard-coded payment service secret key/,
      { 'src/main.ts': `const key = "${['pk', 'live', 'madeup00madeup00madeup00'].join('_')}"` },
    ],
    ['no program', { 'src/main.ts': 'const = 1' }, /^code\/unread src\/main.ts:1:7/, { 'src/main.ts': read }],
  ])('%s', async (_, mistake, said, twin) => {
    const told = (await lint(mistake)).said;
    expect(told.length).toBeGreaterThan(0);
    for (const one of told) expect(one).toMatch(said);
    expect((await lint(twin)).said).toEqual([]);
  });
});

describe('what server code sends to the browser', () => {
  const server = 'runs: server, code: [src]';
  const sent = 'FARE_SIGNING_KEY, a server-only variable, is sent in a response';
  const returned = 'FARE_SIGNING_KEY, a server-only variable, is returned by this handler';
  const helpers = `export const token = () => process.env.FARE_SIGNING_KEY;
export const helper = (n: number) => n + 1;
export default { key: process.env.FARE_SIGNING_KEY };
`;
  test.each<[code: string, said: string | undefined]>([
    [
      'app.get("/", (req, res) => res.json({ key: process.env.FARE_SIGNING_KEY }))',
      'FARE_SIGNING_KEY, a server-only variable, is sent in a response',
    ],
    [
      'const { FARE_SIGNING_KEY: k } = process.env; const body = { a: [`x${k}`] }; export const GET = () => new Response(JSON.stringify(body))',
      'FARE_SIGNING_KEY, a server-only variable, is sent in a response',
    ],
    [
      'export async function getServerSideProps() { const key = process.env.FARE_SIGNING_KEY; return { props: { key } } }',
      'FARE_SIGNING_KEY, a server-only variable, is returned by this handler',
    ],
    [
      'export default () => <Map token={process.env.FARE_SIGNING_KEY} />',
      'FARE_SIGNING_KEY, a server-only variable, is passed as props, which the page sends to the browser',
    ],
    [
      'const page = `<b>${process.env.FARE_SIGNING_KEY}</b>`',
      'FARE_SIGNING_KEY, a server-only variable, is rendered into markup',
    ],
    ['console.log(process.env)', 'all of process.env is logged, including every secret in it'],
    ['res.send({ ...process.env })', 'all of process.env is sent in a response, including every secret in it'],
    ['res.json({ signed: sign(process.env.FARE_SIGNING_KEY), has: Boolean(process.env.FARE_SIGNING_KEY) })', undefined],
    ['res.json({ url: process.env.API_URL }); fetch(a, { headers: { key: process.env.FARE_SIGNING_KEY } })', undefined],
    [
      'function f(key) { res.json(key) } f(process.env.FARE_SIGNING_KEY)',
      'FARE_SIGNING_KEY, a server-only variable, is sent in a response',
    ],
    [
      'const settings = () => ({ key: process.env.FARE_SIGNING_KEY }); export function load() { return settings() }',
      'FARE_SIGNING_KEY, a server-only variable, is returned by this handler',
    ],
    ['import { token } from "./b"; export const GET = () => Response.json({ token: token() })', sent],
    ['import config from "./b"; res.send(config)', sent],
    [
      'import { FARE_SIGNING_KEY } from "$env/static/private"; export const load = () => ({ FARE_SIGNING_KEY })',
      returned,
    ],
    [
      'import { FARE_SIGNING_KEY as k } from "$env/static/private"; export const GET = () => new Response(k)',
      'FARE_SIGNING_KEY, a server-only variable, is sent in a response',
    ],
    [
      'res.json(process.env[req.params.name])',
      'any variable of process.env, chosen at run time, is sent in a response, including every secret in it',
    ],
    ['console.info("key", process.env.FARE_SIGNING_KEY)', 'FARE_SIGNING_KEY, a server-only variable, is logged'],
    ['import { helper } from "./b"; res.json(helper(1))', undefined],
    ['const a = () => b(); const b = () => a(); res.json(a())', undefined],
    ['spawn(a, { env: process.env }); const { PATH } = process.env', undefined],
  ])('%s', async (code, said) => {
    const { findings } = await lint({ 'src/a.tsx': code, 'src/b.ts': helpers }, server);
    expect(findings.map(inWords).map(({ message }) => message)).toEqual(said ? [said] : []);
  });
});

describe('a framework with several ways to read', () => {
  const kit = 'toolchain: sveltekit, code: [src]';

  test('a module of remote functions stays on the server', async () => {
    const remote = (from: string) => ({
      'src/routes/+page.svelte': "<script>import { fares } from './fares.remote'; fares();</script>",
      'src/routes/fares.remote.ts': `import { query } from '${from}';\nexport const fares = query(() => sign(process.env.FARE_SIGNING_KEY));`,
    });
    expect((await lint(remote('$app/server'), kit)).said).toEqual([]);
    expect((await lint(remote('$lib/query'), kit)).said).toHaveLength(1);
  });

  test('a prefix of another way is undefined', async () => {
    const code = 'console.log(import.meta.env.PUBLIC_API_URL, import.meta.env.VITE_TIDES);';
    const { findings } = await lint({ 'src/routes/+page.svelte': `<script>${code}</script>` }, kit);
    expect(findings.map(inWords).map(({ message, remedy }) => `${message} → ${remedy}`)).toContain(
      "import.meta.env has only names that start with VITE_, so PUBLIC_API_URL is undefined here → write import { PUBLIC_API_URL } from '$env/static/public'",
    );
  });

  test('a module that only server files import does not reach the browser', async () => {
    const secret =
      "import { FARE_SIGNING_KEY } from '$env/static/private';\nexport const sign = () => hmac(FARE_SIGNING_KEY);\n";
    const files = {
      'src/lib/sign.ts': secret,
      'src/routes/+page.server.ts':
        "import { sign } from '../lib/sign';\nexport const load = () => ({ fare: sign() });\n",
      'src/routes/+page.svelte': '<p>fare</p>',
    };
    const codes = async (more: Record<string, string>) =>
      (await lint({ ...files, ...more }, kit)).findings
        .map(({ code }) => code)
        .filter((code) => code !== 'code/unused');
    expect(await codes({})).toEqual([]);
    const page = "<script>import { sign } from '../lib/sign'; sign();</script>";
    expect(await codes({ 'src/routes/+page.svelte': page })).toEqual(['code/server-read']);
  });
});

test('a private key of a runtime configuration that a handler returns', async () => {
  const nuxt = 'toolchain: nuxt, code: [app], server-code: [server]';
  const contractWith = contract(nuxt).replace(
    '  FARE_SIGNING_KEY: server',
    '  FARE_SIGNING_KEY: server\n  NUXT_LEDGER_KEY: { reach: server, required: false }',
  );
  const { findings } = await lint({
    'adder.yaml': contractWith,
    'app/app.vue': '<template><p>fares</p></template>',
    'server/api/k.ts': 'export default defineEventHandler(() => ({ key: useRuntimeConfig().ledgerKey }));',
  });
  expect(findings.map(inWords).map(({ message }) => message)).toContain(
    'NUXT_LEDGER_KEY, a server-only variable, is returned by this handler',
  );
});

describe('native code of an app on other machines', () => {
  const app = 'runs: desktop, code: [src]';
  test.each<[file: string, text: string, said: string[]]>([
    ['src/main.rs', 'env!("API_URL")', []],
    [
      'src/main.rs',
      'option_env!("FARE_SIGNING_KEY")',
      ['code/server-read option_env! puts FARE_SIGNING_KEY, a server-only variable, into the app'],
    ],
    [
      'src/main.rs',
      'std::env::var("API_URL")',
      [
        'code/unreachable-read API_URL is read when the app runs, but an app that is started from the desktop does not have it',
      ],
    ],
    ['src/main.rs', 'std::env::var("HOME"); std::env::var("XDG_RUNTIME_DIR")', []],
    ['src/main.rs', 'env!("API_ULR")', ['code/unknown-name API_ULR is not in the contract']],
    ['src/main.rs', 'include_str!("../.env")', ['repo/packed include_str! puts all of ../.env into the app']],
    ['src/main.rs', 'include_str!("../help.txt")', []],
    [
      'android/App.kt',
      'BuildConfig.FARE_SIGNING_KEY',
      ['code/server-read BuildConfig puts FARE_SIGNING_KEY, a server-only variable, into the app'],
    ],
  ])('%s: %s', async (file, text, said) => {
    const { findings } = await lint({ [file]: text, 'src/main.ts': '' }, app);
    const others = findings.filter(({ code }) => code !== 'code/unused');
    expect(others.map(inWords).map(({ code, message }) => `${code} ${message}`)).toEqual(said);
  });

  test('a name that only native code reads is used', async () => {
    const { findings } = await lint({ 'src/main.rs': 'env!("API_URL")', 'src/main.ts': '' }, app);
    expect(findings.map(({ variable }) => variable)).not.toContain('API_URL');
  });

  test('on a server, an environment is what the code reads', async () => {
    const { findings } = await lint(
      { 'src/main.rs': 'std::env::var("API_URL")', 'src/main.ts': '' },
      'runs: server, code: [src]',
    );
    expect(findings.filter(({ code }) => code !== 'code/unused')).toEqual([]);
  });

  test('a language without a reader is reported', async () => {
    const { skipped } = await lint({ 'src/a.go': '', 'src/b/c.go': '', 'src/main.ts': '' });
    expect(skipped).toEqual([{ path: 'src', inside: [], because: 'contains 2 Go files, which lint cannot read' }]);
  });
});

test('a tool with two prefixes of one object has names with either', async () => {
  const names = ['WXT_TIDES', 'VITE_API_URL', 'WXT_API_URL'];
  const { said } = await lint({
    'adder.yaml': contract('toolchain: wxt, code: [src], entry: [src/main.ts]').replace('  API_URL', '  VITE_API_URL'),
    'src/main.ts': names.map((name) => `import.meta.env.${name};\n`).join(''),
  });
  const undefinedHere = said.filter((text) => text.includes('is undefined here'));
  expect(undefinedHere).toEqual([
    'code/unknown-name src/main.ts:3:17 WXT_API_URL is undefined here: it is not in the contract',
  ]);
});

describe('an app with a build for each of its processes', () => {
  const names = ['VITE_FERRIES', 'MAIN_VITE_TIDES', 'RENDERER_VITE_MAP'];
  const app = contract('toolchain: electron-vite, runs: desktop, code: [src/main, src/preload, src/renderer]').replace(
    '  API_URL',
    `${names.map((name) => `  ${name}: public\n`).join('')}  API_URL`,
  );
  const reads = names.map((name) => `import.meta.env.${name};\n`).join('');
  const only = (prefixes: string, name: string) =>
    `import.meta.env has only names that start with ${prefixes}, so ${name} is undefined here`;

  test.each<[path: string, said: string[]]>([
    ['src/main/index.ts', [`src/main/index.ts:3:17 ${only('VITE_ or MAIN_VITE_', 'RENDERER_VITE_MAP')}`]],
    [
      'src/renderer/src/main.tsx',
      [`src/renderer/src/main.tsx:2:17 ${only('VITE_ or RENDERER_VITE_', 'MAIN_VITE_TIDES')}`],
    ],
    [
      'src/renderer/src/main/window.ts',
      [`src/renderer/src/main/window.ts:2:17 ${only('VITE_ or RENDERER_VITE_', 'MAIN_VITE_TIDES')}`],
    ],
  ])('%s has the names of its own prefix', async (path, said) => {
    const { said: all } = await lint({ 'adder.yaml': app, [path]: reads });
    expect(all).toEqual(said.map((one) => `code/unreachable-read ${one}`));
  });

  test('where Node.js runs it, its environment is that of the machine', async () => {
    const code = 'process.env.LOCALAPPDATA; process.env[name]; process.env.FARE_SIGNING_KEY; process.env.VITE_FERRIES';
    const { said, findings } = await lint({ 'adder.yaml': app, 'src/main/index.ts': code });
    const lacking = (name: string) =>
      `${name} is read when the app runs, but an app that is started from the desktop does not have it`;
    expect(said).toEqual([
      `code/unreachable-read src/main/index.ts:1:58 ${lacking('FARE_SIGNING_KEY')}`,
      `code/unreachable-read src/main/index.ts:1:88 ${lacking('VITE_FERRIES')}`,
    ]);
    expect(findings.map(inWords).find(({ variable }) => variable === 'VITE_FERRIES')?.remedy).toBe(
      'write import.meta.env.VITE_FERRIES',
    );
  });
});

describe('forms of a read, as builds of tools that are not among the tests treated them', () => {
  const forms = {
    literal: (object: string, name: string) => `${object}.${name}`,
    optional: (object: string, name: string) => `${object}?.${name}`,
    brackets: (object: string, name: string) => `${object}['${name}']`,
    computed: (object: string, name: string) => `${object}[key] || '${name}'`,
    destructured: (object: string, name: string) => `const { ${name} } = ${object}`,
    alias: (object: string, name: string) => `const env = ${object}; env.${name}`,
  };
  // Nothing; undefined, or so in "some versions"; every value, or so in "some".
  test.each<[tool: string, object: string, prefix: string, said: Record<keyof typeof forms, string>]>([
    [
      'gatsby',
      'process.env',
      'GATSBY_',
      {
        literal: '',
        optional: 'undefined',
        brackets: '',
        computed: 'undefined',
        destructured: 'undefined',
        alias: 'undefined',
      },
    ],
    [
      'react-scripts',
      'process.env',
      'REACT_APP_',
      { literal: '', optional: 'every', brackets: '', computed: 'every', destructured: 'some', alias: 'every' },
    ],
    [
      'vue-cli',
      'process.env',
      'VUE_APP_',
      { literal: '', optional: '', brackets: '', computed: 'every', destructured: 'some', alias: 'every' },
    ],
    [
      'parcel',
      'process.env',
      '',
      { literal: '', optional: 'undefined', brackets: '', computed: 'undefined', destructured: '', alias: 'undefined' },
    ],
    [
      'rsbuild',
      'import.meta.env',
      'PUBLIC_',
      { literal: '', optional: '', brackets: '', computed: 'every', destructured: '', alias: 'every' },
    ],
    [
      'metro',
      'process.env',
      '',
      {
        literal: '',
        optional: 'undefined',
        brackets: '',
        computed: 'undefined',
        destructured: 'some versions',
        alias: 'undefined',
      },
    ],
    [
      'nuxt',
      'import.meta.env',
      'VITE_',
      { literal: '', optional: '', brackets: 'some', computed: 'every', destructured: 'some', alias: 'every' },
    ],
    [
      'next',
      'process.env',
      'NEXT_PUBLIC_',
      // By webpack, and by Turbopack, which follows more.
      {
        ...{ literal: '', optional: '', brackets: '', computed: 'undefined' },
        ...{ destructured: 'some versions', alias: 'some versions' },
      },
    ],
  ])('%s', async (tool, object, prefix, said) => {
    const found: Record<string, string> = {};
    for (const [form, write] of Object.entries(forms)) {
      const code = `'use client';\n${write(object, `${prefix}API_URL`)};\n`;
      const { findings } = await lint({ 'src/main.ts': code }, `toolchain: ${tool}, code: [src], entry: [src/main.ts]`);
      const about = findings.filter(({ code }) => /^code\/(unreachable-read|whole-object)$/.test(code));
      const words = about
        .map(inWords)
        .map(({ code, message }) =>
          /some versions/.test(message)
            ? 'some'
            : /not every version/.test(message)
              ? 'some versions'
              : code === 'code/whole-object'
                ? 'every'
                : 'undefined',
        );
      found[form] = words.join();
    }
    expect(found).toEqual(said);
  });
});

describe('--fix', () => {
  test.each<[before: string, after: string]>([
    ['f(import.meta.env.API_URL) // kept  as it is', 'f(import.meta.env.VITE_API_URL) // kept  as it is'],
    ['import.meta.env.VITE_API_ULR', 'import.meta.env.VITE_API_URL'],
    ['import.meta.env["API_URL"]', 'import.meta.env["VITE_API_URL"]'],
    [
      'const e = process.env; e.VITE_API_URL; e.VITE_TIDES; e.VITE_TIDES',
      'const e = { VITE_API_URL: import.meta.env.VITE_API_URL, VITE_TIDES: import.meta.env.VITE_TIDES }; e.VITE_API_URL; e.VITE_TIDES; e.VITE_TIDES',
    ],
    ['const { VITE_API_URL: url } = import.meta.env, a = 1', 'const url = import.meta.env.VITE_API_URL, a = 1'],
    [
      'const { VITE_API_URL, VITE_TIDES = "x" } = import.meta.env',
      'const VITE_API_URL = import.meta.env.VITE_API_URL, VITE_TIDES = import.meta.env.VITE_TIDES ?? "x"',
    ],
    ['const { API_URL = 1 } = import.meta.env', 'const { VITE_API_URL: API_URL = 1 } = import.meta.env'],
    ['const { API_URL } = import.meta.env', 'const { VITE_API_URL: API_URL } = import.meta.env'],
    ['const { API_URL: url } = import.meta.env', 'const { VITE_API_URL: url } = import.meta.env'],
    ['fetch("https://api.saltmarsh.example/v1")', 'fetch(import.meta.env.VITE_API_URL)'],
  ])('%s', async (before, after) => {
    const { fixed } = await lint({ 'src/main.ts': before });
    expect(fixed()).toEqual({ 'src/main.ts': after });
    expect((await lint({ 'src/main.ts': after })).said.filter((text) => !text.includes('whole-object'))).toEqual([]);
  });

  test.each([
    'import.meta.env.VITE_A',
    'const e = import.meta.env; e.VITE_API_URL; e.VITE_A',
    'const e = import.meta.env; e.VITE_API_URL; f(e)',
    'export const e = import.meta.env; e.VITE_API_URL',
    'const e = import.meta.env; e.VITE_API_URL; export { e }',
    'const { VITE_API_URL, ...rest } = import.meta.env',
    '<a href="https://api.saltmarsh.example/v1" />',
    'import.meta.env.FARE_SIGNING_KEY',
    'import.meta.env?.VITE_API_URL',
    'process.env?.VITE_API_URL',
    "'VITE_API_URL' in import.meta.env",
    'let e = import.meta.env; if (x) e = y; e.VITE_API_URL',
    'const e = import.meta.env; e.VITE_API_URL = y; e.VITE_API_URL',
    'let key = "VITE_API_URL"; if (x) key = "VITE_TIDES"; import.meta.env[key]',
    'let key = "API_URL"; if (x) key = "TIDES"; import.meta.env[key]',
  ])('not safe: %s', async (code) => {
    expect((await lint({ 'src/main.tsx': code }, 'toolchain: vite, code: [src]')).fixed()).toEqual({});
  });
});

describe('a check with `in`', () => {
  test.each([
    ["'VITE_A' in import.meta.env", []],
    ['import.meta.env.VITE_A', ['code/unknown-name']],
    ["'VITE_FARE_SIGNING_KEY' in import.meta.env", ['code/server-read']],
  ])('%s: %j', async (code, codes) => {
    const { findings } = await lint({ 'src/main.ts': `${read} ${code}` });
    expect(findings.map((one) => one.code).filter((one) => one !== 'code/unused')).toEqual(codes);
  });
});

describe('--fix of imports and other objects', () => {
  const kit = 'toolchain: sveltekit, code: [src], entry: [src/main.ts]';
  const imports = "import { PUBLIC_API_ULR } from '$env/static/public';\n";
  const right = "import { PUBLIC_API_URL } from '$env/static/public';\n";
  test.each([
    [
      'only bound identifiers: no strings, comments, exported keys and types',
      'src/main.ts',
      `${imports}interface T { PUBLIC_API_ULR: string }\nf('PUBLIC_API_ULR', PUBLIC_API_ULR, o.PUBLIC_API_ULR); // PUBLIC_API_ULR\nexport const t: T = { PUBLIC_API_ULR };\nexport { PUBLIC_API_ULR };\n`,
      `${right}interface T { PUBLIC_API_ULR: string }\nf('PUBLIC_API_ULR', PUBLIC_API_URL, o.PUBLIC_API_ULR); // PUBLIC_API_ULR\nexport const t: T = { PUBLIC_API_ULR: PUBLIC_API_URL };\nexport { PUBLIC_API_URL as PUBLIC_API_ULR };\n`,
    ],
    [
      'a parameter of the same name',
      'src/main.ts',
      `${imports}const g = (PUBLIC_API_ULR: string) => PUBLIC_API_ULR;\ng(PUBLIC_API_ULR);\n`,
      `${right}const g = (PUBLIC_API_ULR: string) => PUBLIC_API_ULR;\ng(PUBLIC_API_URL);\n`,
    ],
    [
      'an alias in the import',
      'src/main.ts',
      "import { PUBLIC_API_ULR as url } from '$env/static/public';\nf(url);\n",
      "import { PUBLIC_API_URL as url } from '$env/static/public';\nf(url);\n",
    ],
    [
      'a name that is taken',
      'src/main.ts',
      `${imports}const PUBLIC_API_URL = 1;\nf(PUBLIC_API_ULR);\n`,
      "import { PUBLIC_API_URL as PUBLIC_API_ULR } from '$env/static/public';\nconst PUBLIC_API_URL = 1;\nf(PUBLIC_API_ULR);\n",
    ],
    [
      'a component, whose markup does not use the name',
      'src/routes/+page.svelte',
      `<script lang="ts">${imports}log(PUBLIC_API_ULR);\n</script>\n<p>berth</p>\n`,
      `<script lang="ts">${right}log(PUBLIC_API_URL);\n</script>\n<p>berth</p>\n`,
    ],
    [
      'a component, whose markup uses the name',
      'src/routes/+page.svelte',
      `<script>${imports}</script>\n{PUBLIC_API_ULR}\n`,
      "<script>import { PUBLIC_API_URL as PUBLIC_API_ULR } from '$env/static/public';\n</script>\n{PUBLIC_API_ULR}\n",
    ],
  ])('%s', async (_, path, before, after) => {
    const { fixed } = await lint({ [path]: before }, kit.replace('src/main.ts', path));
    expect(fixed()).toEqual({ [path]: after });
  });

  test('Nuxt: the object that the remedy names', async () => {
    const nuxt = 'toolchain: nuxt, code: [app], prefix: VITE_';
    const path = 'app/pages/index.vue';
    const page = (read: string) => `<script setup>\nconst u = ${read};\n</script>\n`;
    const { findings, fixed } = await lint({ [path]: page('process.env.API_URL') }, nuxt);
    const remedy = findings.map(inWords).find(({ code }) => code === 'code/unknown-name')?.remedy;
    expect(remedy).toBe('write import.meta.env.VITE_API_URL');
    expect(fixed()).toEqual({ [path]: page('import.meta.env.VITE_API_URL') });
  });

  test('Dart: the name of a constant', async () => {
    const code = (name: string) => `const url = String.fromEnvironment('${name}');\n`;
    const { fixed } = await lint({ 'lib/main.dart': code('API_ULR') }, 'toolchain: dart, runs: mobile, code: [lib]');
    expect(fixed()).toEqual({ 'lib/main.dart': code('API_URL') });
  });

  test('Angular: no name that the file does not declare or import', async () => {
    const { findings, fixed } = await lint(
      { 'src/main.ts': 'f(process.env.API_URL, process.env.API_ULR);\n' },
      'toolchain: angular, code: [src], entry: [src/main.ts]',
    );
    expect(findings.filter(({ code }) => code.startsWith('code/un')).length).toBeGreaterThan(1);
    expect(fixed()).toEqual({});
  });
});

test('an alias that changes: an error of the plugin’s build, and a read of the whole object without it', async () => {
  const code = { 'src/main.ts': 'let e = import.meta.env; if (x) e = y; f(e.VITE_API_URL)' };
  const config = "import adder from 'adder/vite';\nexport default { plugins: [adder()] };\n";
  expect((await lint({ ...code, 'vite.config.ts': config })).said).toEqual([
    'code/unreachable-read src/main.ts:1:44 VITE_API_URL is read through a name that may mean another object by then, so the plugin stops the build',
  ]);
  expect((await lint(code)).said).toEqual([expect.stringMatching(/^code\/whole-object src\/main.ts:1:44 /)]);
});

describe('a request that chooses the name that a server reads', () => {
  const said = 'a request chooses the name that is read from process.env, so it can ask for every secret';

  test('a name that is also sent in a response is one finding', async () => {
    const code = 'app.get("/c", (req, res) => res.end(process.env[req.query.name]))';
    const { findings } = await lint({ 'src/a.js': code }, 'runs: server, code: [src]');
    expect(findings.map(inWords).map(({ message }) => message)).toEqual([
      'any variable of process.env, chosen at run time, is sent in a response, including every secret in it',
    ]);
  });

  test.each([
    ['app.get("/c", (req, res) => { const v = process.env[req.query.name]; use(v) })', true],
    ['export const GET = async ({ url }) => { const n = url.searchParams.get("n"); return f(process.env[n]) }', true],
    [
      'export async function handler(event) { let name = "A"; if (event.q) name = event.q; return f(process.env[name]) }',
      true,
    ],
    [
      'export async function POST(request) { const { key } = await request.json(); f(process.env[`APP_${key}`]) }',
      true,
    ],
    ['const need = (name) => process.env[name] ?? stop(name); need("LEDGER_KEY")', false],
    [
      'app.get("/c", (req, res) => { const n = req.query.n; if (!["A"].includes(n)) return; f(process.env[n]) })',
      false,
    ],
    ['for (const one of ["A", "B"]) f(process.env[one])', false],
  ])('%s: %s', async (code, isError) => {
    const { findings } = await lint({ 'src/a.js': code }, 'runs: server, code: [src]');
    const found = findings.map(inWords).filter(({ message }) => message === said);
    expect(found.map(({ code: one, level }) => [one, level])).toEqual(isError ? [['code/whole-object', 'error']] : []);
  });
});

test('declared and never read: told at its line of the contract', async () => {
  const { findings } = await lint({ 'src/main.ts': read });
  expect(findings.map(({ code, variable, place }) => [code, variable, place?.line])).toEqual([
    ['code/unused', 'TIDES', 9],
    ['code/unused', 'UPLOAD_TOKEN', 10],
  ]);
});

test('a code directory that does not exist is not checked', async () => {
  expect((await lint({})).unread).toEqual([
    { path: 'src', inside: [], because: 'is in `code` of desk, but does not exist' },
  ]);
});

test.each([
  ['without another one that has some', { 'docs/a.mdx': '# Tides' }, 'code: [docs]', 'unread'],
  ['beside one that has some', { 'src/a.ts': read, 'docs/a.mdx': '# Tides' }, 'code: [src, docs]', 'skipped'],
] as const)('a code directory that contains no source file, %s', async (_, files, code, where) => {
  const { unread = [], skipped = [] } = await lint(files, `toolchain: vite, ${code}`);
  expect([unread.length, skipped.length]).toEqual(where === 'unread' ? [1, 0] : [0, 1]);
  expect([...unread, ...skipped].map(({ because }) => because)).toEqual([
    'is in `code` of desk, but contains no source file',
  ]);
});

describe('frameworks', () => {
  test('of a page only the code that ships counts, and names that work in the server render are marked', async () => {
    const files = {
      'pages/fares.tsx':
        'export async function getServerSideProps() { return { props: { a: sign(process.env.FARE_SIGNING_KEY) } } }\nexport default () => process.env.API_URL',
      'pages/api/fares.ts': 'export default (_, res) => res.json(sign(process.env.FARE_SIGNING_KEY))',
    };
    const { said } = await lint(files, 'toolchain: next, code: [pages]');
    expect(said).toEqual([
      'code/unknown-name pages/fares.tsx:2:34 API_URL is undefined here: the prefix NEXT_PUBLIC_ is missing (it works in the server render)',
    ]);
  });

  const key = 'process.env.FARE_SIGNING_KEY';
  test.each<[toolchain: string, path: string, code: string]>([
    [
      'tanstack-start',
      'src/routes/fares.tsx',
      `const f = createServerFn({ method: 'GET' }).handler(async () => sign(${key}))`,
    ],
    ['tanstack-start', 'src/a.ts', `export const m = createMiddleware().server(({ next }) => next(sign(${key})))`],
    [
      'tanstack-start',
      'src/a.ts',
      `export const where = createIsomorphicFn().server(() => sign(${key})).client(() => 0)`,
    ],
    ['tanstack-start', 'src/a.ts', `export const f = createServerOnlyFn(() => sign(${key}))`],
    [
      'tanstack-start',
      'src/routes/fares.ts',
      `export const Route = createFileRoute('/fares')({ server: { handlers: { GET: () => sign(${key}) } } })`,
    ],
    ['tanstack-start', 'src/a.ts', `export async function f() { 'use server'; return sign(${key}) }`],
    ['solid-start', 'src/routes/fares.ts', `export function GET() { return new Response(sign(${key})) }`],
    ['solid-start', 'src/fares.ts', `const f = query(async () => { 'use server'; return sign(${key}) }, 'fares')`],
    ['qwik', 'src/routes/index.tsx', `export const useFares = routeLoader$(async () => sign(${key}))`],
    ['qwik', 'src/components/fares.tsx', `const f = server$(function () { return sign(${key}) })`],
    ['qwik', 'src/routes/index.tsx', `export const onGet = async ({ json }) => json(200, sign(${key}))`],
    ['react-router', 'app/root.tsx', `export async function loader() { return { a: sign(${key}) } }`],
    [
      'react-router',
      'app/fares/page.tsx',
      `import type { Route } from './+types/page';\nexport const action = ({ request }: Route.ActionArgs) => sign(${key})`,
    ],
    ['gatsby', 'src/pages/fares.js', `export async function getServerData() { return { props: { a: sign(${key}) } } }`],
  ])('%s leaves to the server what is only for it: %s %s', async (toolchain, path, code) => {
    const files = (text: string) => ({
      [path]: `import { sign } from '${'../'.repeat(path.split('/').length - 1)}lib/sign';\n${text}\n`,
      'lib/sign.ts': `export const sign = (text) => text.length + ${key}.length;\n`,
    });
    const bundle = `toolchain: ${toolchain}, code: [${path.split('/')[0]}]`;
    expect((await lint(files(code), bundle)).said).toEqual([]);
    // Code that the rest of the file uses ships with it.
    const both = (await lint(files(`${code};\nexport const shown = sign(${key})`), bundle)).said;
    expect(both.map((one) => one.replace(/:\d+:\d+.*/, '')).sort()).toEqual(
      ['lib/sign.ts', path].map((one) => `code/server-read ${one}`).sort(),
    );
  });

  test('without a server, a loader runs in the browser', async () => {
    const files = {
      'src/routes/fares.tsx':
        "import { fares } from '../fares';\nexport const loader = () => fares(import.meta.env.VITE_API_URLS)",
      'src/fares.ts': `export const fares = (url) => fetch(url, { headers: { key: ${key} } })`,
    };
    expect((await lint(files, 'toolchain: vite, code: [src], entry: [src/routes/fares.tsx]')).said).toEqual([
      expect.stringMatching(/^code\/unknown-name src\/routes\/fares.tsx:2:51 /),
      expect.stringMatching(/^code\/server-read src\/fares.ts:1:72 .*: src\/routes\/fares.tsx → src\/fares.ts$/),
    ]);
  });

  test('of a page of Astro only scripts, and components that start in the browser, reach it', async () => {
    const page = (island: string) => `---
import Map from '../components/Map.tsx';
import { fares } from '../fares';
const list = await fares(import.meta.env.UPLOAD_TOKEN);
---
<p>{import.meta.env.FARE_SIGNING_KEY ? list : ''}</p><Map ${island} />
<script>import.meta.env.API_URL</script>`;
    const files = (island: string) => ({
      'src/pages/index.astro': page(island),
      'src/fares.ts': 'export const fares = (token) => process.env.FARE_SIGNING_KEY + token',
      'src/components/Map.tsx': 'export default () => import.meta.env.UPLOAD_TOKEN',
    });
    const bundle = 'toolchain: astro, code: [src]';
    const script = expect.stringMatching(/^code\/unknown-name src\/pages\/index.astro:7:25 API_URL .* prefix PUBLIC_/);
    expect((await lint(files(''), bundle)).said).toEqual([script]);
    expect((await lint(files('title="a > b" client:load'), bundle)).said).toHaveLength(2);
    const selfClosing = {
      'src/pages/index.astro': `${page('')}\n<script src="/a.js" />\n<p>{import.meta.env.UPLOAD_TOKEN}</p>`,
    };
    expect((await lint({ ...files(''), ...selfClosing }, bundle)).said).toEqual([script]);
    expect((await lint(files('client:load'), bundle)).said).toEqual([
      script,
      expect.stringMatching(
        /^code\/server-read src\/components\/Map.tsx:1:38 .* reaches the browser: src\/pages\/index.astro → /,
      ),
    ]);
  });

  test('keys of a framework’s configuration are names of the contract', async () => {
    const bundle = 'toolchain: nuxt, code: [app]';
    const page = (key: string) => ({
      'app/pages/index.vue': `<script setup>\nconst config = useRuntimeConfig()\n</script>\n<template>{{ config.${key} }}</template>`,
    });
    expect((await lint(page('public.apiUrl'), bundle)).said).toEqual([]);
    expect((await lint(page('public.app.name'), bundle)).said).toEqual([]);
    const slip = await lint(page('public.apiUlr'), bundle);
    expect(slip.said).toEqual([expect.stringMatching(/^code\/unknown-name app\/pages\/index.vue:4:28 apiUlr /)]);
    expect(slip.findings.map(inWords)[0]?.remedy).toContain('did you mean apiUrl?');
    expect((await lint(page('fareSigningKey'), bundle)).said).toEqual([
      expect.stringMatching(/^code\/server-read .* fareSigningKey \(FARE_SIGNING_KEY\), a server-only variable/),
    ]);
  });

  test('names that a configuration lists, and gives values of', async () => {
    const config = (more = '') => `export const config = { env: { apiUrl: process.env.API_URL${more} } };\n`;
    const code = "import { Env as E } from '@stencil/core';\n";
    const files = (reads: string, more = '') => ({
      'stencil.config.ts': config(more),
      'src/main.ts': `${code}f(${reads})`,
    });
    const bundle = 'toolchain: stencil, code: [src]';
    expect((await lint(files('E.apiUrl, E?.["apiUrl"]'), bundle)).said).toEqual([]);
    expect((await lint(files('E.key', ', key: process.env.FARE_SIGNING_KEY'), bundle)).said).toEqual([
      'code/server-read src/main.ts:2:5 key (FARE_SIGNING_KEY), a server-only variable, is read by code that reaches the browser of desk',
      'code/server-read stencil.config.ts:1:66 the configuration passes FARE_SIGNING_KEY, a server-only variable, to the code of desk as key',
    ]);
    expect((await lint(files('E.TIDES'), bundle)).said).toEqual([
      'code/unreachable-read src/main.ts:2:5 the configuration of desk does not inline TIDES, so a browser does not get it',
    ]);
    const slip = await lint(files('E.apiUlr'), bundle);
    expect(slip.said).toEqual([
      'code/unknown-name src/main.ts:2:5 apiUlr is undefined here: it is not in the contract',
    ]);
    expect(slip.fixed()).toEqual({ 'src/main.ts': `${code}f(E.apiUrl)` });
  });

  test('keys of a configuration that hands values to the app', async () => {
    const config = "export default { customFields: { api: process.env.API_URL, apk: 'x' } };\n";
    const page = (key: string) => `const { siteConfig } = useDocusaurusContext();\nf(siteConfig.customFields.${key})`;
    const files = (key: string) => ({ 'docusaurus.config.js': config, 'src/a.jsx': page(key) });
    const bundle = 'toolchain: docusaurus, code: [src]';
    for (const key of ['api', 'apk', 'berths']) expect((await lint(files(key), bundle)).said, key).toEqual([]);
    expect((await lint(files('aip'), bundle)).said).toEqual([
      'code/unknown-name src/a.jsx:2:27 aip is undefined here: it is not in the contract',
    ]);
  });

  test('keys of a configuration that ship where a query names them', async () => {
    const config =
      'module.exports = { siteMetadata: { title: "x", key: process.env.FARE_SIGNING_KEY, far: { api: process.env.API_URL } } };\n';
    const page = (asked: string) => `export const query = graphql\`{ site { siteMetadata { title ${asked} } } }\`;\n`;
    const files = (asked: string) => ({ 'gatsby-config.js': config, 'src/pages/a.jsx': page(asked) });
    const bundle = 'toolchain: gatsby, code: [src]';
    expect((await lint(files('far { api }'), bundle)).said).toEqual([]);
    expect((await lint(files('key'), bundle)).said).toEqual([
      'code/server-read gatsby-config.js:1:53 the configuration passes FARE_SIGNING_KEY, a server-only variable, to the code of desk as siteMetadata.key',
    ]);
  });

  test('a misspelt key is renamed, and a destructured one keeps its name in the code', async () => {
    const files = { 'app/a.ts': 'const { apiUlr } = useRuntimeConfig().public;\nf(apiUlr)' };
    const { fixed } = await lint(files, 'toolchain: nuxt, code: [app]');
    expect(fixed()).toEqual({ 'app/a.ts': 'const { apiUrl: apiUlr } = useRuntimeConfig().public;\nf(apiUlr)' });
  });

  test('a check for a name that nobody declared throws where there is no process', async () => {
    const bundle = 'toolchain: esbuild, code: [src]';
    const said = async (code: string) => (await lint({ 'src/main.ts': code }, bundle)).said;
    expect(await said("f('API_ULR' in process.env)")).toEqual([
      'code/unknown-name src/main.ts:1:3 API_ULR is undefined here: it is not in the contract',
    ]);
    expect(await said("f(typeof process !== 'undefined' && 'API_ULR' in process.env)")).toEqual([]);
    expect(await said("f('API_ULR' in import.meta.env)")).toEqual([]);
  });

  test('constants that a define option puts in', async () => {
    const bundle = 'toolchain: esbuild, code: [src], reads: [__*__]';
    expect((await lint({ 'src/main.ts': 'f(__API_URL__)' }, bundle)).said).toEqual([]);
    const { said, fixed } = await lint({ 'src/main.ts': 'f(__API_ULR__, process.env.TIDES)' }, bundle);
    expect(said).toEqual([
      'code/unknown-name src/main.ts:1:3 API_ULR is undefined here: it is not in the contract',
      'code/unreachable-read src/main.ts:1:28 the build of desk does not replace process.env (esbuild replaces __*__), so TIDES is not inlined here',
    ]);
    // A constant that the file does not have yet needs a declaration.
    expect(fixed()).toEqual({ 'src/main.ts': 'f(__API_URL__, process.env.TIDES)' });
  });

  test('pages, components and Dart', async () => {
    const page = {
      'web/index.html': '<title>%VITE_TIDES%</title><script type="module" src="/main.ts"></script>',
      'web/main.ts': 'import "./App.vue"',
      'web/App.vue': '<script setup>const a = import.meta.env.API_URL</script>',
    };
    expect((await lint(page, 'toolchain: vite, code: [web]')).said).toEqual([
      expect.stringContaining('code/unknown-name web/App.vue:1:41'),
    ]);
    const dart = {
      'lib/main.dart': "import 'fares.dart';",
      'lib/fares.dart': "const a = String.fromEnvironment('FARE_SIGNING_KEY');",
    };
    expect((await lint(dart, 'runs: mobile, toolchain: dart, code: [lib]')).said).toEqual([
      expect.stringMatching(
        /^code\/server-read lib\/fares.dart:1:35 .* ships in the app: lib\/main.dart → lib\/fares.dart$/,
      ),
    ]);
  });
});

describe('configurations of the build', () => {
  const configs = (config: string) => ({ 'src/main.ts': read, 'vite.config.js': config });

  test.each<[title: string, config: string, said: string[]]>([
    [
      'a server value in a define option',
      'export default { define: { __KEY__: JSON.stringify(process.env.FARE_SIGNING_KEY) } }',
      [
        'code/server-read vite.config.js:1:52 the configuration passes FARE_SIGNING_KEY, a server-only variable, to the code of desk as __KEY__',
      ],
    ],
    [
      'the whole environment',
      "import { loadEnv } from 'vite';\nexport default ({ mode }) => ({ define: { 'process.env': loadEnv(mode, '.', '') } })",
      [
        'code/whole-object vite.config.js:2:58 the configuration passes the whole environment to the code of desk as process.env, with every secret that the build has',
      ],
    ],
    [
      'a server value under a public name',
      'process.env.VITE_KEY = process.env.FARE_SIGNING_KEY;\nexport default {}',
      [
        'code/server-read vite.config.js:1:24 the configuration passes FARE_SIGNING_KEY, a server-only variable, to the code of desk as VITE_KEY',
      ],
    ],
    ['public values', "export default { define: { 'process.env.API_URL': JSON.stringify(process.env.API_URL) } }", []],
    ['a value that is only tested', 'export default { define: { __LIVE__: !!process.env.FARE_SIGNING_KEY } }', []],
    [
      'a stage that falls back to another one',
      "const stage = process.env.APP_ENV || 'development';\nexport default { base: stage }",
      [
        'code/fallback vite.config.js:1:38 `adder with` does not set APP_ENV, so this configuration takes development for production',
      ],
    ],
    [
      'a name that the configuration sets itself',
      "process.env.APP_ENV = 'production';\nexport default { base: process.env.APP_ENV || 'development' }",
      [],
    ],
    ['the stage of Adder', "export default { base: process.env.ADDER_STAGE ?? 'development' }", []],
    ['a fallback that is no stage', "export default { base: process.env.BASE ?? '/app' }", []],
    [
      'a word for a stage under a name for something else',
      "export default { base: process.env.BUILD_NUMBER ?? 'dev' }",
      [],
    ],
    [
      'values that it takes from the text of a file, by a condition',
      `import { readFileSync } from 'node:fs';
const lines = readFileSync('.env', 'utf8').split('\\n').map((line) => line.split('='));
export default { define: Object.fromEntries(lines.filter(([k]) => k !== 'X').map(([k, v]) => [k, JSON.stringify(v)])) }`,
      [
        'code/whole-object vite.config.js:3:26 the configuration passes values to the code of desk that it takes from a text; only a build tells which',
      ],
    ],
  ])('%s', async (_, config, said) => expect((await lint(configs(config))).said).toEqual(said));

  test('a configuration that only the build script names, and that imports another one', async () => {
    const files = {
      'src/main.ts': 'f(process.env.API_URL, process.env.TIDES)',
      'package.json': '{ "scripts": { "build": "npm run pack", "pack": "webpack --config tools/pack.cjs" } }',
      'tools/pack.cjs': "module.exports = [require('./common')]",
      'tools/common.js':
        "const { EnvironmentPlugin } = require('webpack'); module.exports = { plugins: [new EnvironmentPlugin(['API_URL'])] }",
    };
    expect((await lint(files, 'toolchain: webpack, code: [src]')).said).toEqual([
      'code/unreachable-read src/main.ts:1:36 the configuration of desk does not inline TIDES, so a browser does not get it',
    ]);
  });

  test('names that only a build tells', async () => {
    const files = {
      'src/main.ts': 'f(process.env.API_URL)',
      'webpack.config.js': 'module.exports = { plugins: [new DefinePlugin(definesOf(names))] }',
    };
    expect((await lint(files, 'toolchain: webpack, code: [src]')).said).toEqual([
      'code/unreachable-read webpack.config.js:undefined:undefined this configuration computes what it passes to code, so lint cannot tell whether desk gets API_URL',
    ]);
  });
});

describe('files that answer requests, in an app without a server', () => {
  const post = 'export async function POST() { return new Response("x"); }';
  const staticNext = "module.exports = { output: 'export' }";

  test.each<[title: string, toolchain: string, files: Record<string, string>, path: string | undefined]>([
    ['a route of Next', 'next', { 'next.config.js': staticNext, 'app/fare/route.ts': post }, 'app/fare/route.ts'],
    [
      'an API of Next',
      'next',
      { 'next.config.js': staticNext, 'pages/api/fare.ts': 'export default (req, res) => res.end()' },
      'pages/api/fare.ts',
    ],
    [
      'form actions of SvelteKit',
      'sveltekit',
      {
        'svelte.config.js':
          "import adapter from '@sveltejs/adapter-static'; export default { kit: { adapter: adapter() } }",
        'src/routes/+page.server.ts': 'export const actions = {}',
      },
      'src/routes/+page.server.ts',
    ],
    [
      'an endpoint of Astro',
      'astro',
      { 'astro.config.mjs': 'export default {}', 'src/pages/a.ts': post },
      'src/pages/a.ts',
    ],
    [
      'with an adapter',
      'astro',
      {
        'astro.config.mjs': "import node from '@astrojs/node'; export default { adapter: node() }",
        'src/pages/a.ts': post,
      },
      undefined,
    ],
    ...[
      ['nuxt generate', 'server/api/book.post.ts'],
      ['npm run static', 'server/api/book.post.ts'],
      ['nuxi build --prerender', 'server/api/book.post.ts'],
      ['nuxt build', undefined],
    ].map(([build, path]): [string, string, Record<string, string>, string | undefined] => [
      `the method in the name of a file, built with ${build}`,
      'nuxt',
      {
        'package.json': JSON.stringify({ scripts: { build, static: 'nuxt generate' } }),
        'nuxt.config.ts': 'export default defineNuxtConfig({})',
        'server/api/book.post.ts': 'export default defineEventHandler(f)',
        'server/api/fares.get.ts': 'export default defineEventHandler(f)',
      },
      path,
    ]),
    [
      'a host of static files',
      'nuxt',
      {
        'nuxt.config.ts': "export default defineNuxtConfig({ nitro: { preset: 'github-pages' } })",
        'server/routes/book.put.ts': 'export default defineEventHandler(f)',
      },
      'server/routes/book.put.ts',
    ],
    ['with a server', 'next', { 'next.config.js': 'module.exports = {}', 'app/fare/route.ts': post }, undefined],
    [
      'a file that the build writes',
      'next',
      { 'next.config.js': staticNext, 'app/fare/route.ts': post.replace('POST', 'GET') },
      undefined,
    ],
  ])('%s', async (_, toolchain, files, path) => {
    const { said } = await lint(files, `toolchain: ${toolchain}, code: [src, app, pages, server]`);
    expect(said.filter((one) => one.startsWith('code/no-server')).map((one) => one.split(' ')[1])).toEqual(
      path === undefined ? [] : [`${path}:undefined:undefined`],
    );
  });
});

describe('a program of another language', () => {
  const dart = 'runs: mobile, toolchain: dart, code: [lib], reads: [settings.values]';

  test('values that a Dart program loads as it runs, as `reads` of the contract says', async () => {
    const code = (name: string) => ({
      'lib/main.dart': `f(settings.values['${name}'], settings.values.get("TIDES"), other.values['X']);`,
    });
    expect((await lint(code('API_URL'), dart)).said).toEqual([]);
    expect((await lint(code('API_ULR'), dart)).said).toEqual([
      'code/unknown-name lib/main.dart:1:20 API_ULR is undefined here: it is not in the contract',
    ]);
    expect((await lint(code('FARE_SIGNING_KEY'), dart)).said).toEqual([
      'code/server-read lib/main.dart:1:20 FARE_SIGNING_KEY, a server-only variable, is read by code that ships in the app of desk',
    ]);
    expect((await lint({ 'lib/main.dart': "f(settings.values['API_URL'] ?? 'none');" }, dart)).said).toEqual([
      'code/fallback lib/main.dart:1:33 this fallback hides a missing API_URL: a build would ship it without a message',
    ]);
  });

  test('a bundle of Rust alone can be clean', async () => {
    const { said, unread } = await lint(
      { 'shell/src/main.rs': 'fn main() {}' },
      'runs: desktop, toolchain: other, code: [shell/src]',
    );
    expect([said, unread]).toEqual([[], []]);
  });

  const random = 'q9X2vT7mLp4Zr8Ks1Wd6Ny3B';
  test.each<[path: string, text: string, name: string]>([
    ['src/main.ts', `export const partnerSecret = '${random}';`, 'partnerSecret'],
    ['src/main.ts', `f({ "api_key": "${random}" });`, 'api_key'],
    ['src/main.ts', `let accessToken: string = \`${random}\`;`, 'accessToken'],
    ['lib/main.dart', `static const String partnerKey = '${random}';`, 'partnerKey'],
    ['shell/main.rs', `const PARTNER_SECRET: &'static str = "${random}";`, 'PARTNER_SECRET'],
    ['app/Main.kt', `val partnerPassword: String = "${random}"`, 'partnerPassword'],
    ['ios/Main.swift', `static let partnerToken = "${random}"`, 'partnerToken'],
  ])('a random text with a telling name in %s: %s', async (path, text, name) => {
    const { findings } = await lint({ [path]: text }, 'toolchain: other, code: [src, lib]');
    const found = findings.filter(({ code }) => code === 'code/secret-in-code');
    expect(found.map(({ facts }) => (facts as { name?: string }).name)).toEqual([name]);
    expect(JSON.stringify(findings)).not.toContain(random);
  });

  test.each([
    `export const publicKey = '${random}';`,
    `export const title = '${random}';`,
    "export const passwordLabel = 'Enter your new password';",
    "export const tokenHeader = 'x-partner-token-of-the-desk';",
    `export const partnerSecret = read('${random}');`,
  ])('no secret: %s', async (text) => {
    const { said } = await lint({ 'src/main.ts': text }, 'toolchain: other, code: [src]');
    expect(said).toEqual([]);
  });
});

test('a bundle with layers of its own has their values, and not those of another bundle', async () => {
  const shop = 'console.log(import.meta.env.VITE_TITLE, import.meta.env.VITE_PIER)';
  const { said } = await lint({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles:
  shop: { toolchain: vite, code: [shop], output: [dist/shop], layers: { production: [shop/.env] } }
  crew: { toolchain: vite, code: [crew], output: [dist/crew], layers: { production: [crew/.env] } }
variables: { VITE_TITLE: { reach: public, required: false }, VITE_PIER: { reach: public, required: false } }
`,
    'shop/main.js': shop,
    'crew/main.js': shop,
    'shop/.env': 'VITE_TITLE=Shop\nVITE_PIER=north\n',
    'crew/.env': 'VITE_TITLE=Crew\n',
  });
  expect(said.filter((one) => one.startsWith('code/unset'))).toEqual([
    'code/unset crew/main.js:1:57 no stage has a value of VITE_PIER, so it is undefined here, unless the machine that builds sets it',
  ]);
});

test.each([
  ['import.meta.env && import.meta.env.VITE_A', ['note code/whole-object tested']],
  ['import.meta.env?.VITE_A', []],
  ['typeof import.meta.env === "object" && import.meta.env.VITE_A', []],
])('what %s brings with it', async (read, expected) => {
  const contract =
    'adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { web: { toolchain: vite, code: [src], output: [dist] } }\n';
  const { findings } = await lint({
    'adder.yaml': `${contract}variables: { VITE_A: public }\n`,
    '.env': 'VITE_A=a\n',
    'src/main.js': `console.log(${read});`,
  });
  expect(findings.map(({ level, code, variant }) => `${level} ${code} ${variant}`)).toEqual(expected);
});

test('the value of one variable is not reported as the base of another one', async () => {
  const { said } = await lint({
    'adder.yaml':
      'adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { web: { toolchain: vite, code: [src], output: [dist] } }\nvariables: { VITE_SITE: public, VITE_API: public }\n',
    'src/main.js':
      "fetch('https://www.saltmarsh.example'); fetch(import.meta.env.VITE_API + import.meta.env.VITE_SITE);",
    '.env': 'VITE_SITE=https://www.saltmarsh.example\nVITE_API=https://www.saltmarsh.example/api\n',
  });
  expect(said).toEqual([
    'code/hard-coded src/main.js:1:8 hard-coded value of VITE_SITE in production: every stage gets it',
  ]);
});
