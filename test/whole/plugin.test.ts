import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, type Ran, secrets, type TestProject } from '../support/adder.js';
import { browserPath, launch, serve } from '../support/browser.js';
import { type Bundler, buildScript, bundlers, plugin, runBundle, scriptOf } from '../support/bundlers.js';

/** How often the address is read in {@link app} and its other module. */
const SITES = 6;

/** Reads in every form; their results are stored where the page and the tests find them. */
const app = (object: string, name: string) => `import { other } from './other.js';
import { named } from './named.js';
const { ${name}: taken, ${name.replace('FERRY_API_URL', 'QUAY_HINT')}: absent = 'none' } = ${object};
const env = ${object};
globalThis.seen = {
  literal: ${object}.${name},
  bracket: ${object}['${name}'],
  optional: ${object}?.${name},
  alias: env.${name},
  taken,
  absent,
  there: '${name}' in ${object},
  named,
  text: '${object}.${name}',
  shadowed: ((process) => process.env.${name})({ env: { ${name}: 'own' } }),
  other: other(),
};
`;

const address = 'https://api.saltmarsh.example';
const readBy = ({ object, prefix }: Bundler) => `${object}.${prefix}FERRY_API_URL`;
const otherModule = (read: string) => `\n\nexport const other = () => {\n  return new Error(${read}).message;\n};\n`;
const namedModule =
  "import { NOTICE_BANNER, TIDE_CHART } from 'adder/values';\nexport const named = [NOTICE_BANNER, TIDE_CHART];\n";

function projectFor(bundler: Bundler, files: Record<string, string> = {}): TestProject {
  const { name, object, prefix } = bundler;
  const contract = ferryContract
    .replace('toolchain: vite', `toolchain: ${name}`)
    .replace('prefix: VITE_', `prefix: '${prefix}', reads: [${object}]`);
  return ferryProject({
    'adder.yaml': `${contract}  QUAY_HINT: { reach: public, required: false }\n`,
    'package.json': '{ "type": "module", "private": true }',
    'build.mjs': buildScript(bundler),
    'src/main.js': app(object, `${prefix}FERRY_API_URL`),
    'src/other.js': otherModule(readBy(bundler)),
    'src/named.js': namedModule,
    '.env': 'TIDE_CHART=true\nNOTICE_BANNER=ahoy\n',
    // A bundler's own reading of env files is switched off: this value must win nowhere.
    '.env.local': `${prefix}QUAY_HINT=made-up-hint-of-the-file\nVITE_FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
    ...files,
  }).withPackages();
}

const build = (at: TestProject, ...args: string[]): Ran =>
  at.adder(['with', 'production', '--', 'node', 'build.mjs', ...args]);

let browser: Browser | undefined;
beforeAll(async () => {
  if (browserPath) browser = await launch();
});
afterAll(() => browser?.close());

describe.each(bundlers)('$name with the plugin', (bundler) => {
  const expected = {
    ...{ literal: address, bracket: address, optional: address, alias: address, taken: address, other: address },
    ...{ absent: 'none', there: true, named: ['ahoy', true], text: readBy(bundler), shadowed: 'own' },
  };

  // The others have no options of their own for development.
  const modes = /^(vite|webpack)$/.test(bundler.name) ? ['production', 'development'] : ['production'];
  describe.each(modes)('a build for %s', (mode) => {
    const at = projectFor(bundler);
    let ran: Ran;
    beforeAll(() => {
      ran = build(at, mode);
    });

    test('every form of a read has the value, nothing else is touched, and nothing else came in', () => {
      expect(ran.code, ran.stdout + ran.stderr).toBe(0);
      const { text } = scriptOf(at);
      expect(runBundle(text)).toEqual(expected);
      // A minifier may join equal strings; without one, each site is there.
      if (mode === 'development') expect(text.split(address)).toHaveLength(SITES + (bundler.keepsUnused ? 1 : 0) + 1);
      expect(text).not.toContain('made-up');
      at.expectNone(Object.values(secrets), ran, 'dist');
      const { report } = at.json(['why', 'FERRY_API_URL']);
      expect(report.bundles[0].built).toMatchObject({ modules: ['src/main.js', 'src/other.js'] });
    });

    test('source maps still point at the line that was written', () => {
      const { name, text } = scriptOf(at);
      const offset = text.search(/(?<!\w)Error\(/);
      const line = text.slice(0, offset).split('\n').length;
      const column = offset - (text.lastIndexOf('\n', offset) + 1);
      const origin = originalPositionFor(new TraceMap(at.read(`dist/${name}.map`)), { line, column });
      expect([origin.source?.endsWith('src/other.js'), origin.line]).toEqual([true, 4]);
    });

    test.skipIf(!browserPath)('the page has them in a browser', async () => {
      at.write('dist/index.html', `<script type="module" src="/${scriptOf(at).name}"></script>`);
      const server = await serve(at.path('dist'));
      const page = await (browser as Browser).newPage();
      try {
        await page.goto(server.url);
        expect(await page.evaluate(() => (globalThis as { seen?: unknown }).seen)).toEqual(expected);
      } finally {
        await page.close();
        server.close();
      }
    });
  });

  test('without the plugin it is the same app: to the byte where nothing is read, in what it does where values are', () => {
    const at = projectFor(bundler, { 'src/named.js': "export const named = ['ahoy', true];\n", '.env.local': '' });
    const env = { [`${bundler.prefix}FERRY_API_URL`]: address };
    expect(build(at, 'production', 'plain').code).toBe(0);
    expect(runBundle(scriptOf(at).text, env)).toEqual(expected);
    at.write('src/main.js', "import { named } from './named.js';\nglobalThis.seen = { named };\n");
    const bytes = (...how: string[]) => {
      const ran = build(at, 'production', ...how);
      expect(ran.code, ran.stdout + ran.stderr).toBe(0);
      const { name, text } = scriptOf(at);
      return [name, text, at.read(`dist/${name}.map`)];
    };
    expect(bytes()).toEqual(bytes('plain'));
  });

  test('a server value stops the build, which names the chain of imports and not the value', () => {
    const at = projectFor(bundler, { 'src/other.js': `export const other = ${bundler.object}.FARE_SIGNING_KEY;\n` });
    const ran = build(at);
    expect(ran.code).not.toBe(0);
    expect(ran.stdout + ran.stderr).toContain(
      'FARE_SIGNING_KEY, a server-only variable, is read by a module that reaches the browser: src/main.js → src/other.js',
    );
    at.expectNone(Object.values(secrets), ran);
  });

  test('a misspelt import of the values is an error of the build', () => {
    const at = projectFor(bundler, { 'src/named.js': namedModule.replaceAll('TIDE_CHART', 'TIDE_CHARD') });
    const ran = build(at);
    expect(ran.stdout + ran.stderr).toContain('TIDE_CHARD');
    expect(ran.code).not.toBe(0);
  });
});

test('without a stage the build says how to name one', () => {
  const { code, stderr } = projectFor(bundlers[1] as Bundler).node('build.mjs');
  expect([code, stderr]).toEqual([1, expect.stringContaining('no stage for this build')]);
});

describe('stage and bundle', () => {
  const vite = bundlers[0] as Bundler;
  const contract = (at: TestProject) => at.read('adder.yaml');

  test('an option that contradicts `adder with` is an error', () => {
    const at = projectFor(vite);
    at.write('build.mjs', at.read('build.mjs').replace('adder()', "adder({ stage: 'staging' })"));
    const { code, stdout, stderr } = build(at);
    expect(code).not.toBe(0);
    expect(stdout + stderr).toContain("`adder with` builds the stage production, but the plugin's options say staging");
  });

  test('with several bundles, the one of `adder with`', () => {
    const at = projectFor(vite);
    at.write(
      'adder.yaml',
      contract(at).replace('bundles:\n', 'bundles:\n  kiosk: { toolchain: vite, code: [kiosk] }\n'),
    );
    const { code, stdout, stderr } = at.adder([
      'with',
      'production',
      '--bundle',
      'ticket-desk',
      '--',
      'node',
      'build.mjs',
    ]);
    expect(code, stdout + stderr).toBe(0);
  });

  test('a default stage is for dev servers, not for builds', async () => {
    const at = projectFor(vite);
    at.write('adder.yaml', contract(at).replace('stages:', 'default-stage: production\nstages:'));
    const { code, stderr } = at.node('build.mjs');
    expect([code, stderr]).toEqual([1, expect.stringContaining('no stage for this build')]);
    const { default: adder } = await import(plugin('vite'));
    const { createServer } = await import('vite');
    const server = await createServer({
      root: at.folder,
      configFile: false,
      logLevel: 'silent',
      server: { port: 0 },
      plugins: [adder({ contract: at.path('adder.yaml') })],
    });
    try {
      const served = await server.transformRequest('/src/other.js');
      expect(served?.code).toContain('https://api.saltmarsh.example');
    } finally {
      await server.close();
    }
  });
});

test.each(['vite', 'rollup', 'rolldown', 'webpack', 'rspack', 'esbuild'])(
  '%s: a public variable that is left unreplaced stops the build',
  (name) => {
    const bundler = bundlers.find((one) => one.name === name) ?? expect.unreachable();
    const at = projectFor(bundler);
    // Code that a later plugin adds was never seen.
    const footer = `globalThis.late = ${bundler.object}.${bundler.prefix}FERRY_API_URL;`;
    const packs = name.endsWith('pack');
    const late = packs
      ? `new bundler.BannerPlugin({ raw: true, footer: true, banner: '${footer}' })`
      : `{ name: 'late', renderChunk: (code) => code + '\\n${footer}' }`;
    const script = at.read('build.mjs');
    const changed =
      name === 'esbuild'
        ? script.replace(', plugins }', `, footer: { js: '${footer}' }, plugins }`)
        : script.replace(/adder\(([^)]*)\)/, `adder($1), ${late}`);
    expect(changed).not.toBe(script);
    at.write('build.mjs', changed);
    const { code, stdout, stderr } = build(at);
    expect(code, stdout + stderr).not.toBe(0);
    expect(stdout + stderr).toMatch(/FERRY_API_URL is not replaced in .*main.*\.js/);
  },
);
