import { describe, expect, test } from 'vitest';
import type { RawFinding } from '../../../src/core/findings/finding.js';
import { absentLayer, readEnvFileLayer, readProcessLayer } from '../../../src/core/resolve/layers.js';
import { type Resolution, reachOf, resolveStage } from '../../../src/core/resolve/resolve.js';
import { reveal } from '../../../src/core/secrets/secret.js';
import { contractOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const variables = `
  URL: { reach: public, form: url }
  NAME: { reach: public, required: false }
  COUNT: { reach: public, form: integer, min: 2, default: 4 }
  TOKEN: { reach: build, required: false }
  KEY: { reach: server, min: 8, required: [production] }
`;

/** Resolves the stage `production` from env files, given as text by name, and a process environment. */
function resolve(files: Record<string, string | undefined>, env: Record<string, string> = {}): Resolution {
  const layers = [...Object.keys(files), 'process'].join(', ');
  const contract = contractOf(
    `adder: 1\nstages: { production: { layers: [${layers}] }, other: { layers: [process] } }\nvariables:${variables}`,
  );
  const stage = contract.stages.get('production') ?? expect.unreachable();
  const isPublic = (name: string) => reachOf(contract, name) === 'public';
  const read = Object.entries(files).map(([name, text]) =>
    text === undefined
      ? absentLayer(name, name)
      : readEnvFileLayer(name, name, Buffer.from(text), {
          isPublic,
          isDeclared: (name) => contract.variables.has(name),
        }),
  );
  return resolveStage(contract, stage, [...read, readProcessLayer(env, contract.variables.keys())]);
}

const stateOf = (resolution: Resolution, name: string) => {
  const { state, value } = resolution.values.get(name) ?? expect.unreachable();
  return [state, value && reveal(value)];
};
const said = (findings: readonly RawFinding[], code: string) =>
  findings
    .map(inWords)
    .filter((finding) => finding.code === code)
    .map(({ message }) => message);

const inOrder = { URL: 'https://a.example', KEY: '12345678' };

describe('layers', () => {
  test('the last one wins, and the overridden ones keep their order', () => {
    const { values, findings } = resolve(
      { '.env': 'NAME=a\nURL=https://a.example', '.env.x': 'NAME=b' },
      { NAME: 'b', KEY: '12345678' },
    );
    expect(values.get('NAME')).toMatchObject({
      state: 'set',
      from: { layer: 'process' },
      overrides: [
        { layer: '.env', path: '.env', line: 1, column: 1 },
        { layer: '.env.x', path: '.env.x', line: 1, column: 1 },
      ],
    });
    expect(findings).toEqual([]);
  });

  test('the process hiding another value in a file is reported', () => {
    const { findings } = resolve({ '.env': '\nNAME=a' }, { ...inOrder, NAME: 'b' });
    expect(findings).toMatchObject([
      { code: 'value/shadowed', variable: 'NAME', stage: 'production', place: { path: '.env', line: 2 } },
    ]);
  });

  test('the process with the same value as a file is not reported', () => {
    expect(resolve({ '.env': 'NAME=a' }, { ...inOrder, NAME: 'a' }).findings).toEqual([]);
  });

  test('only names of the contract are read from the process', () => {
    expect(resolve({}, { ...inOrder, HOME: '/x' }).undeclared).toEqual([]);
  });

  test('an undeclared name is reported, with the nearest, and kept for the search', () => {
    const { findings, undeclared } = resolve({ '.env': 'TOKNE=hush' }, inOrder);
    expect(findings.map(inWords)).toMatchObject([
      { code: 'value/undeclared', remedy: 'did you mean TOKEN? Otherwise declare it in the contract' },
    ]);
    expect(undeclared.map(({ name, value }) => [name, reveal(value)])).toEqual([['TOKNE', 'hush']]);
  });

  test('a server value that lost is kept for the search', () => {
    const { overridden } = resolve({ '.env': 'KEY=old-hush\nNAME=old' }, { ...inOrder, NAME: 'old' });
    expect(overridden.map(({ value }) => reveal(value))).toEqual(['old-hush']);
  });
});

describe('states', () => {
  test.each<
    [
      title: string,
      files: Record<string, string | undefined>,
      name: string,
      state: string,
      value: string | undefined,
      code?: string,
    ]
  >([
    ['set', { '.env': 'NAME=a' }, 'NAME', 'set', 'a'],
    ['default for a missing one', {}, 'COUNT', 'default', '4'],
    ['no default for an empty one', { '.env': 'COUNT=' }, 'COUNT', 'empty', '', 'value/empty'],
    ['optional', {}, 'NAME', 'optional', undefined],
    ['empty, and need not be set', { '.env': 'NAME=' }, 'NAME', 'empty', ''],
    ['missing', { '.env': undefined }, 'URL', 'missing', undefined, 'value/missing'],
    ['malformed', { '.env': 'URL=a.example' }, 'URL', 'malformed', 'a.example', 'value/malformed'],
    ['too small a number', { '.env': 'COUNT=1' }, 'COUNT', 'malformed', '1', 'value/malformed'],
    ['too short a text', { '.env': 'KEY=1234567' }, 'KEY', 'malformed', '1234567', 'value/malformed'],
  ])('%s', (_, files, name, state, value, code) => {
    const resolution = resolve(files);
    expect(stateOf(resolution, name)).toEqual([state, value]);
    expect(resolution.findings.filter(({ variable }) => variable === name).map((finding) => finding.code)).toEqual(
      code ? [code] : [],
    );
  });

  test('missing lists where Adder searched', () => {
    expect(said(resolve({ '.env': '', '.env.x': undefined }, { KEY: '12345678' }).findings, 'value/missing')).toEqual([
      'URL has no value in production. Searched: .env, .env.x (absent), process environment',
    ]);
  });

  test('missing names what the process environment has instead', () => {
    const { findings } = resolve({ '.env': '' }, { KYE_: 'x', KEY_: 'x', UR_L: 'https://x.example' });
    expect(said(findings, 'value/missing')).toEqual([
      'URL has no value in production. Searched: .env, process environment. The process environment has UR_L',
      'KEY has no value in production. Searched: .env, process environment. The process environment has KEY_',
    ]);
    expect(findings.map(inWords).find(({ variable }) => variable === 'URL')?.remedy).toMatch(
      /^rename UR_L to URL there, or add URL=/,
    );
  });

  test('no finding holds a value', () => {
    const { findings } = resolve(
      { '.env': 'KEY="hush\nURL=hush\nTOKEN=hush-hush "x"\nTOKEN=${hush!}\nNAME=$TOKEN\nHUSH=hush' },
      { KEY: 'hush' },
    );
    expect(findings.length).toBeGreaterThan(4);
    for (const finding of findings) {
      const isPublic = finding.variable === 'URL' || finding.variable === 'NAME';
      expect(JSON.stringify(isPublic ? inWords(finding).message : inWords(finding))).not.toContain('hush');
    }
  });
});

describe('references', () => {
  test.each<[title: string, text: string, name: string, value: string | undefined, problem?: string]>([
    ['to another line, wherever it stands', 'NAME=$URL/x\nURL=https://a.example', 'NAME', 'https://a.example/x'],
    ['to a default', 'NAME=n$COUNT', 'NAME', 'n4'],
    ['to what the line before had', 'NAME=a\nNAME=$NAME:b', 'NAME', 'a:b'],
    ['unset', 'NAME=$GONE', 'NAME', undefined, 'NAME refers to GONE, which is not set in this stage'],
    ['unset, its own', 'NAME=$NAME:b', 'NAME', undefined, 'NAME refers to NAME, which is not set in this stage'],
    [
      'unset, in a secret, as a name',
      'TOKEN=x$GONE_BY',
      'TOKEN',
      undefined,
      'TOKEN refers to GONE_BY, which is not set in this stage',
    ],
    [
      'unset, in a secret, its own',
      'TOKEN=x$TOKEN',
      'TOKEN',
      undefined,
      'TOKEN refers to TOKEN, which is not set in this stage',
    ],
    ['empty, in a secret', 'TOKEN=x${gone:?}\ngone=', 'TOKEN', undefined, 'TOKEN refers to gone, which is empty'],
    [
      'unset, in a secret, perhaps a part of it',
      'TOKEN=x$gone',
      'TOKEN',
      undefined,
      'TOKEN contains a $ that starts a reference to a name that is not set in this stage',
    ],
    ['fallback for unset', 'NAME=${GONE:-x}', 'NAME', 'x'],
    ['fallback for empty', 'TOKEN=\nNAME=${TOKEN:-x}', 'NAME', 'x'],
    ['no fallback for empty without the colon', 'URL=\nNAME=${URL-x}', 'NAME', ''],
    ['alternative', 'URL=https://a.example\nNAME=${URL:+with}${GONE+without}', 'NAME', 'with'],
    [
      'required, with its message',
      'NAME=${GONE:?ask the harbour}',
      'NAME',
      undefined,
      'NAME refers to GONE, which is not set in this stage',
    ],
    ['required and empty', 'URL=\nNAME=${URL:?ask}', 'NAME', undefined, 'NAME refers to URL, which is empty'],
    ['not in single quotes', "NAME='$URL'", 'NAME', '$URL'],
  ])('%s', (_, text, name, value, problem) => {
    const resolution = resolve({ '.env': text }, { KEY: '12345678' });
    expect(stateOf(resolution, name)[1]).toBe(value);
    expect(said(resolution.findings, 'value/unknown-reference')).toEqual(problem ? [problem] : []);
  });

  test('values of the process are never expanded', () => {
    expect(stateOf(resolve({}, { ...inOrder, NAME: '$URL' }), 'NAME')).toEqual(['set', '$URL']);
  });

  test('across layers, the winning value is meant', () => {
    expect(
      stateOf(resolve({ '.env': 'NAME=$URL\nURL=https://a.example', '.env.x': 'URL=https://b.example' }), 'NAME'),
    ).toEqual(['set', 'https://b.example']);
  });

  test('a cycle is shown as a chain with its places', () => {
    const { findings } = resolve({ '.env': 'NAME=$URL\nURL=x$NAME\nCOUNT=5' }, { KEY: '12345678' });
    const circle =
      'cannot be expanded because values refer to each other in a circle: URL (.env:2) → NAME (.env:1) → URL (.env:2)';
    expect(said(findings, 'value/cycle')).toEqual([`URL ${circle}`, `NAME ${circle}`]);
  });

  test.each<[title: string, text: string, name: string, inner: string]>([
    ['public from server', 'NAME=x$KEY', 'NAME', 'KEY'],
    ['public from build', 'NAME=x$TOKEN\nTOKEN=t', 'NAME', 'TOKEN'],
    ['build from server', 'TOKEN=x$KEY', 'TOKEN', 'KEY'],
    ['by way of another public one', 'NAME=$URL\nURL=https://$KEY', 'NAME', 'KEY'],
    ['by a fallback', 'NAME=${GONE:-$KEY}', 'NAME', 'KEY'],
    ['public from what is not declared', 'NAME=$HOST\nHOST=h', 'NAME', 'HOST'],
  ])('reach cannot widen: %s', (_, text, name, inner) => {
    const resolution = resolve({ '.env': text }, { KEY: '12345678' });
    expect(stateOf(resolution, name)).toEqual(['malformed', undefined]);
    expect(
      said(resolution.findings, 'value/widened').some(
        (message) => message.startsWith(`${name} is`) && message.includes(`refers to ${inner},`),
      ),
    ).toBe(true);
  });

  test.each([
    ['server from build', 'KEY=12345678$TOKEN\nTOKEN=t', 'KEY'],
    ['build from public', 'TOKEN=$COUNT', 'TOKEN'],
    ['only whether a server value is set', 'NAME=${KEY:+yes}', 'NAME'],
  ])('reach may narrow: %s', (_, text, name) =>
    expect(stateOf(resolve({ '.env': text }, { ...inOrder }), name)[0]).toBe('set'),
  );

  test('hostile files: endless chains and values that double', () => {
    const chain = Array.from({ length: 1000 }, (_, i) => `V${i}=$V${i + 1}`).join('\n');
    const doubling = Array.from({ length: 60 }, (_, i) => `W${i}=$W${i + 1}$W${i + 1}`).join('\n');
    const { findings } = resolve({ '.env': `${chain}\nV1000=x\n${doubling}\nW60=xx\nKEY=$W0` });
    expect(
      said(findings, 'value/malformed').some((message) => message.includes('a chain of more than 200 references')),
    ).toBe(true);
    expect(said(findings, 'value/malformed')).toContain('KEY expands to more than 100,000 characters');
  });
});
