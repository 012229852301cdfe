import { describe, expect, test } from 'vitest';
import { ferryProject, secrets, type TestProject } from '../support/adder.js';
import { needsUnix } from '../support/windows.js';

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

describe('an acceptance is unused only if all that it could be about was checked', () => {
  const at = ferryProject({
    'dist/a.js': `k="${key}"`,
    'dist/b.js': 'b()',
    'src/main.ts': 'import.meta.env.VITE_FERRY_API_ULR',
    'lib/x.ts': '',
    '.env.staging': 'FERRY_API_URL=x\n',
  });
  at.write(
    'adder.yaml',
    at.read('adder.yaml').replace('variables:', '  crew: { code: [lib], output: [lib] }\nvariables:'),
  );
  const calls = [
    ['values', 'production'],
    ['values', 'staging'],
    ['values', '--all'],
    ['lint'],
    ['lint', '--bundle', 'crew'],
    ['inspect', '--stage', 'production'],
    ['inspect', '--stage', 'production', '--bundle', 'crew'],
    ['inspect', '--stage', 'production', 'dist/b.js'],
    ['inspect', '--stage', 'production', '--shard', '2/2'],
    ['gate', 'production'],
  ];
  const accepting = ['accept', '--all', '--stage', 'production', '--because', 'known', '--until', '2999-01-01'];

  test('after all findings are accepted, no call reports one as unused', () => {
    expect(at.adder(accepting).code).toBe(0);
    for (const args of calls) {
      const { report } = at.json(args);
      const unused = report.findings.filter((one: { code: string }) => one.code === 'contract/unused-acceptance');
      expect(unused, args.join(' ')).toEqual([]);
    }
  });

  test('after the findings are fixed, the calls that check everything do', () => {
    at.write('dist/a.js', 'a()');
    at.write('src/main.ts', 'import.meta.env.VITE_FERRY_API_URL');
    const unused = (args: string[]) =>
      at.json(args).report.findings.filter((one: { code: string }) => one.code === 'contract/unused-acceptance').length;
    expect(unused(['inspect', '--stage', 'production'])).toBeGreaterThan(0);
    expect(unused(['lint'])).toBeGreaterThan(0);
    expect(unused(['inspect', '--stage', 'production', 'dist/b.js'])).toBe(0);
  });

  test('one that has ended is reported wherever its finding is', () => {
    at.write('dist/a.js', `k="${key}"`);
    const contract = at.read('adder.yaml');
    at.write('adder.yaml', contract.replaceAll('2999-01-01', '2020-01-01'));
    const codes = at
      .json(['inspect', '--stage', 'production', 'dist/a.js'])
      .report.findings.map((one: { code: string }) => one.code);
    expect(codes).toEqual(expect.arrayContaining(['contract/expired-acceptance', 'leak/known-value']));
    expect(codes.filter((one: string) => one === 'contract/expired-acceptance')).toHaveLength(1);
  });
});

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

  needsUnix('values: a build is not refused for what was accepted', () => {
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

describe('adder accept', () => {
  const token = ['npm', 'aB3dE6gH9jK2mN5pQ8sT1vW4xY7zA0cD3fG6'].join('_');
  const at = () => ferryProject({ 'dist/app.js': `const a="${token}",b="${key}";` });
  const reason = ['--because', 'the key moves to the server', '--stage', 'production'];

  test('one finding by the beginning of its fingerprint, as the text report shows it', () => {
    const project = at();
    const { stdout } = project.adder(['inspect', '--stage', 'production']);
    const [, prefix = ''] = /leak\/known-value {2}([0-9a-f]{8})/.exec(stdout) ?? [];
    const before = project.read('adder.yaml');
    const accepted = project.adder(['accept', prefix, ...reason, '--until', '2099-05-31']);
    expect(accepted).toMatchObject({ code: 0, stdout: 'accepted 1 finding until 2099-05-31, in adder.yaml\n' });
    const after = project.read('adder.yaml');
    expect(after.startsWith(before)).toBe(true);
    expect(after.slice(before.length)).toContain('# dist/app.js, FARE_SIGNING_KEY\n');
    project.expectNone([...Object.values(secrets), token], accepted);
    expect(after).not.toContain(token);
    const { report } = project.json(['inspect', '--stage', 'production']);
    expect(report.summary.accepted).toBe(1);
    expect(report.findings.map(({ code }: { code: string }) => code)).toEqual(['leak/token-shape']);
  });

  test('all of today, and then a new one is found', () => {
    const project = at();
    project.adder(['accept', '--all', ...reason]);
    const inspected = project.adder(['inspect', '--stage', 'production', '--fail-on', 'note', '--allow-incomplete']);
    expect(inspected.code).toBe(0);
    expect(project.adder(['lint', '--fail-on', 'note']).code).not.toBe(1);
    expect(project.adder(['accept', '--all', ...reason]).stdout).toBe('nothing to accept: there are no findings\n');
    project.write('dist/new.js', `x="${token}"`);
    expect(project.adder(['inspect', '--stage', 'production']).code).toBe(1);
  });

  test('--dry-run writes nothing', () => {
    const project = at();
    const before = project.read('adder.yaml');
    expect(project.adder(['accept', '--all', '--dry-run', ...reason]).stdout).toMatch(/^would accept \d+ findings/);
    expect(project.read('adder.yaml')).toBe(before);
  });

  test.each([
    [['accept', 'abcd1234'], 'adder accept needs a reason'],
    [['accept', ...reason], 'adder accept needs a fingerprint'],
    [['accept', 'xyz', ...reason], '"xyz" is not the beginning of a fingerprint'],
    [['accept', 'abcd', ...reason, '--all'], '--all accepts all findings, and fingerprints were given too'],
    [['accept', 'abcd1234', ...reason], 'no finding has the fingerprint abcd1234 now'],
    [['accept', 'abcd1234', ...reason, '--until', '2020-01-01'], '--until 2020-01-01 is in the past'],
    [['accept', 'abcd1234', ...reason, '--until', 'soon'], '--until'],
  ])('%j is refused', (args, message) => {
    const { code, stderr } = at().adder(args);
    expect(code).toBe(2);
    expect(stderr).toContain(message);
  });
});

test.each([['by its fingerprint'], ['with all others']])('a problem in several places is accepted once, %s', (how) => {
  const at = ferryProject({ 'src/a.ts': 'f(import.meta.env.VITE_GONE);\n'.repeat(3) });
  const { findings } = at.json(['lint']).report;
  const prints = findings.map(({ fingerprint }: { fingerprint: string }) => fingerprint);
  const [print] = prints.filter((one: string, index: number) => prints.indexOf(one) !== index);
  const asked = how === 'with all others' ? '--all' : print;
  expect(at.adder(['accept', asked, '--because', 'a test'])).toMatchObject({ code: 0, stderr: '' });
  expect(at.read('adder.yaml').split(print)).toHaveLength(2);
});
