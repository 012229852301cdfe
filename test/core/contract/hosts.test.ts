import { describe, expect, test } from 'vitest';
import {
  credentialsOf,
  fillTemplate,
  hasStage,
  placeholdersIn,
  stageOnHost,
} from '../../../src/core/contract/hosts.js';
import { contractOf, diagnose } from '../../support/contract.js';

const textOf = (entry: string) => `adder: 1\nstages: { staging: { layers: [.env] } }\nhosts:\n  console: ${entry}\n`;
const hostOf = (entry: string) => contractOf(textOf(entry)).hosts.get('console') ?? expect.unreachable();
/** Message and remedy of the problems of an entry. */
const problemsOf = (entry: string) =>
  diagnose(textOf(entry)).map((text) => {
    const lines = text.split('\n');
    return `${lines[0]?.replace(/^.*?(?:unreadable|unknown-key): /, '')} → ${lines.at(-1)?.replace('  → ', '')}`;
  });

const list = 'list: { url: "https://console.example/{stage}" }';

describe('the entry of a host', () => {
  test('gets the usual method, paths, scopes and words', () => {
    expect(hostOf(`{ ${list} }`)).toEqual({
      name: 'console',
      stageNames: {},
      holds: ['build', 'server'],
      words: { build: 'build', server: 'server' },
      list: {
        kind: 'http',
        request: { method: 'GET', url: 'https://console.example/{stage}', headers: {} },
        paths: { items: '', name: 'name', value: 'value', scope: 'scope', stage: '', id: '', next: '' },
      },
    });
  });

  test('keeps everything that it says', () => {
    const entry = `{ stages: [staging], stage-names: { staging: preview }, holds: [server], scopes: { build: compile },
      list: { method: POST, url: 'https://console.example', headers: { X: '{TOKEN}' }, body: { q: 1 }, items: data.items, name: key, value: content, scope: for, stage: target, id: uid, next: page.next },
      set: { method: POST, url: 'https://console.example/{name}', body: { value: '{value}' } },
      change: { method: PATCH, url: 'https://console.example/{id}', body: ['{value}'] } }`;
    expect(hostOf(entry)).toEqual({
      name: 'console',
      stages: ['staging'],
      stageNames: { staging: 'preview' },
      holds: ['server'],
      words: { build: 'compile', server: 'server' },
      list: {
        kind: 'http',
        request: { method: 'POST', url: 'https://console.example', headers: { X: '{TOKEN}' }, body: { q: 1 } },
        paths: {
          items: 'data.items',
          name: 'key',
          value: 'content',
          scope: 'for',
          stage: 'target',
          id: 'uid',
          next: 'page.next',
        },
      },
      set: {
        kind: 'http',
        request: { method: 'POST', url: 'https://console.example/{name}', headers: {}, body: { value: '{value}' } },
      },
      change: {
        kind: 'http',
        request: { method: 'PATCH', url: 'https://console.example/{id}', headers: {}, body: ['{value}'] },
      },
    });
  });

  test.each<[kind: string, list: string, settled: object]>([
    ['a file, in one word', 'values.json', { kind: 'file', file: 'values.json' }],
    ['a file, in a map', '{ file: values.json }', { kind: 'file', file: 'values.json' }],
    ['a command', '{ command: [values-of, "{stage}"] }', { kind: 'command', command: ['values-of', '{stage}'] }],
  ])('lists values from %s', (_, listing, settled) => {
    expect(hostOf(`{ list: ${listing} }`).list).toMatchObject(settled);
  });

  test('sets a value with a command', () => {
    expect(hostOf(`{ ${list}, set: { command: [put, "{name}"] } }`).set).toMatchObject({
      kind: 'command',
      command: ['put', '{name}'],
    });
  });
});

describe('stages of a host', () => {
  test.each<[entry: string, stage: string, has: boolean]>([
    [`{ ${list} }`, 'anything', true],
    [`{ ${list}, stages: [staging] }`, 'staging', true],
    [`{ ${list}, stages: [staging] }`, 'production', false],
  ])('%s runs %s: %s', (entry, stage, has) => expect(hasStage(hostOf(entry), stage)).toBe(has));

  test.each([
    ['staging', 'preview'],
    ['production', 'production'],
  ])('%s is called %s there', (stage, name) => {
    expect(stageOnHost(hostOf(`{ ${list}, stage-names: { staging: preview } }`), stage)).toBe(name);
  });
});

describe('placeholders', () => {
  test('are names in braces', () => {
    expect(placeholdersIn('{stage}/{TOKEN_2}/{}/{a-b}/{2x}/{_x}')).toEqual(['stage', 'TOKEN_2', '_x']);
  });

  test('stay if they are unknown', () => {
    const values = (name: string) => (name === 'stage' ? 'staging' : undefined);
    expect(fillTemplate('{stage}/{name}/{stage}', values)).toBe('staging/{name}/staging');
  });

  test('in upper case are the credentials of every request, each once', () => {
    const entry = `{ list: { url: 'https://c.example', headers: { A: 'Bearer {TOKEN}' } },
      set: { url: 'https://c.example/{name}', headers: { A: '{TOKEN}', B: '{_KEY2}' }, body: '{value}' },
      change: { command: [put, '{name}'] } }`;
    expect(credentialsOf(hostOf(entry))).toEqual(['TOKEN', '_KEY2']);
  });
});

describe('a mistake in the entry of a host', () => {
  const set = (request: string) => `{ ${list}, set: ${request} }`;

  test.each<[title: string, entry: string, problems: string[]]>([
    [
      'an unknown stage',
      `{ ${list}, stages: [stagin], stage-names: { prod: x } }`,
      ['unknown stage "stagin" → did you mean staging?', 'unknown stage "prod" → known: staging'],
    ],
    [
      'a URL that is none',
      '{ list: { url: console } }',
      ['the URL is invalid → write an absolute URL, such as https://console.example/values'],
    ],
    [
      'a password in the URL',
      '{ list: { url: "https://:pw@c.example" } }',
      ['the URL contains a credential → write it into a header, such as Authorization: Bearer {CONSOLE_TOKEN}'],
    ],
    [
      'a user in the URL',
      '{ list: { url: "https://me@c.example" } }',
      ['the URL contains a credential → write it into a header, such as Authorization: Bearer {CONSOLE_TOKEN}'],
    ],
    [
      'no encryption',
      '{ list: { url: "http://c.example" } }',
      ['values and credentials would be sent without encryption → use https'],
    ],
    [
      'a host that only looks local',
      '{ list: { url: "http://localhost.c.example" } }',
      ['values and credentials would be sent without encryption → use https'],
    ],
    [
      'a placeholder that is none',
      '{ list: { url: "https://c.example/{stag}" } }',
      ['unknown placeholder {stag} → known: {stage}'],
    ],
    [
      'a credential in the URL',
      '{ list: { url: "https://c.example/{TOKEN}" } }',
      [
        'the URL contains {TOKEN}: URLs are logged, so a credential must not be in them → write it into a header, such as Authorization: Bearer {TOKEN}',
      ],
    ],
    [
      'no credential in a header',
      '{ list: { url: "https://c.example", headers: { A: "{token} {TOKEN}" } } }',
      ['a header contains {token} → write the name of a variable in upper case, such as {CONSOLE_TOKEN}'],
    ],
    [
      'a word of a command',
      '{ list: { command: [values-of, "{name}"] } }',
      ['unknown placeholder {name} → known: {stage}'],
    ],
    ['a file', '{ list: "{name}.json" }', ['unknown placeholder {name} → known: {stage}']],
    [
      'a value in a URL',
      set('{ url: "https://c.example/{name}/{value}", body: "{value}" }'),
      ['unknown placeholder {value} → a value goes into the body of a request, or to the standard input of a command'],
    ],
    [
      'a value among the words',
      set('{ command: [put, "{name}", "{value}"] }'),
      ['unknown placeholder {value} → a value goes into the body of a request, or to the standard input of a command'],
    ],
    [
      'no body',
      set('{ url: "https://c.example/{name}" }'),
      ['the request does not contain {value} → add it to `body`, such as { value: "{value}" }'],
    ],
    [
      'a body with a placeholder that is none',
      set('{ url: "https://c.example/{name}", body: "{value} {nme}" }'),
      ['unknown placeholder {nme} → known: {stage}, {name}, {value}, {scope}, {scopes}'],
    ],
    [
      'no name in the request',
      set('{ url: "https://c.example/{stage}", body: "{value}" }'),
      ['nothing says which value is set → write {name} where the name belongs'],
    ],
    [
      'no name in the command',
      set('{ command: [put, "{scope}"] }'),
      ['nothing says which value is set → write {name} where the name belongs'],
    ],
    [
      'an id where a value is new',
      set('{ url: "https://c.example/{id}", body: "{value}" }'),
      ['unknown placeholder {id} → known: {stage}, {name}'],
    ],
    [
      'a change alone',
      `{ ${list}, change: { url: "https://c.example/{id}", body: "{value}" } }`,
      ['a host with `change` also needs `set` → describe how a new value is set'],
    ],
    ['no kind of value', `{ ${list}, holds: [] }`, ['hosts.console.holds is invalid → write build, server, or both']],
    [
      'a path with a gap',
      '{ list: { url: "https://c.example", items: "a..b" } }',
      ['hosts.console.list.items is invalid → write names joined with dots, such as data.items'],
    ],
    ['an empty path', `{ list: "" }`, ['hosts.console.list is invalid → write a text']],
    [
      'a misspelt key of a listing',
      '{ list: { url: "https://c.example", itmes: a } }',
      ['hosts.console.list has an unknown key "itmes" → did you mean items?'],
    ],
    [
      'a misspelt key of a change',
      `{ ${list}, set: { url: "https://c.example/{name}", boddy: "{value}" } }`,
      ['hosts.console.set has an unknown key "boddy" → did you mean body?'],
    ],
    [
      'a misspelt key of the entry',
      `{ ${list}, stage: [staging] }`,
      ['hosts.console has an unknown key "stage" → did you mean stage-names or stages?'],
    ],
    [
      'a misspelt scope',
      `{ ${list}, scopes: { sever: x } }`,
      ['hosts.console.scopes has an unknown key "sever" → did you mean server?'],
    ],
  ])('is %s', (_, entry, problems) => expect(problemsOf(entry)).toEqual(problems));

  test.each([
    'http://localhost:8080/{stage}',
    'http://127.0.0.1/x',
    'http://[::1]/x',
    'http://console.localhost/x',
    'https://c.example/{stage}',
  ])('is not %s', (url) => expect(problemsOf(`{ list: { url: "${url}" } }`)).toEqual([]));

  test.each([
    '{ url: "https://c.example/{name}", body: { v: "{value}", s: "{scope}", t: ["{scopes}"] } }',
    '{ url: "https://c.example", body: { name: "{name}", v: "{value}" } }',
    '{ command: [put, "{stage}", "{name}", "{scope}"] }',
  ])('is not the setter %s', (request) => expect(problemsOf(set(request))).toEqual([]));
});
