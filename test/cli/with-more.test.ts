import { spawn } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { reportSchema } from '../../src/core/report/documents.js';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, TestProject } from '../support/adder.js';

const hidden = Object.values(secrets);

/** A script that writes its environment to a file. */
const show =
  "require('node:fs').mkdirSync('dist', { recursive: true }); require('node:fs').writeFileSync('dist/env.json', JSON.stringify(process.env));";

const projectWith = (bundle: string, stage = '', files: Record<string, string> = {}) =>
  ferryProject({
    'adder.yaml': ferryContract
      .replace('prefix: VITE_ }', `prefix: VITE_${bundle} }`)
      .replace('layers: [.env, .env.production, process] }', `layers: [.env, .env.production, process]${stage} }`),
    'build.cjs': show,
    ...files,
  });

const seen = (at: TestProject) => JSON.parse(at.read('dist/env.json'));

describe('what the child gets', () => {
  test('NODE_ENV as the contract says, the stage under its own name, nothing of the parent that is not named', () => {
    const at = projectWith(', build: node build.cjs', ', build-as: production');
    expect(at.adder(['with', 'production'], { NODE_ENV: 'development', STRAY: '1', CI: '1' }).code).toBe(0);
    expect(seen(at)).toMatchObject({
      NODE_ENV: 'production',
      ADDER_STAGE: 'production',
      CI: '1',
      VITE_FERRY_API_URL: 'https://api.saltmarsh.example',
    });
    expect(seen(at)).not.toHaveProperty('STRAY');
  });

  test('--show-env lists names and reasons, and runs nothing', () => {
    const at = projectWith(', build: node build.cjs', ', build-as: production');
    const ran = at.adder(['with', 'production', '--show-env'], { STRAY: secrets.FARE_SIGNING_KEY });
    expect(ran.code).toBe(0);
    for (const line of [
      /^VITE_FERRY_API_URL {2,}public value from \.env\.production:1$/m,
      /^SOURCE_MAP_UPLOAD_TOKEN {2,}build value from \.env\.production:4$/m,
      /^ADDER_STAGE {2,}the stage, production$/m,
      /^NODE_ENV {2,}`build-as` of production, production$/m,
      /^PATH {2,}needed by most programs$/m,
      /^STRAY$/m,
      /^ENV FILES THAT THE TOOL LOADS ITSELF\n\.env\n\.env\.production\n$/m,
    ])
      expect(ran.stdout).toMatch(line);
    expect(ran.stdout).not.toContain('FARE_SIGNING_KEY');
    at.expectNone(hidden, ran, 'dist');
    const { report } = at.json(['with', 'production', '--show-env']);
    expect(() => reportSchema.parse(report)).not.toThrow();
    expect(report.given).toContainEqual({ name: 'ADDER_STAGE', because: 'the stage, production' });
  });

  test.each([
    [['with', 'production'], 'no build command'],
    [['with', 'production', '--all'], 'no bundle in the contract has a build command'],
    [['with', 'production', '--all', '--', 'x'], '--all builds every bundle with its own command'],
    [['with', 'production', '--parallel', '2'], '--parallel is for several bundles'],
    [['with', 'production', '--all', '--parallel', '0'], '--parallel cannot be "0"\n  → use a number from 1 to 64'],
    [['inspect', '--threads', 'many'], '--threads cannot be "many"\n  → use a number from 1 to 64'],
  ])('%j: %s', (args, said) => {
    expect(ferryProject().adder(args)).toMatchObject({ code: 2, stderr: expect.stringContaining(said) });
  });

  test('a build command with signs of a shell is refused with its place', () => {
    const { code, stdout } = projectWith(', build: "a && b"').adder(['with', 'production']);
    expect([code, stdout]).toEqual([2, expect.stringMatching(/adder\.yaml:7:\d+[\s\S]*as a list of words/)]);
  });
});

describe('what the configuration and the scripts of the build read', () => {
  const files = {
    'package.json': '{ "scripts": { "build": "./tools/build.sh --channel $CHANNEL" } }',
    'tools/build.sh': 'echo $RELEASE $OWN\nOWN=1\n',
    'vite.config.js': `import { loadEnv } from 'vite';
const env = loadEnv('', '.', '');
export default { base: env.GIT_SHA, mode: process.env.APP_ENV ?? 'development', stage: process.env.ADDER_STAGE || 'development' };
`,
  };
  const at = projectWith(', build: npm run build', '', files);
  const set = { CHANNEL: 'beta', RELEASE: '1', GIT_SHA: 'abc', APP_ENV: 'production', UNREAD: '1' };
  const said = (env: Record<string, string>, command: string[]) =>
    at
      .adder(['with', 'production', '--', ...command], env)
      .stderr.split('\n')
      .filter((line) => /reads|takes/.test(line))
      .map((line) => line.trim());

  test('names that are set here, and that the build does not get', () => {
    const found = said(set, ['npm', 'run', 'build', '--if-present']);
    for (const name of ['CHANNEL', 'RELEASE', 'GIT_SHA', 'APP_ENV'])
      expect(found.join('\n')).toMatch(new RegExp(`reads ${name}, which is set here`));
    expect(found.join('\n')).not.toMatch(/UNREAD|OWN/);
  });

  test('only of the command that runs', () => {
    expect(said(set, ['true']).filter((line) => /CHANNEL|RELEASE/.test(line))).toEqual([]);
  });

  test('the stage that the configuration would take instead', () => {
    expect(said({}, ['true'])).toEqual([
      'warning  `adder with` does not set APP_ENV, so this configuration takes development for production',
    ]);
    expect(at.adder(['with', 'development', '--', 'true']).stderr).not.toContain('takes');
  });
});

describe('a framework whose process serves pages and server part', () => {
  const project = () =>
    ferryProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [process] } }
bundles:
  desk: { toolchain: next, code: [app], output: [.next] }
  desk-server: { runs: server, toolchain: next, code: [app] }
  crew: { runs: server, toolchain: other, code: [crew] }
variables:
  API_URL: public
  FARE_SIGNING_KEY: { reach: server, bundles: [desk-server] }
  CREW_KEY: { reach: server, bundles: [crew] }
`,
      'node_modules/.bin/next': '',
      'next.cjs': show,
    });
  const env = {
    API_URL: 'https://a.example',
    FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY,
    CREW_KEY: 'made-up-crew-key-0001',
    PORT: '4000',
  };
  const start = (script: string, given: Record<string, string>) => {
    const at = project();
    at.write('package.json', JSON.stringify({ scripts: { [script]: 'node next.cjs' } }));
    const ran = at.adder(['with', 'production', '--', 'npm', 'run', script], given);
    return { ...ran, seen: ran.code === 0 ? seen(at) : {} };
  };

  test('a dev server gets the values of both, and the port', () => {
    expect(start('dev', env).seen).toMatchObject({
      NEXT_PUBLIC_API_URL: 'https://a.example',
      FARE_SIGNING_KEY: secrets.FARE_SIGNING_KEY,
      PORT: '4000',
    });
    expect(start('dev', env).seen).not.toHaveProperty('CREW_KEY');
  });

  test('a dev server does not start without a value of the server part', () => {
    const { FARE_SIGNING_KEY: _, ...without } = env;
    const { code, stdout } = start('dev', without);
    expect([code, stdout.includes('FARE_SIGNING_KEY has no value in production')]).toEqual([1, true]);
  });

  test('a build gets neither', () => {
    const found = start('build', env).seen;
    expect(found).toHaveProperty('NEXT_PUBLIC_API_URL');
    for (const name of ['FARE_SIGNING_KEY', 'PORT']) expect(found).not.toHaveProperty(name);
  });
});

describe('env files that the build loads itself', () => {
  const local = `VITE_FERRY_API_URL=http://localhost\nFARE_SIGNING_KEY=${'made-up-development-key-01'}\n`;
  const build = (config: string, command = ['true']) => {
    const at = projectWith('', '', { '.env.development': local, 'vite.config.js': config });
    const ran = at.adder(['with', 'production', '--', ...command]);
    const all = ran.stdout + ran.stderr;
    expect(all).not.toContain('made-up-development-key');
    return { code: ran.code, said: all.replace(/\s+/g, ' ') };
  };
  const load = (path: string) =>
    `const load = require('env-of-files');\nload.config({ path: '${path}' });\nmodule.exports = {};`;

  test('the secret of another stage stops the build', () => {
    const { code, said } = build(load('.env.development'));
    expect(code).toBe(1);
    expect(said).toContain(
      'error vite.config.js loads .env.development, the values of development, so the build of production gets FARE_SIGNING_KEY from it',
    );
  });

  test.each<[title: string, config: string, command: string[]]>([
    ['by its path', "require('env-of-files')(`${__dirname}/.env.development`)", ['true']],
    ['by the command', '', ['node', '--env-file=.env.development', '-e', '0']],
  ])('%s too', (_, config, command) => expect(build(config, command).said).toContain('loads .env.development'));

  test.each<[title: string, config: string]>([
    ['a file that is not there', load('.env.qa')],
    ['the file of the stage', load('.env.production')],
    [
      'a file that is loaded only under a condition',
      `if (process.env.CI) require('x').config({ path: '.env.development' })`,
    ],
    ['a file that is read as text', "require('fs').readFileSync('.env.development', 'utf8')"],
    ['a file that is copied', "require('fs').copyFileSync('.env.development', '.env.copy')"],
    ['a file whose existence is asked for', "require('fs').existsSync('.env.development')"],
    ['the stage of Adder', 'require("x").config({ path: `.env.${process.env.ADDER_STAGE}` })'],
  ])('%s is no concern', (_, config) => {
    const { code, said } = build(config);
    expect(code).toBe(0);
    expect(said).not.toContain('loads .env.development');
  });
});

test('--all builds every bundle, and ends with the first code that is not 0', () => {
  const at = projectWith(", build: node build.cjs }\n  crew: { output: [crew], build: [node, '-e', 'process.exit(4)']");
  const { code, stderr } = at.adder(['with', 'production', '--all']);
  expect(code).toBe(4);
  expect(stderr).toContain('1/2 ticket-desk  node build.cjs\n');
  expect(stderr).toContain('2/2 crew  node -e process.exit(4)\n');
  expect(stderr).toMatch(
    /✓ ticket-desk {2}built {5}\d\.\d s {2}1 file\n✗ crew {9}failed {4}\d\.\d s {2}exited with code 4\n/,
  );
  expect(stderr).toMatch(/adder: 1 bundle of 2 built; failed: crew\n$/);
});

test('--all --parallel builds beside one another, each line with the name of its bundle, masked', () => {
  const meet = (own: string, other: string) =>
    `const fs = require('node:fs'); fs.writeFileSync('${own}', ''); process.stdout.write('waits');
     const timer = setInterval(() => { if (!fs.existsSync('${other}')) return; clearInterval(timer);
       console.log(' for ${other}\\n${secrets.FARE_SIGNING_KEY}'); process.stderr.write('no end'); }, 10);`;
  const at = projectWith(', build: node one.cjs }\n  crew: { output: [crew], build: node two.cjs', '', {
    'one.cjs': meet('one', 'two'),
    'two.cjs': meet('two', 'one'),
  });
  const ran = at.adder(['with', 'production', '--all', '--parallel', '2']);
  expect(ran.stdout.split('\n').sort()).toEqual([
    '',
    'crew        │ [masked]',
    'crew        │ waits for one',
    'ticket-desk │ [masked]',
    'ticket-desk │ waits for two',
  ]);
  expect(ran.stderr).toContain('crew        │ no end\n');
  expect([ran.code, ran.stderr]).toEqual([0, expect.stringMatching(/adder: 2 bundles of 2 built\n$/)]);
});

test.each(['1', '2'])('--all --parallel %s, ended by Ctrl-C: what has not begun does not begin', async (count) => {
  const wait = "console.log('up'); setInterval(() => {}, 1000)";
  const at = projectWith(
    ', build: node wait.cjs }\n  crew: { output: [crew], build: node wait.cjs }\n  kiosk: { output: [kiosk], build: node wait.cjs',
    '',
    { 'wait.cjs': wait },
  );
  const child = spawn(process.execPath, [program, 'with', 'production', '--all', '--parallel', count], {
    cwd: at.folder,
    env: bareEnvironment(),
  });
  let [out, said] = ['', ''];
  let isStopped = false;
  child.stderr.on('data', (chunk) => (said += chunk));
  child.stdout.on('data', (chunk: Buffer) => {
    out += chunk.toString();
    if (isStopped || out.split('up').length - 1 < Number(count)) return;
    isStopped = true;
    child.kill('SIGINT');
  });
  const code = await new Promise((resolve) => child.on('close', resolve));
  expect([code, said.match(/ended by SIGINT$/gm)?.length, said.match(/waiting$/gm)?.length]).toEqual([
    130,
    Number(count),
    3 - Number(count),
  ]);
});

test('--inspect checks the output after the build', () => {
  const leak = `${show} require('node:fs').writeFileSync('dist/a.js', '${secrets.FARE_SIGNING_KEY}');`;
  const at = projectWith(', build: node build.cjs', '', {
    'build.cjs': leak.replace('JSON.stringify(process.env)', "'{}'"),
  });
  const ran = at.adder(['with', 'production', '--inspect']);
  expect([ran.code, ran.stdout]).toEqual([1, expect.stringContaining('leak/known-value')]);
  at.expectNone(hidden, ran);
});

test('--restart: restarts with new values, and keeps the old run if they are wrong', async () => {
  const at = projectWith('', '', {
    'serve.cjs':
      "console.log('up with', process.env.VITE_FERRY_API_URL); require('node:child_process').spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)']); setInterval(() => {}, 1000);",
  });
  const child = spawn(process.execPath, [program, 'with', 'production', '--restart', '--', 'node', 'serve.cjs'], {
    cwd: at.folder,
    env: bareEnvironment(),
  });
  let all = '';
  const until = (text: string) =>
    new Promise<void>((resolve, reject) => {
      const late = setTimeout(() => reject(new Error(`not said: ${text}; but: ${all}`)), 15_000);
      const look = () => {
        if (!all.includes(text)) return;
        clearTimeout(late);
        resolve();
      };
      for (const stream of [child.stdout, child.stderr]) stream.on('data', look);
      look();
    });
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (all += chunk));
  await until('up with https://api.saltmarsh.example');
  const values = at.read('.env.production');
  // Watching starts with the run; its first look at the files takes a moment.
  await new Promise((resolve) => setTimeout(resolve, 500));
  at.write('.env.production', values.replace('https://api', 'api'));
  await until('keeping the old values');
  at.write(
    '.env.production',
    values.replace('https://api', 'https://booking').replace(secrets.SOURCE_MAP_UPLOAD_TOKEN, 'made-up-new-token'),
  );
  await until('FERRY_API_URL changed from https://api.saltmarsh.example to https://booking.saltmarsh.example');
  await until('up with https://booking.saltmarsh.example');
  child.kill('SIGTERM');
  await new Promise((resolve) => child.once('close', resolve));
  expect(all).toContain('SOURCE_MAP_UPLOAD_TOKEN changed');
  for (const secret of [...hidden, 'made-up-new-token']) expect(all).not.toContain(secret);
}, 60_000);

test.each<[toolchain: string, line: string, said: RegExp, code?: number]>([
  ['vite', 'VITE_OLD=1', /warning {2}vite loads \.env\.local itself and would inline its VITE_OLD/],
  [
    'vite',
    `VITE_FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}`,
    /error +vite loads \.env\.local itself and would inline its VITE_FARE_SIGNING_KEY, a server-only[\s\S]*not built/,
    1,
  ],
  [
    'vite',
    'VITE_FERRY_API_URL=https://a.test',
    /with a different VITE_FERRY_API_URL than[\s\S]*value from adder\.yaml wins/,
  ],
  ['vite', 'VITE_NOTICE=hello', /because NOTICE has no\s+value in production/],
  ['vite', 'VITE_FERRY_API_URL=https://api.saltmarsh.example', /^adder: built \d+ files?/],
  ['vite', 'FARE_SIGNING_KEY=made-up', /^adder: built \d+ files?/],
  [
    'next',
    'FARE_SIGNING_KEY=made-up',
    /so the build gets FARE_SIGNING_KEY(?: and\s+LEDGER_DATABASE_URL)?,\s+which `adder with`/,
  ],
])('%s loads an env file itself, with %s', (toolchain, line, said, code = 0) => {
  const at = projectWith('', '', { '.env.local': `${line}\n` });
  const contract = at.read('adder.yaml').replace('toolchain: vite', `toolchain: ${toolchain}`);
  at.write('adder.yaml', `${contract}\n  NOTICE: { reach: public, required: false }\n`);
  const ran = at.adder(['with', 'production', '--', 'node', 'build.cjs']);
  expect([ran.code, ran.stdout + ran.stderr]).toEqual([code, expect.stringMatching(said)]);
  expect(ran.stdout + ran.stderr).not.toContain(secrets.FARE_SIGNING_KEY);
});

test('a site below the package has its own env files', () => {
  const project = new TestProject({
    'package.json': '{ "name": "guide" }',
    'docs/.vitepress/config.mjs': "export default { title: 'Ferries' };\n",
    'docs/index.md': '# Ferries\n',
    'docs/.env': 'VITE_FERRY_API_URL=https://a.example\n',
    '.env': 'VITE_FERRY_API_URL=https://b.example\n',
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { guide: { toolchain: vitepress, code: [docs], output: [docs/.vitepress/dist] } }
variables: { VITE_FERRY_API_URL: public }
`,
  });
  expect(project.json(['with', 'production', '--show-env']).report.readByTool).toEqual(['docs/.env']);
});
