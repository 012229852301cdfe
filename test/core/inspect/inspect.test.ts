import { describe, expect, test } from 'vitest';
import { valueHits, wholeForms } from '../../../src/core/inspect/hits.js';
import { Masker } from '../../../src/core/inspect/masked-text.js';
import { planSearch } from '../../../src/core/inspect/plan.js';
import { inlineSourceMap, SourceMap, sourceMapAddress } from '../../../src/core/inspect/source-map.js';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { resolveStage } from '../../../src/core/resolve/resolve.js';
import { findAll } from '../../../src/core/search/matcher.js';
import { sampledGrams } from '../../../src/core/search/sampled-grams.js';
import { contractOf } from '../../support/contract.js';
import { allOf } from '../../support/needles.js';

const contract = contractOf(`adder: 1
stages: { staging: { layers: [.env.staging] }, production: { layers: [.env, .env.production] } }
variables:
  URL: public
  KEY: server
  TOKEN: { reach: build, required: false }
  PORT: { reach: server, required: false }
`);

const files: Record<string, string> = {
  '.env': 'KEY=overridden-fare-key\n',
  '.env.staging': 'URL=https://api.saltmarsh.test\nKEY=staging-fare-key\nPORT=4180\n',
  '.env.production':
    'URL=https://api.saltmarsh.test/v2\nKEY=production-fare-key\nTOKEN=https://api.saltmarsh.test/v2\nSTRAY=stray-value-of-nobody\n',
};
const resolutions = [...contract.stages.values()].map((stage) =>
  resolveStage(
    contract,
    stage,
    stage.layers.map(({ name }) => readEnvFileLayer(name, name, Buffer.from(files[name] ?? ''), noFacts)),
  ),
);
const plan = planSearch(contract, 'production', resolutions);

/** Hits of a search of a text: role, variable, stage and encoding. */
function found(text: string): string[] {
  const bytes = Buffer.from(text);
  const hits = findAll(sampledGrams(plan.needles.strings), bytes);
  return valueHits(
    wholeForms(hits, plan.needles, (from, to) => bytes.subarray(from, to)),
    plan.needles,
  ).map(({ owner, encoding }) => `${owner.role} ${owner.variable} ${owner.stage} ${encoding.join()}`);
}

describe('what is searched for', () => {
  test.each<[text: string, found: string[]]>([
    ['x=production-fare-key', ['secret KEY production plain']],
    ['x=staging-fare-key', ['secret KEY staging plain']],
    ['x=overridden-fare-key', ['secret KEY production plain']],
    ['x=stray-value-of-nobody', ['setting STRAY production plain']],
    [btoa('xproduction-fare-keyx'), ['secret KEY production base64']],
    [btoa('xproduction-fare-keyx').replace(/^.{8}/, '$&\r\n'), ['secret KEY production base64-lines']],
    [btoa('xproduction-fare-keyx').slice(0, 14), []],
    ['https://api.saltmarsh.test/v2', ['present URL production plain']],
    ['https://api.saltmarsh.test', ['foreign URL staging plain']],
    ['PORT=4180', []],
  ])('%s', (text, expected) => expect(found(text)).toEqual(expected));

  test('values that are not searched for are listed with the reason', () => {
    expect(plan.notSearched).toEqual([
      { variable: 'TOKEN', stage: 'production', because: 'equal to the public URL' },
      { variable: 'PORT', stage: 'staging', because: 'shorter than 6 bytes' },
    ]);
  });

  test('`search` of the contract: always or never', () => {
    const rules = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
variables: { A: { reach: server, search: always }, B: { reach: server, search: never } }
`);
    const layer = readEnvFileLayer('.env', '.env', Buffer.from('A=tickets\nB=made-up-server-key\n'), noFacts);
    const stage = rules.stages.get('production') ?? expect.unreachable();
    const { needles, notSearched } = planSearch(rules, 'production', [resolveStage(rules, stage, [layer])]);
    expect(new Set(allOf(needles).flatMap(({ owners }) => owners.map(({ variable }) => variable)))).toEqual(
      new Set(['A']),
    );
    expect(notSearched).toEqual([{ variable: 'B', stage: 'production', because: '`search: never` in the contract' }]);
  });

  test('overlapping needles of one value are one hit, the longest', () => {
    expect(found('production-fare-key\\')).toHaveLength(1);
    expect(found(JSON.stringify(JSON.stringify('a"production-fare-key'))).length).toBe(1);
  });
});

describe('a piece of an artifact, masked', () => {
  const masker = new Masker(plan);
  const piece = (text: string, from: number, to: number, focus: [number, number]) =>
    masker.piece(Buffer.from(text), from, to, { start: focus[0], end: focus[1] });

  test('the place moves with masks before it', () => {
    const text = 'a=staging-fare-key; b=production-fare-key; ä';
    expect(piece(text, 0, 45, [22, 41])).toEqual({ text: 'a=[masked]; b=[masked]; ä', start: 14, end: 22 });
  });

  test('a value that the border cuts is masked too', () => {
    expect(piece('xx production-fare-key yy', 10, 25, [23, 25])?.text).toBe('[masked] yy');
    expect(piece('xx production-fare-key yy', 0, 12, [0, 2])?.text).toBe('xx [masked]');
  });

  test('what shares bits with a base64 hit is masked with it', () => {
    const encoded = Buffer.from('u:production-fare-key.').toString('base64');
    const shown = piece(encoded, 0, encoded.length, [4, 8])?.text ?? '';
    expect(shown.length).toBeLessThan(12);
    expect(Buffer.from(shown, 'base64').toString()).not.toMatch(/key/);
  });

  test('a setting is not masked', () => {
    expect(piece('port 4180', 0, 9, [0, 4])?.text).toBe('port 4180');
  });

  test('binary rubbish is not shown', () => {
    expect(masker.piece(Buffer.from([0, 1, 2, 3, 65, 66]), 0, 6, { start: 4, end: 6 })).toBeUndefined();
    expect(masker.piece(Buffer.from([65, 255, 65]), 0, 3, { start: 0, end: 1 })).toBeUndefined();
  });
});

describe('source maps', () => {
  const map = JSON.stringify({
    version: 3,
    sources: ['../src/a.ts'],
    sourcesContent: ['one\ntwo'],
    names: [],
    mappings: 'AAAA,IACA',
  });

  test('places are traced, and sources resolved against the map', () => {
    const traced = new SourceMap(map, '/p/dist/a.js.map').trace(1, 6);
    expect(traced).toEqual({ source: '/p/src/a.ts', line: 2, column: 1, content: 'one\ntwo' });
  });

  test('a guard against direct inclusion is skipped', () => {
    expect(new SourceMap(`)]}'\n${map}`, 'a.js.map').trace(1, 6)).toMatchObject({ line: 2 });
  });

  test('sections are one map', () => {
    const sections = [{ offset: { line: 3, column: 0 }, map: JSON.parse(map) }];
    expect(new SourceMap(JSON.stringify({ version: 3, sections }), '/p/dist/a.js.map').trace(4, 6)).toMatchObject({
      source: '/p/src/a.ts',
      line: 2,
    });
  });

  test.each([
    ['x()\n//# sourceMappingURL=a.js.map\n', 'a.js.map'],
    ['a{}\n/*# sourceMappingURL=a.css.map */', 'a.css.map'],
    ['"//# sourceMappingURL=no"\n//# sourceMappingURL=yes.map', 'yes.map'],
    ['x()', undefined],
    ['eval("x()\\n//# sourceMappingURL=a.map\\n")', undefined],
  ])('%j names %s', (text, address) => expect(sourceMapAddress(text)).toBe(address));

  test('inside a data: URI', () => {
    expect(inlineSourceMap(`data:application/json;charset=utf-8;base64,${btoa(map)}`)).toBe(map);
    expect(inlineSourceMap(`data:application/json,${encodeURIComponent(map)}`)).toBe(map);
    expect(inlineSourceMap('data:application/json,%')).toBeUndefined();
    expect(inlineSourceMap('a.js.map')).toBeUndefined();
  });
});
