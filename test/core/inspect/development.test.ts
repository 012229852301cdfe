import { build } from 'esbuild';
import { beforeAll, describe, expect, test } from 'vitest';
import { checksOfNodeEnv } from '../../../src/core/inspect/development-code.js';
import { findingsIn, type How } from '../../support/artifacts.js';
import { contractOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const stages = 'stages: { production: { layers: [.env] } }\nvariables: { APP_URL: public }\n';
const contract = contractOf(`adder: 1\n${stages}`);

const facts = { forbidsMaps: false };
const found = async (code: string, text: string, how?: How, of = contract) =>
  (await findingsIn(of, text, { facts, ...how }))
    .map(inWords)
    .flatMap((one) => (one.code === code ? [one.message] : []));

describe('addresses of a developer', () => {
  const local = (text: string, how?: How) => found('stage/local-address', text, how);

  test.each([
    [
      'fetch("http://localhost:3000/api")',
      "contains http://localhost:3000, an address that only a developer's machine has",
    ],
    [
      "new WebSocket('ws://127.0.0.1:8080')",
      "contains ws://127.0.0.1:8080, an address that only a developer's machine has",
    ],
    ['x={"api":"http:\\/\\/192.168.1.20\\/v1"}', 'contains http://192.168.1.20, an address in a private network'],
    ['a("http://10.0.0.7/api")', 'contains http://10.0.0.7, an address in a private network'],
    ['host:"localhost:5173"', "contains localhost:5173, an address that only a developer's machine has"],
    [
      'a("http://localhost:3000/a"),b(`http://localhost:3000/b`)',
      "contains http://localhost:3000, an address that only a developer's machine has (2 places)",
    ],
  ])('%s', async (text, message) => expect(await local(text)).toEqual([message]));

  test.each<[string, string, How?]>([
    ['the base of relative URLs', 'new URL(path, "http://localhost")'],
    ['a comment', '// run it, then open http://localhost:3000\n'],
    ['a sentence', 'throw Error("no answer at http://localhost:3000")'],
    ['a public host', 'fetch("https://10.example.test/")'],
    ["a tool's port in a library", 'var u="http://localhost:8081/"'],
    ['a longer host', '"http://localhost.example.test:80"'],
    ['a package', 'a("http://localhost:3000")', { fileName: 'node_modules/a/index.js' }],
    ['a declaration', 'a("http://localhost:3000")', { fileName: 'http.d.ts' }],
  ])('%s is none', async (_, text, how = {}) => expect(await local(text, how)).toEqual([]));

  test('in a desktop app it is a note', async () => {
    const text = 'load("http://localhost:3000")';
    const levels = async (runs: 'browser' | 'desktop') =>
      (await findingsIn(contract, text, { facts: { forbidsMaps: false, runs } })).map(({ level }) => level);
    expect([await levels('browser'), await levels('desktop')]).toEqual([[undefined], ['note']]);
  });

  test('a stage that has such a value is not checked, nor are server files and stages that do not ship', async () => {
    const text = 'fetch("http://localhost:3000/api")';
    expect(await local(text, { env: 'APP_URL=http://localhost:9999\n' })).toEqual([]);
    expect(await local(text, { audience: 'server' })).toEqual([]);
    const dev = contractOf(`adder: 1\n${stages.replace('{ layers', '{ build-as: development, layers')}`);
    expect(await found('stage/local-address', text, {}, dev)).toEqual([]);
  });
});

/** An app with a library that has two versions, as many have. */
const library: Readonly<Record<string, string>> = {
  'index.js': 'module.exports=process.env.NODE_ENV==="production"?require("./small.js"):require("./large.js")',
  'small.js': 'exports.run=x=>x',
  'large.js': `exports.run=x=>{if(!x)throw Error("${'explained at length '.repeat(50)}");return x}`,
};

async function built(nodeEnv: string | undefined): Promise<string> {
  const { outputFiles } = await build({
    stdin: { contents: 'import {run} from "library"; console.log(run(document.title))', resolveDir: '/' },
    bundle: true,
    minify: true,
    write: false,
    platform: 'neutral',
    logLevel: 'silent',
    ...(nodeEnv && { define: { 'process.env.NODE_ENV': JSON.stringify(nodeEnv) } }),
    plugins: [
      {
        name: 'library',
        setup({ onResolve, onLoad }) {
          onResolve({ filter: /^library$|^\.\// }, ({ path }) => ({
            path: path === 'library' ? 'index.js' : path.slice(2),
            namespace: 'library',
          }));
          onLoad({ filter: /./, namespace: 'library' }, ({ path }) => ({ contents: library[path] ?? '' }));
        },
      },
    ],
  });
  return outputFiles[0]?.text ?? '';
}

describe('one app, built three ways', () => {
  let [absent, development, production] = ['', '', ''];
  beforeAll(async () => {
    [absent, development, production] = (await Promise.all([undefined, 'development', 'production'].map(built))) as [
      string,
      string,
      string,
    ];
  });

  test('NODE_ENV was absent: what remains is measured, and is nearly what a production build lacks', async () => {
    const [message] = await found('stage/development-build', absent);
    expect(message).toMatch(
      /^still checks NODE_ENV in 1 place, so development code ships; production removes at least/,
    );
    const { removable = 0 } = checksOfNodeEnv(absent, 'js') ?? {};
    const less = absent.length - production.length;
    expect(removable).toBeGreaterThan(less * 0.9);
    expect(removable).toBeLessThanOrEqual(less + 60);
  });

  test('code of a desktop app may check NODE_ENV when it runs', async () => {
    const text = 'if(process.env.NODE_ENV!=="production")openTools()';
    const desktop = { facts: { forbidsMaps: false, runs: 'desktop' as const } };
    expect(await found('stage/development-build', text, desktop)).toEqual([]);
    const large = `${text};process.env.NODE_ENV!=="production"&&warn("${'explained '.repeat(1200)}")`;
    expect(await found('stage/development-build', large, desktop)).toHaveLength(1);
  });

  test('production code has no text of development code', async () => {
    expect(await found('stage/development-build', production)).toEqual([]);
    expect(development.length).toBeGreaterThan(production.length);
  });
});

describe('checks of NODE_ENV', () => {
  const removed = (text: string) => checksOfNodeEnv(text, 'js')?.removable;

  test.each([
    ['if(process.env.NODE_ENV!=="production"){a()}', 5],
    ['if(process.env.NODE_ENV==="production")a();else bb()', 4],
    ['"production"!==process.env.NODE_ENV&&warn()', 6],
    ['x=process.env.NODE_ENV==="production"?1:22', 2],
    ['if(!(process.env.NODE_ENV=="production")&&y)z()', 4],
    ['if(process.env["NODE_ENV"]!=="production"||y)z()', 0],
    ['function w(){}process.env.NODE_ENV!=="production"&&w()', 17],
    ['function w(){}w();process.env.NODE_ENV!=="production"&&w()', 3],
    ['var a=wrap({x(e){}}),b=1;process.env.NODE_ENV==="production"||a()', 19],
    ['log(process.env.NODE_ENV)', 0],
    ['function f(w){w()}function w(){}f();process.env.NODE_ENV!=="production"&&w()', 17],
  ])('%s', (text, bytes) => expect(removed(text)).toBe(bytes));

  test.each(['"process.env.NODE_ENV"', '// process.env.NODE_ENV\n', 'a.process_env.NODE_ENV', '!!!'])(
    '%s has none',
    (text) => expect(removed(text)).toBeUndefined(),
  );
});

describe('development builds', () => {
  const react = '"Download the React DevTools for a better development experience: "';

  test('by a text of a library, with the size of its modules by the source map', async () => {
    const map = JSON.stringify({
      version: 3,
      sources: ['../node_modules/react-dom/cjs/react-dom.development.js', '../src/main.js'],
      names: [],
      mappings: 'AAAA,oECCA',
    });
    expect(await found('stage/development-build', react)).toEqual(['contains development code of React']);
    const [message] = await found('stage/development-build', `${react};main()`, { map });
    expect(message).toMatch(/^contains development code of React: \d+ bytes are development modules of react-dom$/);
  });

  test.each<[string, How]>([
    ['page.txt', { fileName: 'page.txt' }],
    ['a server file', { audience: 'server' }],
    ['a file of no bundle, such as a package', { facts: undefined }],
  ])('%s is not checked', async (_, how) => expect(await found('stage/development-build', react, how)).toEqual([]));
});
