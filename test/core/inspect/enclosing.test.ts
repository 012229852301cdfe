import { describe, expect, test } from 'vitest';
import { enclosingNames } from '../../../src/core/inspect/enclosing.js';
import { findingsIn } from '../../support/artifacts.js';
import { contractOf } from '../../support/contract.js';
import { zipOf } from '../../support/unpack.js';

describe('names around a place', () => {
  test.each([
    ['function createSession(){return{sign:"HIT"}}', ['createSession', 'sign']],
    ['var e={"./src/checkout.ts":function(t){t.token="HIT"}}', ['./src/checkout.ts', 'token']],
    ['window.app.config={api:{key:"HIT"}}', ['window.app.config', 'api', 'key']],
    ['const session="HIT"', ['session']],
    ['class Cart{static total=()=>"HIT"}', ['Cart', 'total']],
    ['a(b=>c("HIT"))', []],
    ['one();\nfunction two(){\n  three("HIT")\n}', ['two']],
    ['({[x]:"HIT"})', []],
    ['not a script ( "HIT"', []],
  ])('%s', (text, names) => {
    const at = text.indexOf('HIT');
    const line = text.slice(0, at).split('\n').length;
    const column = at - text.lastIndexOf('\n', at);
    expect(enclosingNames(text, 'js')({ line, column })).toEqual(names);
  });
});

test('findings without a source map have them, masked', async () => {
  const contract = contractOf(
    'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { SIGNING_KEY: server }\n',
  );
  const key = 'made-up-signing-key-7f3a91';
  const env = `SIGNING_KEY=${key}\n`;
  const within = async (text: string, how: object = {}) =>
    (await findingsIn(contract, text, { env, ...how })).map((one) => one.within);
  expect(await within(`function createSession(){return{sign:"${key}"}}`)).toEqual([['createSession', 'sign']]);
  expect(await within(`x={"${key}":{a:"${key}"}}`)).toEqual([undefined, ['[masked]', 'a']]);
  const map = JSON.stringify({ version: 3, sources: ['src/a.ts'], names: [], mappings: 'AAAA' });
  expect(await within(`x={a:"${key}"}`, { map })).toEqual([undefined]);
  expect(await within(`{"a":"${key}"}`, { fileName: 'a.json' })).toEqual([undefined]);
});

describe('source maps in containers', () => {
  const contract = contractOf(
    'adder: 1\nstages: { production: { layers: [.env] } }\nvariables: { SIGNING_KEY: server }\n',
  );
  const key = 'made-up-signing-key-7f3a91';
  const script = `a();b("${key}")`;
  const map = (sources: string[]) =>
    JSON.stringify({
      version: 3,
      sources,
      sourcesContent: [`first();\nsecond("${key}")\n`],
      names: [],
      // a() comes from line 1, and b() from line 2.
      mappings: 'AAAA,IACA',
    });
  const origins = async (files: Record<string, string | Uint8Array>) => {
    const env = `SIGNING_KEY=${key}\n`;
    const all = await findingsIn(contract, zipOf(files), { env, fileName: 'crew.apk' });
    return all.flatMap(({ place, origin }) =>
      place?.inside.at(-1)?.endsWith('.js') ? [origin && `${origin.path}:${origin.line}`] : [],
    );
  };

  test.each<[string, Record<string, string | Uint8Array>, string | undefined]>([
    ['beside', { 'assets/app.js': script, 'assets/app.js.map': map(['../src/a.ts']) }, 'src/a.ts:2'],
    [
      'by the name in the last comment',
      { 'a/app.js': `${script}\n//# sourceMappingURL=./maps/x.map`, 'a/maps/x.map': map(['webpack://crew/src/a.ts']) },
      'src/a.ts:2',
    ],
    [
      'inline',
      {
        'app.js': `${script}\n//# sourceMappingURL=data:application/json;base64,${Buffer.from(map(['src/a.ts'])).toString('base64')}`,
      },
      'src/a.ts:2',
    ],
    [
      'in a container in it',
      { 'inner.zip': zipOf({ 'b/app.js': script, 'b/app.js.map': map(['src/a.ts']) }) },
      'b/src/a.ts:2',
    ],
    ['missing', { 'app.js': script }, undefined],
    ['damaged', { 'app.js': script, 'app.js.map': '{"version":3,' }, undefined],
  ])('%s', async (_, files, origin) => expect(await origins(files)).toEqual([origin]));
});
