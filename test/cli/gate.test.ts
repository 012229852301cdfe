import { describe, expect, test } from 'vitest';
import { ferryContract, ferryProject, secrets } from '../support/adder.js';
import { MadeUpSite } from '../support/site.js';

const twoBundles = ferryContract.replace(
  'variables:',
  '  crew-desk: { runs: browser, toolchain: vite, code: [crew/src], output: [crew/dist], prefix: VITE_ }\nvariables:',
);

describe('all checks in one call', () => {
  const project = ferryProject({
    'adder.yaml': twoBundles,
    'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_ULR)',
    'crew/src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL)',
    'dist/a.js': `k="${secrets.FARE_SIGNING_KEY}"`,
    'crew/dist/a.js': 'f("https://api.saltmarsh.example/x")',
    '.env.production': [
      'FERRY_API_URL=https://api.saltmarsh.example ',
      `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}`,
      'SOURCE_MAP_UPLOAD_TOKEN=',
      '',
    ].join('\n'),
  });

  test('has the findings of values, lint and inspect, once, with their fingerprints', () => {
    const { code, report } = project.json(['gate', 'production']);
    expect(code).toBe(1);
    expect([report.command, report.stage]).toEqual(['gate', 'production']);
    const alone = [['values', 'production'], ['lint'], ['inspect', '--stage', 'production']].flatMap(
      (args) => project.json(args).report.findings,
    );
    const prints = (all: { fingerprint: string }[]) => [...new Set(all.map(({ fingerprint }) => fingerprint))].sort();
    expect(prints(report.findings)).toEqual(prints(alone));
    const codes = report.findings.map((one: { code: string }) => one.code);
    expect(codes).toEqual(expect.arrayContaining(['value/empty', 'code/unknown-name', 'leak/known-value']));
    expect(report.checked.map(({ part, state }: { part: string; state: string }) => [part, state])).toEqual([
      ['values', 'checked'],
      ['code and repository', 'checked'],
      ['built files', 'checked'],
      ['hosts', 'skipped'],
      ['served sites', 'skipped'],
    ]);
  });

  test('answers the questions for each bundle', () => {
    const { bundles } = project.json(['gate', 'production']).report;
    const words = bundles.map(
      ({ bundle, answers }: { bundle: string; answers: Record<string, { answer: string }> }) => [
        bundle,
        answers.nothingLeaked?.answer,
        answers.allThere?.answer,
      ],
    );
    expect(words).toEqual([
      ['ticket-desk', 'no', 'yes'],
      ['crew-desk', 'not known', 'yes'],
    ]);
    const { stdout } = project.adder(['gate', 'production', '--quiet']);
    expect(stdout).toMatch(/ {2}ticket-desk {2}no {14}yes/);
    expect(stdout).toContain('parts: values; code and repository; built files');
    project.expectNone(Object.values(secrets), { code: 0, stdout, stderr: '' });
  });

  test.each(['text', 'sarif', 'junit', 'markdown', 'html', 'code-quality'])('as %s, without secrets', (format) => {
    const ran = project.adder(['gate', 'production', '--format', format]);
    expect(ran.code).toBe(1);
    expect(ran.stdout).toContain('leak/known-value'.replace('/', format === 'junit' ? '.' : '/'));
    project.expectNone(Object.values(secrets), ran);
  });
});

test('a part that cannot be checked is listed', () => {
  const project = ferryProject({ 'adder.yaml': ferryContract.replace(', output: [dist]', ''), 'src/main.ts': 'f()' });
  const { report } = project.json(['gate', 'production']);
  expect(report.checked[2]).toEqual({
    part: 'built files',
    state: 'skipped',
    because: 'no bundle of the contract has an output',
  });
  expect(project.adder(['gate', 'production']).stdout).toContain(
    'skipped: built files, no bundle of the contract has an output',
  );
});

test('a missing or wrong stage is an error', () => {
  const project = ferryProject({ 'adder.yaml': ferryContract.replace(', output: [dist]', ''), 'src/main.ts': 'f()' });
  expect(project.adder(['gate']).stderr).toContain('usage: adder gate STAGE');
  expect(project.adder(['gate', 'prod']).stderr).toContain('did you mean production?');
});

test('with a large output, code is checked in a thread, with the same report', () => {
  const project = ferryProject({
    'src/main.ts': `f(import.meta.env.VITE_FERRY_API_ULR, "${secrets.FARE_SIGNING_KEY}")`,
    'dist/a.js': `k="${secrets.FARE_SIGNING_KEY}"`,
    'dist/large.bin': Buffer.alloc(17 * 2 ** 20, 'harbour '),
  });
  const [threads, alone] = [[], ['--threads', '1']].map((more) => project.json(['gate', 'production', ...more]));
  expect(threads).toEqual(alone);
  const codes = threads?.report.findings.map((one: { code: string }) => one.code);
  expect(codes).toEqual(expect.arrayContaining(['code/unknown-name', 'code/secret-in-code', 'leak/known-value']));
  project.expectNone(Object.values(secrets), { code: 0, stdout: JSON.stringify(threads), stderr: '' });
});

describe('hosts and served sites', () => {
  const hosts = (list: string) => `hosts:\n  harbour: { holds: [server], list: ${list} }\n`;
  const clean = {
    'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL)',
    'dist/index.html': '<!doctype html><script src="/a.js"></script>',
    'dist/a.js': 'f("https://api.saltmarsh.example/x")',
    'names.txt': 'FARE_SIGNING_KEY\n',
  };

  const partsOf = ({ checked }: { checked: { part: string; state: string; because?: string }[] }) =>
    checked.find(({ part }) => part === 'hosts');

  test('a host of the contract is compared', () => {
    const project = ferryProject({ ...clean, 'adder.yaml': ferryContract + hosts('names.txt') });
    const good = project.json(['gate', 'production', '--allow-incomplete']);
    expect([good.code, partsOf(good.report)?.state]).toEqual([0, 'checked']);
  });

  test('a host with a misspelt name is not clean', () => {
    const project = ferryProject({ ...clean, 'adder.yaml': ferryContract + hosts('names.txt') });
    project.write('names.txt', 'FARE_SIGNING_KY\n');
    const wrong = project.json(['gate', 'production']);
    expect(wrong.code).toBe(1);
    expect(wrong.report.findings.map(({ code }: { code: string }) => code)).toContain('host/misspelt');
  });

  test('a host that cannot be read is listed', () => {
    const project = ferryProject({ ...clean, 'adder.yaml': ferryContract + hosts('names.txt') });
    project.write('adder.yaml', ferryContract + hosts('gone.txt'));
    const unread = project.json(['gate', 'production']);
    expect(unread.report.coverage.unread).toContainEqual(
      expect.objectContaining({ path: 'harbour (gone.txt)', because: expect.stringContaining('not') }),
    );
  });

  test('a host without its credential is listed', () => {
    const project = ferryProject({ ...clean, 'adder.yaml': ferryContract + hosts('names.txt') });
    project.write(
      'adder.yaml',
      ferryContract + hosts('{ url: "https://console.example/", headers: { Authorization: "{CONSOLE_TOKEN}" } }'),
    );
    expect(partsOf(project.json(['gate', 'production']).report)).toEqual({
      part: 'hosts',
      state: 'skipped',
      because: 'CONSOLE_TOKEN has no value',
    });
  });

  test('a site is probed if that is asked for, and its answers count', async () => {
    const site = await MadeUpSite.start({ '/': clean['dist/index.html'], '/a.js': clean['dist/a.js'] });
    const address = site.url;
    const contract = ferryContract.replace(
      'prefix: VITE_ }',
      `prefix: VITE_, served: { production: "${site.url}/" } }`,
    );
    const project = ferryProject({ ...clean, 'adder.yaml': contract });
    const gate = async (...args: string[]) => {
      const { code, stdout } = await project.adderBeside([
        'gate',
        'production',
        '--allow-incomplete',
        '--format',
        'json',
        ...args,
      ]);
      return { code, report: JSON.parse(stdout) };
    };
    expect(site.requests).toEqual([]);
    expect((await gate()).code).toBe(0);
    expect(site.requests).toEqual([]);
    const probed = await gate('--probe');
    // Without a receipt it is unknown which build is served.
    expect([probed.code, probed.report.answers.current.answer]).toEqual([3, 'not known']);
    site.files['/.env'] = 'FARE_SIGNING_KEY=x\n';
    const { code, report } = await gate('--probe');
    expect([code, report.answers.nothingLeaked.answer]).toEqual([1, 'no']);
    expect(report.findings.map((one: { code: string }) => one.code)).toContain('serve/env-file');
    await site.stop();
    const down = await gate('--probe');
    expect(down.code).toBe(3);
    expect(down.report.coverage.files).toBeGreaterThan(0);
    expect(down.report.coverage.unread).toEqual([
      { path: `${address}/`, inside: [], because: expect.stringContaining('refused the connection') },
    ]);
    expect(down.report.answers.nothingLeaked.answer).toBe('not known');
    project.write('adder.yaml', ferryContract);
    expect(project.adder(['gate', 'production', '--probe'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('served: { production: https://shop.example/ }'),
    });
  });
});

test('--allow-incomplete: a server value that is not here is a note, and nothing else is allowed', () => {
  const project = ferryProject({
    'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL)',
    'dist/a.js': 'f("https://api.saltmarsh.example")',
    '.env.production': 'FERRY_API_URL=https://api.saltmarsh.example\n',
  });
  const args = ['gate', 'production', '--allow-incomplete'];
  expect(project.json(['gate', 'production']).code).toBe(1);
  const { code, report } = project.json(args);
  const missing = report.findings.filter((one: { code: string }) => one.code === 'value/missing');
  expect(missing.map((one: { variable: string; level: string }) => [one.variable, one.level])).toEqual([
    ['FARE_SIGNING_KEY', 'note'],
    ['SOURCE_MAP_UPLOAD_TOKEN', 'note'],
  ]);
  expect([code, report.answers.nothingLeaked.answer]).toEqual([0, 'not known']);
  project.write('.env.production', 'FARE_SIGNING_KEY=made-up-fare-signing-key-of-the-tests-0001\n');
  expect(project.json(args).code).toBe(1);
});
