import { describe, expect, test } from 'vitest';
import { isRequired } from '../../../src/core/contract/contract.js';
import { nameIn, namesOf } from '../../../src/core/contract/names.js';
import { reveal } from '../../../src/core/secrets/secret.js';
import { contractOf, diagnose } from '../../support/contract.js';

const head = 'adder: 1\nstages:\n  staging: { layers: [.env] }\n  production: { layers: [.env, process] }\n';

describe('a valid contract', () => {
  const contract = contractOf(`${head}bundles:
  desk: { toolchain: vite, code: web/src, output: [web/dist] }
  quay: { runs: server, prefix: Q_ }
variables:
  SHORT: server
  VITE_READY: public
  API: { reach: public, form: url, bundles: [desk] }
  SEASON: { reach: public, form: { choice: [summer, winter] }, required: [production], default: summer }
  VERSION: { reach: build, default: 1.0 }
`);
  const variable = (name: string) => contract.variables.get(name) ?? expect.unreachable(name);

  test('defaults are filled in', () => {
    expect(contract.bundles.get('desk')).toEqual({
      name: 'desk',
      runs: 'browser',
      toolchain: 'vite',
      entry: [],
      forbidsMaps: false,
      served: {},
      layers: new Map(),
      code: ['web/src'],
      serverCode: [],
      output: ['web/dist'],
      prefixes: ['VITE_'],
    });
    expect(variable('SHORT')).toMatchObject({ reach: 'server', required: true, at: { line: 9, column: 3 } });
    expect(contract.stages.get('production')?.layers.map(({ kind }) => kind)).toEqual(['file', 'process']);
  });

  test('a default stays the text that was written', () => {
    const value = variable('VERSION').default;
    expect(value && reveal(value)).toBe('1.0');
  });

  test('required by stage', () => {
    expect(isRequired(variable('SEASON'), 'production')).toBe(true);
    expect(isRequired(variable('SEASON'), 'staging')).toBe(false);
  });

  test.each([
    ['API', { desk: 'VITE_API' }],
    ['VITE_READY', { desk: 'VITE_READY', quay: 'Q_VITE_READY' }],
    ['VERSION', { desk: 'VERSION', quay: 'VERSION' }],
    ['SHORT', { quay: 'SHORT' }],
  ])('%s is read as %j', (name, names) => expect(namesOf(contract, variable(name))).toEqual(names));

  test('the prefix is for public variables alone', () => {
    const desk = contract.bundles.get('desk') ?? expect.unreachable();
    expect(nameIn(desk, variable('VERSION'))).toBe('VERSION');
  });
});

describe('every key of the contract', () => {
  const contract = contractOf(`adder: 1
stages:
  production: { layers: [{ file: config/production.json, must-exist: true }, settings.yaml, { command: [./values-of, production, hush] }] }
bundles: { desk: { server-code: web/server, server-output: [dist/server], reads: [import.meta.env] } }
variables:
  A:
    reach: public
    form: { list: { choice: [north, south] } }
    example: 1.50
    max: 9
    pattern: '[a-z]+'
    https: [production]
    slash: never
    distinct: true
    same: true
    delivery: runtime
    names: { desk: OTHER }
    aka: [OLD_A]
    secret-parts: false
    search: never
accept: [{ finding: leak/known-value, where: dist/*.js, because: bound to our domains, until: 2027-03-01 }]
`);

  test('is understood', () => {
    expect(contract.variables.get('A')).toMatchObject({
      example: '1.50',
      max: 9,
      pattern: { source: '[a-z]+' },
      https: ['production'],
      slash: 'never',
      distinct: true,
      same: true,
      delivery: 'runtime',
      names: { desk: 'OTHER' },
      aka: ['OLD_A'],
      secretParts: false,
      search: 'never',
    });
    expect(contract.variables.get('A')?.form.problem('north, east')).toBe(
      'has an invalid item 2: it is not north or south',
    );
    expect(contract.bundles.get('desk')).toMatchObject({ serverCode: ['web/server'], reads: ['import.meta.env'] });
    expect(contract.accept).toEqual([
      {
        finding: 'leak/known-value',
        where: 'dist/*.js',
        because: 'bound to our domains',
        until: '2027-03-01',
        at: expect.objectContaining({ line: 21 }),
      },
    ]);
  });

  test('a command is named by its program alone', () => {
    expect(contract.stages.get('production')?.layers.map(({ name }) => name)).toEqual([
      'config/production.json',
      'settings.yaml',
      'command ./values-of',
    ]);
  });

  test('another name for a bundle beats the prefix', () => {
    const variable = contract.variables.get('A') ?? expect.unreachable();
    expect(namesOf(contract, variable)).toEqual({ desk: 'OTHER' });
  });
});

describe('all mistakes together, each at its place', () => {
  test.each<[title: string, text: string, shows: string[]]>([
    [
      'several mistakes at once',
      `${head}variables:
  API: { reach: pubic, form: ulr }
  KEY: { reach: server, minimum: 3 }
  MY-NAME: public
`,
      [
        `adder.yaml:6:17 contract/unreadable: variables.API.reach must be one of public, build or server
  6 |   API: { reach: pubic, form: ulr }
                      ^^^^^
  → did you mean public?`,
        `adder.yaml:6:30 contract/unreadable: variables.API.form must be one of text, url, origin, email, host, port, integer, number, flag, date, json, list or pem
  6 |   API: { reach: pubic, form: ulr }
                                   ^^^
  → did you mean url?`,
        `adder.yaml:7:25 contract/unknown-key: variables.KEY has an unknown key "minimum"
  7 |   KEY: { reach: server, minimum: [masked] }
                              ^^^^^^^
  → known: reach, form, about, example, required, default, min, max, pattern, https, slash, distinct, same, bundles, delivery, names, aka, secret-parts, search`,
        `adder.yaml:8:3 contract/unreadable: invalid name "MY-NAME"
  8 |   MY-NAME: public
        ^^^^^^^
  → use letters, digits and _; do not start with a digit`,
      ],
    ],
    [
      'a reach is never guessed',
      `${head}variables:\n  API: { form: url }\n`,
      [
        `adder.yaml:6:3 contract/unreadable: variables.API.reach is missing
  6 |   API: { form: url }
        ^^^
  → write one of public, build or server`,
      ],
    ],
    [
      'names of bundles and stages that do not exist',
      `${head}bundles: { desk: {} }\nvariables:\n  API: { reach: public, bundles: [dsek], required: [prod] }\n`,
      [
        `adder.yaml:7:35 contract/unreadable: unknown bundle "dsek"
  7 |   API: { reach: public, bundles: [dsek], required: [prod] }
                                        ^^^^
  → did you mean desk?`,
        `adder.yaml:7:53 contract/unreadable: unknown stage "prod"
  7 |   API: { reach: public, bundles: [dsek], required: [prod] }
                                                          ^^^^
  → did you mean production?`,
      ],
    ],
    [
      'a layer of another kind',
      'adder: 1\nstages:\n  staging: { layers: [.env, values.toml] }\n',
      [
        `adder.yaml:3:29 contract/unreadable: stages.staging.layers.1 is invalid
  3 |   staging: { layers: [.env, values.toml] }
                                  ^^^^^^^^^^^
  → use an env file (.env, .env.NAME, NAME.env), a .json, .yaml, .ts or .js file, \`process\`, or { command: [...] }`,
      ],
    ],
    [
      'a default that is not in its form, and is not shown',
      `${head}variables:\n  API: { reach: server, form: url, default: hush-hush }\n`,
      [
        `adder.yaml:6:45 contract/unreadable: the default of API has no scheme (such as https://)
  6 |   API: { reach: server, form: url, default: [masked] }
                                                  ^^^^^^^^
  → write https://api.saltmarsh.example or another url, or change the form`,
      ],
    ],
    [
      'no stage',
      'adder: 1\n',
      [
        `adder.yaml:1:1 contract/unreadable: stages is missing
  1 | adder: 1
      ^^^^^^^^
  → add a map of names`,
      ],
    ],
    [
      'not YAML',
      'adder: 1\nstages: [\n',
      [
        `adder.yaml:3:1 contract/unreadable: the indentation is wrong, or a bracket, brace or quote above is not closed
  3 | 
      ^
  → fix the YAML; indentation and quotes are the usual causes`,
      ],
    ],
    [
      'a later version',
      'adder: 2\nstages: { a: { layers: [process] } }\n',
      [
        `adder.yaml:1:8 contract/unreadable: this Adder reads version 1 of the contract format only
  1 | adder: 2
             ^
  → write \`adder: 1\``,
      ],
    ],
  ])('%s', (_, text, shows) => expect(diagnose(text)).toEqual(shows));

  test.each<[title: string, entry: string, message: string, remedy: string]>([
    [
      'a form of a list',
      'A: { reach: public, form: { list: prot } }',
      'variables.A.form.list must be one of text',
      'did you mean port?',
    ],
    [
      'a key of a form',
      'A: { reach: public, form: { chioce: [a] } }',
      'has an unknown key "chioce"',
      'did you mean choice?',
    ],
    [
      'a pattern',
      "A: { reach: public, pattern: '(' }",
      'variables.A.pattern is invalid',
      'write a valid regular expression',
    ],
    [
      'names of a bundle that is not there',
      'A: { reach: public, names: { desk: B } }',
      'unknown bundle "desk"',
      'there are none',
    ],
    [
      'an older name that is taken',
      'A: { reach: public, aka: [B] }\n  B: public',
      '"B" is already a name of B',
      'remove one of the two',
    ],
    [
      'https in a stage that is not there',
      'A: { reach: public, https: [prod] }',
      'unknown stage "prod"',
      'did you mean production?',
    ],
  ])('%s', (_, entry, message, remedy) => {
    const [said = '', ...others] = diagnose(`${head}variables:\n  ${entry}\n`);
    expect(others).toEqual([]);
    expect(said).toContain(message);
    expect(said).toContain(`→ ${remedy}`);
  });

  test('only a code that could be of a later version is accepted', () => {
    const entry = (code: string) =>
      `${head}levels: { ${code}: note }\naccept: [{ finding: ${code}, because: x, until: 2027-03-01 }]\n`;
    expect(diagnose(entry('leak/known_value')).map((text) => text.split('\n')[0])).toEqual([
      expect.stringContaining('accept.0.finding is invalid'),
      expect.stringContaining('invalid name "leak/known_value"'),
    ]);
    expect(diagnose(entry('leak/later-one'))).toEqual([]);
  });

  test.each<[layer: string, shows: string]>([
    ['{ file: .env, must-exits: true }', 'has an unknown key "must-exits"'],
    ['{ command: values-of }', 'layers.0.command must be a list'],
    ['{ command: [] }', 'name a program'],
  ])('the layer %s', (layer, shows) => {
    expect(diagnose(`adder: 1\nstages: { staging: { layers: [${layer}] } }\n`).join()).toContain(shows);
  });

  test.each(['', '- a\n', 'adder', '{', 'a: b: c', '\t', 'adder: 1\nstages: 5\nvariables: { A: 7 }'])(
    '%j does not throw',
    (text) => {
      expect(diagnose(text).length).toBeGreaterThan(0);
    },
  );
});
