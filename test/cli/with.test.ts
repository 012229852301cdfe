import { spawn } from 'node:child_process';
import { chmodSync, existsSync, readdirSync, statSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';

/** A build that writes down what it was given. */
const recorder = `
import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
writeFileSync('environment.json', JSON.stringify(process.env));
writeFileSync('dist/app.js', 'api("' + process.env.VITE_FERRY_API_URL + '")');
`;

const build = ['with', 'production', '--', 'node', 'build.mjs'];

function receiptsOf(project: TestProject): string[] {
  const folder = '.adder/receipts/ticket-desk';
  return existsSync(project.path(folder)) ? readdirSync(project.path(folder)).map((name) => `${folder}/${name}`) : [];
}

describe('what the build gets', () => {
  test('exactly the values of its bundle, under the names that its code reads, and the short list', () => {
    const project = ferryProject({ 'build.mjs': recorder });
    const { code, stderr } = project.adder(build, {
      STRAY: 'x',
      FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY,
      VITE_STRAY: 'x',
      LC_ALL: 'C',
      NEXT_TELEMETRY_DISABLED: '1',
      npm_config_token: 'x',
    });
    expect(code, stderr).toBe(0);
    const { PATH, HOME, ...rest } = JSON.parse(project.read('environment.json'));
    expect(PATH && HOME).toBeTruthy();
    expect(rest).toEqual({
      VITE_FERRY_API_URL: 'https://api.saltmarsh.example',
      VITE_TIDE_CHART: 'true',
      SOURCE_MAP_UPLOAD_TOKEN: secrets.SOURCE_MAP_UPLOAD_TOKEN,
      ADDER_STAGE: 'production',
      ADDER_BUNDLE: 'ticket-desk',
      LC_ALL: 'C',
      NEXT_TELEMETRY_DISABLED: '1',
    });
  });

  test('Adder within the build finds there what the process environment and commands gave', () => {
    const contract = `adder: 1
stages:
  production: { layers: [process, { command: [node, --print, "'FERRY_NAME=' + process.env.QUAY_SOURCE"] }] }
bundles: { desk: { toolchain: vite, code: [src], output: [dist], prefix: VITE_ } }
variables: { FERRY_API_URL: public, FERRY_NAME: public, FARE_SIGNING_KEY: server }
`;
    const project = ferryProject({
      'adder.yaml': contract,
      'src/a.js': '',
      'build.mjs': `import { spawnSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
const values = spawnSync(process.execPath, [${JSON.stringify(program)}, 'values', 'production', '--format', 'json'], { encoding: 'utf8' });
mkdirSync('dist', { recursive: true });
writeFileSync('dist/values.json', values.stdout);
`,
    });
    const ran = project.adder(build, {
      FERRY_API_URL: 'https://a.example',
      QUAY_SOURCE: 'Harbour',
      FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY,
    });
    expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    const { values } = JSON.parse(project.read('dist/values.json'));
    expect(values.map(({ name, value, state }: Record<string, string>) => [name, value ?? state])).toEqual([
      ['FERRY_API_URL', 'https://a.example'],
      ['FERRY_NAME', 'Harbour'],
      ['FARE_SIGNING_KEY', 'elsewhere'],
    ]);
  });

  test('names that the contract passes on, and server values for a server bundle', () => {
    const contract = `${ferryContract.replace('runs: browser, toolchain: vite', 'runs: server')}passes: [STRAY]\n`;
    const project = ferryProject({ 'build.mjs': recorder, 'adder.yaml': contract });
    expect(project.adder(build, { STRAY: 'x' }).code).toBe(0);
    expect(JSON.parse(project.read('environment.json'))).toMatchObject({
      STRAY: 'x',
      FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY,
      VITE_TIDE_CHART: 'true',
    });
  });

  test('a server value that is missing here does not keep a browser build back', () => {
    const project = ferryProject({
      'build.mjs': recorder,
      '.env.production': 'FERRY_API_URL=https://a.example\nSOURCE_MAP_UPLOAD_TOKEN=t\n',
    });
    expect(project.adder(['values', 'production']).stdout).toContain(
      'FARE_SIGNING_KEY has no value in production on this machine',
    );
    expect(project.adder(build).code).toBe(0);
  });
});

describe('a build that is refused', () => {
  test.each<[title: string, env: string, said: string]>([
    ['missing', 'FERRY_API_URL=https://a.example', 'SOURCE_MAP_UPLOAD_TOKEN has no value in production'],
    ['malformed', 'FERRY_API_URL=a.example\nSOURCE_MAP_UPLOAD_TOKEN=t', 'FERRY_API_URL has no scheme'],
    ['empty', 'FERRY_API_URL=\nSOURCE_MAP_UPLOAD_TOKEN=t', 'FERRY_API_URL is empty'],
    [
      'widened',
      'FERRY_API_URL=https://$FARE_SIGNING_KEY\nSOURCE_MAP_UPLOAD_TOKEN=t\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-the-tests-0001',
      'refers to FARE_SIGNING_KEY, which is server',
    ],
    [
      'a line that may be any variable',
      'FERRY_API_URL=https://a.example\nSOURCE_MAP_UPLOAD_TOKEN=t\n-----',
      'the line has no =',
    ],
  ])('%s', (_, env, said) => {
    const project = ferryProject({ 'build.mjs': recorder, '.env.production': env });
    const ran = project.adder(build);
    expect(ran.code).toBe(1);
    expect(ran.stdout).toContain(said);
    expect(ran.stderr).toBe('adder: not built: node build.mjs\n');
    expect([existsSync(project.path('environment.json')), receiptsOf(project)]).toEqual([false, []]);
    project.expectNone(Object.values(secrets), ran);
  });

  test('a value among the words of the command is not repeated', () => {
    const project = ferryProject({ '.env.production': `FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n` });
    const refused = project.adder(['with', 'production', '--', 'deploy', secrets.FARE_SIGNING_KEY]);
    expect(refused.stderr).toBe('adder: not built: deploy [masked]\n');
    const notFound = ferryProject().adder(['with', 'production', '--', secrets.FARE_SIGNING_KEY]);
    expect(notFound).toMatchObject({
      code: 127,
      stderr: expect.stringContaining('the command "[masked]" was not found'),
    });
  });

  test('in JSON, with only the findings that stop the build', () => {
    const project = ferryProject({ '.env.production': 'STRAY=1\n' });
    const { code, stdout } = project.adder(['with', 'production', '--format', 'json', '--', 'true']);
    expect(code).toBe(1);
    expect(JSON.parse(stdout)).toMatchObject({
      command: 'with',
      stage: 'production',
      summary: { error: 2, warning: 0 },
    });
  });

  test.each<[args: string[], error: string]>([
    [['with'], 'adder: adder with needs a stage\n  → usage: adder with development|staging|production -- COMMAND\n'],
    [
      ['with', 'production'],
      'adder: no build command\n  → write it after --, such as `adder with production -- npm run build`, or add `build` to the bundle in the contract\n',
    ],
    [
      ['with', 'production', 'npm', '--', 'x'],
      'adder: adder with takes one argument, the stage\n  → put -- before the command: adder with STAGE [-- COMMAND...]\n',
    ],
  ])('%j', (args, error) => expect(ferryProject().adder(args)).toEqual({ code: 2, stdout: '', stderr: error }));

  test('of several bundles one must be named', () => {
    const contract = ferryContract.replace('bundles:\n', 'bundles:\n  deckhand: { runs: mobile }\n');
    expect(ferryProject({ 'adder.yaml': contract }).adder(build).stderr).toContain('--bundle deckhand|ticket-desk');
  });
});

describe('the output of the build', () => {
  test('only secrets are masked, in every encoding, across writes and on both streams', () => {
    const script = `
      const [key, url, token] = ${JSON.stringify(Object.values(secrets))};
      process.stdout.write('\\x1b[32mgreen\\x1b[0m ' + key.slice(0, 9));
      setTimeout(() => {
        process.stdout.write(key.slice(9) + '.\\n' + Buffer.from('x' + key).toString('base64') + '\\n');
        process.stderr.write(encodeURIComponent(url) + ' ' + JSON.stringify({ token }) + '\\n');
        process.stdout.write('no end of line');
      }, 50);`;
    const project = ferryProject({ 'build.mjs': script });
    const ran = project.adder(build);
    expect(ran.stdout).toBe('\x1b[32mgreen\x1b[0m [masked].\neG[masked]Q==\nno end of line');
    expect(ran.stderr).toContain('[masked] {"token":"[masked]"}\n');
    project.expectNone(Object.values(secrets), ran);
  });

  test('pieces of a value, and values that inspect does not look for, are masked too', () => {
    const project = ferryProject({
      'adder.yaml': ferryContract.replace('{ reach: server, min: 32 }', '{ reach: server, search: never }'),
    });
    const password = new URL(secrets.LEDGER_DATABASE_URL).password;
    const ran = project.adder(['with', 'production', '--', 'echo', 'is', password, secrets.FARE_SIGNING_KEY]);
    expect(ran.stdout).toBe('is [masked] [masked]\n');
  });

  test('a secret is masked with its characters escaped one by one too', () => {
    const key = secrets.FARE_SIGNING_KEY;
    const codes = (write: (code: number) => string) => [...key].map((one) => write(one.charCodeAt(0))).join('');
    const forms = [
      codes((code) => `\\u${code.toString(16).padStart(4, '0')}`),
      codes((code) => `\\x${code.toString(16).toUpperCase()}`),
      codes((code) => `\\u{${code.toString(16)}}`),
      codes((code) => `&#${code};`),
      codes((code) => `&#x${code.toString(16)};`),
      codes((code) => `%${code.toString(16)}`),
    ];
    const project = ferryProject({ 'print.mjs': `console.log(${JSON.stringify(forms.join(' '))});\n` });
    const ran = project.adder(['with', 'production', '--', 'node', 'print.mjs']);
    expect(ran.stdout).toBe(`${forms.map(() => '[masked]').join(' ')}\n`);
  });

  test('values of other stages and of names that are not declared are masked too', () => {
    const project = ferryProject({ '.env.development': 'STRAY_KEY=made-up-stray-value\n' });
    const ran = project.adder([
      'with',
      'production',
      '--',
      'echo',
      'made-up-stray-value',
      'made-up-fare-signing-key-of-staging-0002',
      'https://api.saltmarsh.example',
    ]);
    expect(ran.stdout).toBe('[masked] [masked] https://api.saltmarsh.example\n');
  });

  test('a value left from an earlier export is reported before the build', () => {
    const project = ferryProject({ 'build.mjs': recorder });
    const ran = project.adder(build, { FERRY_API_URL: 'https://old.example' });
    expect(ran.stderr).toContain('the process environment wins over .env.production:1 with a different FERRY_API_URL');
    expect(ran.code).toBe(0);
  });
});

describe('the receipt', () => {
  test('has inputs and outputs, no value, and stays out of the repository', () => {
    const project = ferryProject({ 'build.mjs': recorder });
    const ran = project.adder([...build, secrets.SOURCE_MAP_UPLOAD_TOKEN]);
    expect(ran.stderr).toMatch(
      /^adder: built 1 file; receipt: \.adder\/receipts\/ticket-desk\/.*\.production\.json\n$/,
    );
    const [path = ''] = receiptsOf(project);
    const { subject, predicate } = JSON.parse(project.read(path));
    expect(subject).toEqual([
      { name: 'dist/app.js', digest: { sha256: expect.stringMatching(/^[0-9a-f]{64}$/) }, annotations: { bytes: 36 } },
    ]);
    expect(predicate).toMatchObject({
      bundle: 'ticket-desk',
      stage: 'production',
      adder: '0.1.0',
      command: ['node', 'build.mjs', '[masked]'],
    });
    expect(predicate.values).toEqual([
      {
        name: 'FERRY_API_URL',
        reach: 'public',
        readAs: 'VITE_FERRY_API_URL',
        fingerprint: expect.stringMatching(/^[0-9a-f]{64}$/),
        entry: expect.stringMatching(/^[0-9a-f]{32}$/),
        from: { layer: '.env.production', path: '.env.production', line: 1 },
        delivery: 'inline',
        places: [{ path: 'dist/app.js', offset: 5, length: 29 }],
      },
      expect.objectContaining({ name: 'TIDE_CHART', places: [] }),
      expect.objectContaining({ name: 'SOURCE_MAP_UPLOAD_TOKEN', reach: 'build', places: [] }),
    ]);
    project.expectNone(Object.values(secrets), ran);
    expect(project.read('.adder/.gitignore')).toContain('\n*\n');
    expect(statSync(project.path('.adder/key')).mode & 0o777).toBe(0o600);
    expect(statSync(project.path(path)).mode & 0o777).toBe(0o600);
    const key = project.read('.adder/key');
    project.adder(build);
    expect(project.read('.adder/key')).toBe(key);
    expect(receiptsOf(project)).toHaveLength(2);
  });

  test('{stage} in the command is the stage, for tools with configurations of their own', () => {
    const project = ferryProject();
    const ran = project.adder(['with', 'staging', '--', 'node', '-p', 'process.argv[1]', 'configuration={stage}']);
    expect(ran.stdout).toBe('configuration=staging\n');
  });

  test('a damaged key is reported, and nothing is overwritten', () => {
    const project = ferryProject({ 'build.mjs': recorder, '.adder/key': 'abc' });
    chmodSync(project.path('.adder/key'), 0o600);
    expect(project.adder(build)).toMatchObject({ code: 3, stderr: expect.stringContaining('.adder/key is damaged') });
    expect(project.read('.adder/key')).toBe('abc');
  });

  test.each<[title: string, command: string[], code: number, said: string]>([
    [
      'a build that fails',
      ['node', '-e', 'process.exit(7)'],
      7,
      'adder: the command exited with code 7; no receipt: the command failed',
    ],
    [
      'a build that is killed',
      ['node', '-e', 'process.kill(process.pid, "SIGKILL")'],
      137,
      'ended by SIGKILL; no receipt',
    ],
    ['a command that is not there', ['no-such-bundler'], 127, 'the command "no-such-bundler" was not found'],
    ['a file that is no program', ['./adder.yaml'], 126, 'the command "./adder.yaml" is not executable'],
    ['a build without output', ['true'], 0, 'adder: the command exited with code 0; no receipt: dist has no files'],
    [
      'a command that writes nothing',
      ['test', '-f', 'dist/app.js'],
      0,
      'adder: the command exited with code 0; no receipt: the command wrote nothing to dist',
    ],
    [
      'a build that writes elsewhere',
      ['node', '-e', "fs.mkdirSync('htdocs/js', { recursive: true }); fs.writeFileSync('htdocs/js/a.js', 'x')"],
      0,
      'it wrote 1 file to htdocs/js: if they ship, set `output: [htdocs/js]` for ticket-desk in the contract',
    ],
  ])('none after %s', (title, command, code, said) => {
    const project = ferryProject(title === 'a build without output' ? {} : { 'dist/app.js': 'x' });
    const ran = project.adder(['with', 'production', '--', ...command]);
    expect([ran.code, receiptsOf(project)]).toEqual([code, []]);
    expect(ran.stderr).toContain(said);
  });
});

test.each(['SIGINT', 'SIGTERM'] as const)(
  '%s goes to the build and its children, and nothing half-written stays',
  async (signal) => {
    const script = `
    import { spawn } from 'node:child_process';
    import { appendFileSync } from 'node:fs';
    if (process.argv[2] !== 'inner') spawn(process.execPath, ['build.mjs', 'inner'], { stdio: 'inherit' });
    process.on('${signal}', () => { appendFileSync('signals', (process.argv[2] ?? 'outer') + ' '); setTimeout(() => process.exit(9), 100); });
    setTimeout(() => console.log('ready'), 300);
    setInterval(() => {}, 1000);`;
    const project = ferryProject({ 'build.mjs': script });
    const child = spawn(process.execPath, [program, ...build], {
      cwd: project.folder,
      env: bareEnvironment(),
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    let ready = 0;
    child.stdout.on('data', (chunk: Buffer) => {
      ready += chunk.toString().split('ready').length - 1;
      if (ready === 2) child.kill(signal);
    });
    const code = await new Promise((resolve) => child.on('close', resolve));
    expect(code).toBe(9);
    expect(project.read('signals').trim().split(' ').sort()).toEqual(['inner', 'outer']);
    expect(receiptsOf(project)).toEqual([]);
  },
);
