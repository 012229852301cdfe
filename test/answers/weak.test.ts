import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';

/** The answers for a variable with these values in production and staging, and a script. */
function answered(variable: string, [production, staging]: [string, string], script: string) {
  const at = new TestProject({
    'adder.yaml': `adder: 1
stages: { staging: { layers: [.env.staging] }, production: { layers: [.env] } }
bundles: { desk: { toolchain: other, code: [src], output: [dist] } }
variables:
  V: ${variable}
`,
    '.env': `V=${production}\n`,
    '.env.staging': `V=${staging}\n`,
    'src/a.ts': 'export {}',
    'dist/a.js': script,
  });
  const { code, report } = asked(at);
  const { notSearched = [] } = report.coverage;
  return {
    code,
    found: report.findings.map((one: { code: string }) => one.code),
    listed: notSearched.length > 0,
  };
}

const always = '{ reach: server, search: always }';
const distinct = '{ reach: public, distinct: true }';

describe('a value that ordinary text may contain', () => {
  test.each<
    [
      what: string,
      variable: string,
      values: [string, string],
      script: string,
      code: number,
      found: string[],
      listed: boolean,
    ]
  >([
    ['is found as a whole literal', always, ['4711', '4712'], 'p="4711"', 1, ['leak/known-value'], false],
    ['is found in an element', always, ['4711', '4712'], '`<b>4711</b>`', 1, ['leak/known-value'], false],
    ['is not found within another text', always, ['4711', '4712'], 'p="14711",q=4711', 0, [], false],
    ['is listed if it is too short even for that', always, ['471', '472'], 'p="471"', 0, [], true],
    ['is listed if it is a word of every bundle', always, ['true', 'false'], 'p="true"', 0, [], true],
    ['is listed unless the contract wants it', '{ reach: server }', ['4711', '4712'], 'p="4711"', 0, [], true],
    [
      'of another stage is found if they differ',
      distinct,
      ['4711', '4712'],
      'p="4712"',
      1,
      ['stage/foreign-value'],
      false,
    ],
    ['of this stage is none of another', distinct, ['4711', '4711'], 'p="4711"', 0, [], false],
    ['of another stage may be there by chance', '{ reach: public }', ['4711', '4712'], 'p="4712"', 0, [], false],
  ])('%s', (_, variable, values, script, code, found, listed) => {
    expect(answered(variable, values, script)).toEqual({ code, found, listed });
  });
});
