import { describe, expect, test } from 'vitest';
import { findingsIn, type How } from '../../support/artifacts.js';
import { contractOf } from '../../support/contract.js';
import { zipOf } from '../../support/unpack.js';

const contract = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
variables: { VITE_FERRY_API_URL: public, FARE_SIGNING_KEY: server, QUAY_TOKEN: build }
`);

const told = async (text: string | Uint8Array, how?: How) =>
  (await findingsIn(contract, text, how)).map(({ code, level, message }) => `${code} ${level ?? ''}: ${message}`);

const lines = 'VITE_FERRY_API_URL=https://a.test\nFARE_SIGNING_KEY=\nQUAY_TOKEN=\n# keys\nOTHER_NAME=1\n';

describe('a whole env file', () => {
  test.each<[string, string | Uint8Array, How, RegExp]>([
    ['by its name', 'A=1\nB=2\n', { fileName: '.env.production' }, /^leak\/env-file : is an env file with 2 values$/],
    ['in an archive', zipOf({ 'assets/.env': 'A=1\n' }), { fileName: 'crew.apk' }, /is an env file with 1 value$/],
    [
      'under another name',
      lines,
      { fileName: 'config.txt' },
      /contains the lines of an env file: VITE_FERRY_API_URL, .* and 1 more/,
    ],
    ['imported as text', `const raw=${JSON.stringify(lines)}`, {}, /contains the lines of an env file: .* and 1 more/],
    [
      'in a program',
      Buffer.concat([Buffer.alloc(99), Buffer.from(`x\n${lines}`), Buffer.alloc(99)]),
      { fileName: 'libapp.so' },
      /contains the lines/,
    ],
    ["with a server's files", 'A=1\n', { fileName: '.env', audience: 'server' }, /^leak\/env-file warning/],
  ])('%s', async (_, text, how, expected) => {
    const all = (await told(text, how)).filter((one) => one.startsWith('leak/env-file'));
    expect(all).toHaveLength(1);
    expect(all[0]).toMatch(expected);
  });

  test.each<[string, string, How]>([
    ['an example', 'A=1\n', { fileName: '.env.example' }],
    ['a script of such a name', 'window.env = { A: 1 };\nexport {};\n', { fileName: 'env.js' }],
    ['one line', 'x\nVITE_FERRY_API_URL=https://a.test\nthe end\n', { fileName: 'readme.txt' }],
    ['code with the names', 'const VITE_FERRY_API_URL=1,FARE_X=2;', {}],
  ])('%s is none', async (_, text, how) => {
    expect((await told(text, how)).filter((one) => one.startsWith('leak/env-file'))).toEqual([]);
  });
});

const environment = {
  PATH: '/usr/bin',
  HOME: '/home/kai',
  npm_lifecycle_event: 'build',
  npm_config_user_agent: 'npm/10',
  SHELL: '/bin/sh',
};

describe('the environment of the build', () => {
  test.each([
    ['as an object', `var e=${JSON.stringify(environment)}`],
    ['as an object with plain keys', `var e={PATH:"/usr/bin",HOME:"/home/kai",npm_lifecycle_event:"build",USER:"kai"}`],
    ['as JSON in a string', `var e=JSON.parse(${JSON.stringify(JSON.stringify(environment))})`],
  ])('%s', async (_, text) => {
    expect(await told(text)).toEqual([
      expect.stringMatching(
        /^leak\/env-dump : contains the environment of the build: PATH, HOME, npm_lifecycle_event and [12] more$/,
      ),
    ]);
  });

  test.each([
    [
      'a script that reads it',
      'if(process.env.npm_lifecycle_event==="test"||process.env.npm_config_user_agent)x(process.env.HOME)',
    ],
    ['a list of names', '["npm_lifecycle_event","PATH","HOME","USER","SHELL"]'],
    ['one value', '{"npm_lifecycle_event":"build"}'],
  ])('%s is none', async (_, text) => expect(await told(text)).toEqual([]));
});

describe('names and directories', () => {
  test('the name of a server variable in code for browsers, once', async () => {
    expect(await told('throw Error("FARE_SIGNING_KEY is missing");log("FARE_SIGNING_KEY")')).toEqual([
      'leak/name : contains the name FARE_SIGNING_KEY, a variable that only a server or the build reads',
    ]);
    expect(await told('MY_FARE_SIGNING_KEY FARE_SIGNING_KEYS VITE_FERRY_API_URL')).toEqual([]);
    expect(await told('"FARE_SIGNING_KEY"', { audience: 'server' })).toEqual([]);
  });

  test('a directory of this machine', async () => {
    const directories = ['/home/kai/ferries'];
    expect(await told('a("/home/kai/ferries/web/src/main.ts")', { directories })).toEqual([
      'leak/build-machine : contains the path of a directory of this machine',
    ]);
    expect(await told('a("/home/user/other")', { directories })).toEqual([]);
  });
});
