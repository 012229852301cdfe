import { describe, expect, test } from 'vitest';
import { reveal } from '../../../src/core/secrets/secret.js';
import { contractOf, diagnose } from '../../support/contract.js';

const head = 'adder: 1\nstages: { staging: { layers: [.env] }, production: { layers: [.env] } }\n';
/** Place, message and remedy of each problem of a contract with this text below its stages. */
const said = (rest: string, top = head) =>
  diagnose(top + rest).map((text) => {
    const [first = '', ...lines] = text.split('\n');
    const [, at, what] = /^adder\.yaml:(\d+:\d+) contract\/[a-z-]+: (.*)$/.exec(first) ?? [];
    return `${at} ${what} → ${lines.at(-1)?.replace('  → ', '')}`;
  });

describe('a mistake in the contract', () => {
  test.each<[title: string, rest: string, problems: string[]]>([
    [
      'a bundle that is a word',
      'bundles: { desk: vite }',
      ['3:18 bundles.desk must be a map of names → write a map of names'],
    ],
    ['a list where a map belongs', 'variables: [A]', ['3:12 variables must be a map of names → write a map of names']],
    ['a word where a list belongs', 'passes: A', ['3:9 passes must be a list → write a list']],
    [
      'a number where a truth belongs',
      'variables: { A: { reach: public, same: 1 } }',
      ['3:40 variables.A.same must be a boolean → write a boolean'],
    ],
    [
      'a word where a number belongs',
      'variables: { A: { reach: public, min: x } }',
      ['3:39 variables.A.min must be a number → write a number'],
    ],
    ['an empty path', 'bundles: { desk: { code: "" } }', ['3:26 bundles.desk.code is invalid → write a path']],
    [
      'a shell operator',
      'bundles: { desk: { build: "a && b" } }',
      ['3:27 bundles.desk.build is invalid → write a command with quotes or shell operators as a list of words'],
    ],
    [
      'a prefix with a hyphen',
      'bundles: { desk: { prefix: A- } }',
      ['3:28 bundles.desk.prefix is invalid → use letters, digits and _'],
    ],
    [
      'an object that nothing reads',
      'bundles: { desk: { reads: ["x y"] } }',
      [
        '3:28 bundles.desk.reads.0 is invalid → use an object (import.meta.env), a call (window.env()), a module ($env/static/public), a constant (__*__), or a configuration (useRuntimeConfig().public.*)',
      ],
    ],
    [
      'no object at all',
      'bundles: { desk: { reads: [] } }',
      ['3:27 bundles.desk.reads is invalid → list what the code reads from, or remove `reads`'],
    ],
    [
      'an unknown toolchain',
      'bundles: { desk: { toolchain: vit } }',
      ['3:31 bundles.desk.toolchain must be one of KNOWN → did you mean vite, vitepress or wxt?'],
    ],
    [
      'a form of another language',
      'variables: { A: { reach: public, form: boolean } }',
      [
        '3:40 variables.A.form must be one of text, url, origin, email, host, port, integer, number, flag, date, json, list or pem → did you mean flag?',
      ],
    ],
    [
      'a form that reads as none',
      'variables: { A: { reach: public, form: zzzzzz } }',
      [
        '3:40 variables.A.form must be one of text, url, origin, email, host, port, integer, number, flag, date, json, list or pem → write text, url, origin, email, host, port, integer, number, flag, date, json, list or pem',
      ],
    ],
    [
      'no choices',
      'variables: { A: { reach: public, form: { choice: [] } } }',
      ['3:50 variables.A.form.choice is invalid → list the possible values'],
    ],
    [
      'a date that is none',
      'accept: [{ finding: leak/known-value, because: x, until: 2027-02-30 }]',
      ['3:58 accept.0.until is invalid → use a date such as 2027-03-01'],
    ],
    [
      'no reason',
      'accept: [{ finding: leak/known-value, until: 2027-02-01 }]',
      ['3:10 accept.0.because is missing → add a string'],
    ],
    [
      'an empty reason',
      'accept: [{ finding: leak/known-value, because: "", until: 2027-02-01 }]',
      ['3:48 accept.0.because is invalid → say why it is accepted'],
    ],
    [
      'a misspelt key beside a missing one',
      'accept: [{ finding: leak/known-value, becuase: x, until: 2027-02-01 }]',
      ['3:39 accept.0 has an unknown key "becuase" → did you mean because?'],
    ],
    [
      'a misspelt reach',
      'variables: { A: { raech: public } }',
      ['3:19 variables.A has an unknown key "raech" → did you mean reach?'],
    ],
    [
      'an unknown key of the contract',
      'variabels: {}',
      ['3:1 the contract has an unknown key "variabels" → did you mean variables?'],
    ],
    [
      'an unknown key that is a value',
      'Sup3r-S3cret_x!: 1',
      [
        '3:1 the contract has an unknown key "[masked]" → known: adder, default-stage, stages, bundles, variables, accept, passes, levels, hosts, history',
      ],
    ],
    [
      'a level that is none',
      'levels: { leak/known-value: off }',
      ['3:29 levels.leak/known-value must be one of error, warning or note → write error, warning or note'],
    ],
    ['a default stage that is none', 'default-stage: prod', ['3:16 unknown stage "prod" → did you mean production?']],
    [
      'stages of a bundle’s layers',
      'bundles: { desk: { layers: { prod: [.env] }, served: { stagin: "https://x.example" } } }',
      ['3:30 unknown stage "prod" → did you mean production?', '3:56 unknown stage "stagin" → did you mean staging?'],
    ],
    [
      'a site with a user',
      'bundles: { desk: { served: { staging: "https://me:pw@x.example" } } }',
      ['3:39 bundles.desk.served.staging is invalid → use a URL such as https://shop.example/, without a user name'],
    ],
    [
      'a site of another scheme',
      'bundles: { desk: { served: { staging: "ftp://x.example" } } }',
      ['3:39 bundles.desk.served.staging is invalid → use a URL such as https://shop.example/, without a user name'],
    ],
    [
      'a site with a password alone',
      'bundles: { desk: { served: { staging: "https://:pw@x.example" } } }',
      ['3:39 bundles.desk.served.staging is invalid → use a URL such as https://shop.example/, without a user name'],
    ],
    [
      'a site that is no URL',
      'bundles: { desk: { served: { staging: shop } } }',
      ['3:39 bundles.desk.served.staging is invalid → use a URL such as https://shop.example/, without a user name'],
    ],
    [
      'a key of an env file',
      'bundles: { desk: { layers: { staging: [{ file: .env, key: x }] } } }',
      ['3:54 .env is an env file and has no keys → remove `key`, or use a .json, .yaml, .ts or .js file'],
    ],
    [
      'no layer',
      'bundles: { desk: { layers: { staging: [] } } }',
      ['3:39 bundles.desk.layers.staging is invalid → list at least one layer'],
    ],
    [
      'an older name that two have',
      'variables: { A: { reach: public, aka: [C] }, B: { reach: public, aka: [C] } }',
      ['3:72 "C" is already a name of A → remove one of the two'],
    ],
    [
      'an older name that is its own',
      'variables: { A: { reach: public, aka: [A] } }',
      ['3:40 "A" is already a name of A → remove one of the two'],
    ],
    [
      'a name with a hyphen in a bundle',
      'bundles: { desk: {} }\nvariables: { A: { reach: public, names: { desk: B-C } } }',
      ['4:49 variables.A.names.desk is invalid → use letters, digits and _; do not start with a digit'],
    ],
    [
      'wide characters before it',
      'variables: { A: { reach: public, about: "⛴😀", form: ulr } }',
      [
        '3:54 variables.A.form must be one of text, url, origin, email, host, port, integer, number, flag, date, json, list or pem → did you mean url?',
      ],
    ],
  ])('is %s', (_, rest, problems) => {
    const shown = said(`${rest}\n`).map((text) =>
      text.replace(
        /one of other, .*? →|one of [a-z-]+(, [a-z-]+){9,} or [a-z-]+ →(?= did you mean vite)/,
        'one of KNOWN →',
      ),
    );
    expect(shown).toEqual(problems);
  });

  test.each<[title: string, top: string, problems: string[]]>([
    ['nothing', '', ['1:1 adder is missing → write `adder: 1`', '1:1 stages is missing → add a map of names']],
    [
      'no stage',
      'adder: 1\nstages: {}\n',
      ['2:1 the contract has no stage → add a stage with its layers under `stages`'],
    ],
    [
      'a stage without layers',
      'adder: 1\nstages: { a: { layers: [] } }\n',
      ['2:24 stages.a.layers is invalid → list at least one layer'],
    ],
    [
      'a misspelt key of a stage',
      'adder: 1\nstages: { a: { layer: [.env] } }\n',
      ['2:16 stages.a has an unknown key "layer" → did you mean layers?'],
    ],
    [
      'a key of an env file',
      'adder: 1\nstages: { a: { layers: [process, { file: .env, key: x }] } }\n',
      ['2:48 .env is an env file and has no keys → remove `key`, or use a .json, .yaml, .ts or .js file'],
    ],
    [
      'a mode of builds',
      'adder: 1\nstages: { a: { layers: [.env], build-as: prod } }\n',
      ['2:42 stages.a.build-as must be one of production or development → did you mean production?'],
    ],
  ])('is %s, at the top', (_, top, problems) => expect(said('', top)).toEqual(problems));
});

describe('what is no mistake', () => {
  test.each([
    'bundles: { desk: { served: { staging: "http://127.0.0.1:8080/a" } } }',
    'bundles: { desk: { build: " npm run  build " } }',
    'levels: { leak/later-one: note }',
    'variables: { A: { reach: public, required: false, https: true } }',
    'default-stage: staging',
  ])('%s', (rest) => expect(said(`${rest}\n`)).toEqual([]));
});

describe('a contract as it is understood', () => {
  test('has its default stage only where one is written', () => {
    expect([contractOf(head).defaultStage, contractOf(`${head}default-stage: staging\n`).defaultStage]).toEqual([
      undefined,
      'staging',
    ]);
  });

  test('has the layers as they are written', () => {
    const text =
      'adder: 1\nstages: { a: { layers: [process, .env, { file: v.json, key: x }, { command: [p, hush] }] } }\n';
    expect(contractOf(text).stages.get('a')?.layers).toMatchObject([
      { kind: 'process', name: 'process' },
      { kind: 'file', name: '.env', mustExist: false },
      { kind: 'file', name: 'v.json', mustExist: false, key: 'x' },
      { kind: 'command', name: 'command p', command: ['p', 'hush'] },
    ]);
  });

  test('splits a command into words', () => {
    const { bundles } = contractOf(`${head}bundles: { desk: { build: " npm run  build " } }\n`);
    expect(bundles.get('desk')?.build).toEqual(['npm', 'run', 'build']);
  });

  test('has no empty prefix', () => {
    const { bundles } = contractOf(`${head}bundles: { desk: { prefix: ["", A_] }, site: { prefix: "" } }\n`);
    expect([...bundles.values()].map(({ prefixes }) => prefixes)).toEqual([['A_'], []]);
  });

  test.each([
    ['1.0', '1.0'],
    ['"1.0"', '1.0'],
    ['true', 'true'],
    ['0x1F', '0x1F'],
  ])('keeps the default %s as %s', (written, text) => {
    const value = contractOf(`${head}variables: { A: { reach: public, default: ${written} } }\n`).variables.get(
      'A',
    )?.default;
    expect(value && reveal(value)).toBe(text);
  });
});
