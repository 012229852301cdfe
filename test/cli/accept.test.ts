import { describe, expect, test } from 'vitest';
import { ferryProject, secrets, type TestProject } from '../support/adder.js';

const key = secrets.FARE_SIGNING_KEY;

const withAcceptance = (acceptance: string): TestProject => {
  const contract = `${ferryProject().read('adder.yaml')}accept: [${acceptance}]\n`;
  return ferryProject({ 'adder.yaml': contract, 'dist/map-4f.js': key, 'dist/other.js': '' });
};

const inspect = (at: TestProject) => {
  const { code, report } = at.json(['inspect', '--stage', 'production']);
  return [
    code,
    report.summary.accepted,
    report.findings.map(({ code: one, place }: { code: string; place: { path: string } }) => `${one} ${place.path}`),
  ];
};

const because = "because: 'bound to our domains'";

describe('acceptances', () => {
  test.each<[title: string, acceptance: string, expected: unknown[]]>([
    ['by place', `{ finding: leak/known-value, where: 'dist/map-*.js', ${because}, until: 2999-01-01 }`, [0, 1, []]],
    [
      'by variable',
      `{ finding: leak/known-value, variable: FARE_SIGNING_KEY, ${because}, until: 2999-01-01 }`,
      [0, 1, []],
    ],
    [
      'ended',
      `{ finding: leak/known-value, ${because}, until: 2020-01-01 }`,
      [1, 0, ['contract/expired-acceptance adder.yaml', 'leak/known-value dist/map-4f.js']],
    ],
    [
      'of another place',
      `{ finding: leak/known-value, where: 'lib/*.js', ${because}, until: 2999-01-01 }`,
      [1, 0, ['contract/unused-acceptance adder.yaml', 'leak/known-value dist/map-4f.js']],
    ],
    [
      'of another code',
      `{ finding: value/missing, ${because}, until: 2999-01-01 }`,
      [1, 0, ['leak/known-value dist/map-4f.js']],
    ],
  ])('%s', (_, acceptance, expected) => expect(inspect(withAcceptance(acceptance))).toEqual(expected));

  test('by fingerprint, and the summary counts what was accepted', () => {
    const { report } = withAcceptance('').json(['inspect', '--stage', 'production']);
    const [{ fingerprint }] = report.findings;
    const at = withAcceptance(
      `{ finding: leak/known-value, fingerprint: ${fingerprint}, ${because}, until: 2999-01-01 }`,
    );
    expect(at.adder(['inspect', '--stage', 'production']).stdout).toContain('no problems, and 1 accepted\n');
  });

  test('values: a build is not refused for what was accepted', () => {
    const contract = ferryProject()
      .read('adder.yaml')
      .replace('{ reach: public, form: url }', '{ reach: public, form: url, https: true }');
    const at = (acceptance: string) =>
      ferryProject({
        'adder.yaml': `${contract}accept: [${acceptance}]\n`,
        '.env.production': 'FERRY_API_URL=http://a.example\nSOURCE_MAP_UPLOAD_TOKEN=t\n',
      });
    const build = ['with', 'production', '--', 'true'];
    expect(at('').adder(build).code).toBe(1);
    expect(
      at(`{ finding: value/malformed, variable: FERRY_API_URL, ${because}, until: 2999-01-01 }`).adder(build).code,
    ).toBe(0);
  });

  test('a reason and an end are asked for', () => {
    expect(withAcceptance('{ finding: leak/known-value, until: soon }').adder(['inspect']).stdout).toMatch(
      /because is missing[\s\S]*use a date such as 2027-03-01/,
    );
  });
});
