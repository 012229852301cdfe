import { spawn } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterEach, describe, expect, test } from 'vitest';
import { type Ran, repository, TestProject } from '../support/adder.js';
import { hasNginx, Nginx } from '../support/nginx.js';
import { envFile, SECRETS, shop } from '../support/shop.js';

const running: Nginx[] = [];
afterEach(async () => {
  for (const server of running.splice(0)) await server.stop();
});

/** Probes of one site in a row; `npm run soak` has 1,000. */
const SOAK = Number(process.env.ADDER_SOAK ?? 3);

const login = 'made-up-login-0001';

/** Creates a shop with two builds in the directories `old` and `new`. Their API URLs differ. */
function builtTwice(): { project: TestProject; values: Record<string, string> } {
  const project = shop();
  const keep = (name: string, url: string) => {
    project.write('.env.production', envFile({ FERRY_API_URL: url }));
    const { code, stderr } = project.adder(['with', 'production']);
    expect(code, stderr).toBe(0);
    cpSync(project.path('dist'), project.path(name), { recursive: true });
  };
  keep('old', 'https://old-api.saltmarsh.example');
  keep('new', 'https://api.saltmarsh.example');
  project.write('passwords', `preview:{PLAIN}${login}\n`);
  mkdirSync(project.path('.git'), { recursive: true });
  project.write('.git/HEAD', 'ref: refs/heads/main\n');
  project.write('.git/config', '[core]\n\trepositoryformatversion = 0\n');
  const [old, recent, passwords] = ['old', 'new', 'passwords'].map((name) => project.path(name));
  return {
    project,
    values: { old, new: recent, passwords, project: project.folder, secret: SECRETS.FARE_SIGNING_KEY } as Record<
      string,
      string
    >,
  };
}

interface Said {
  code: number | null;
  answers: string;
  found: string[];
  text: string;
  unread: string[];
}

async function probe(
  project: TestProject,
  url: string,
  args: readonly string[] = [],
  env: Record<string, string> = {},
) {
  const ran: Ran = await project.adderBeside(
    ['probe', `${url}/`, '--stage', 'production', '--format', 'json', ...args],
    env,
  );
  project.expectNone([...Object.values(SECRETS), login], ran);
  if (ran.stdout === '') throw new Error(ran.stderr);
  const report = JSON.parse(ran.stdout);
  const short = (text: string) => text.replaceAll(url, '');
  return {
    code: ran.code,
    answers: ['nothingLeaked', 'allThere', 'current'].map((one) => report.answers[one].answer).join(', '),
    found: report.findings.map(
      ({ code, level, place }: { code: string; level: string; place?: { path: string } }) =>
        `${level} ${code} ${short(place?.path ?? '').replace(/-[0-9a-f]{8}\./, '-*.')}`,
    ),
    text: report.findings
      .map(({ message, remedy }: { message: string; remedy: string }) => `${message} | ${remedy}`)
      .join('\n'),
    unread: report.coverage.unread.map(
      ({ path, because }: { path: string; because: string }) => `${short(path)} ${because}`,
    ),
  } satisfies Said;
}

/** Configuration, changes of the served directory, options, and what a probe must say. */
interface Case {
  conf: string;
  plant?: (project: TestProject) => void;
  args?: string[];
  env?: Record<string, string>;
  says: Partial<Said> | ((said: Said) => void);
}

const yes = 'yes, yes, yes';
const lazyOf = (project: TestProject, folder: string) =>
  readdirSync(project.path(folder, 'assets')).find((name) => name.startsWith('lazy')) as string;

const cases: Record<string, Case> = {
  'nothing is wrong': { conf: 'plain', says: { code: 0, answers: yes, found: [], unread: [] } },
  'a single-page app': { conf: 'single-page', says: { code: 0, answers: yes, found: [], unread: [] } },
  'a single-page app without a chunk': {
    conf: 'single-page',
    plant: (project) => rmSync(project.path('new/assets', lazyOf(project, 'new'))),
    says: { code: 1, found: ['error serve/wrong-type /assets/lazy-*.js'] },
  },
  'a missing chunk': {
    conf: 'plain',
    plant: (project) => rmSync(project.path('new/assets', lazyOf(project, 'new'))),
    says: { code: 1, found: ['error serve/missing-file /assets/main-*.js'] },
  },
  'the build before': {
    conf: 'old-build',
    says: ({ found, text, answers }) => {
      expect([found, answers]).toEqual([['error serve/out-of-date /'], 'yes, not asked, no']);
      expect(text).toMatch(/deploy the current build of ticket-desk; if it was deployed/);
    },
  },
  'the build before, as declared': {
    conf: 'old-build',
    args: ['--build', 'previous'],
    says: { found: [], answers: 'yes, yes, yes' },
  },
  'scripts of the build before': {
    conf: 'half-deployed',
    plant: (project) => {
      // A name without a digest, as some builds have it.
      const [old, recent] = ['old', 'new'].map(
        (name) => readdirSync(project.path(name, 'assets')).find((one) => one.startsWith('main')) as string,
      );
      writeFileSync(
        project.path('old/assets', recent as string),
        readFileSync(project.path('old/assets', old as string)),
      );
    },
    says: ({ found, answers }) => {
      expect(found.some((one: string) => one.includes('serve/mixed-builds'))).toBe(true);
      expect(answers.endsWith('no')).toBe(true);
    },
  },
  'lists of files': { conf: 'listing', says: { found: ['warning serve/env-file /assets/'], answers: 'no, yes, yes' } },
  'an env file': { conf: 'env-file', says: { found: ['error serve/env-file /.env.production'], code: 1 } },
  'a repository': {
    conf: 'repository',
    says: ({ found }) => expect(found).toContain('error serve/env-file /.git/HEAD'),
  },
  'a cache in browsers': { conf: 'long-cache', says: { found: ['warning serve/long-cache /'], answers: yes } },
  'old compressed files': {
    conf: 'stale-compressed',
    plant: (project) =>
      writeFileSync(project.path('new/index.html.gz'), gzipSync(readFileSync(project.path('old/index.html')))),
    says: ({ found, text }) => {
      expect(found.some((one) => one.includes('serve/mixed-builds /'))).toBe(true);
      expect(text).toMatch(/compress the files again after each build|empty the caches/);
    },
  },
  'wrong types': {
    conf: 'wrong-type',
    says: { found: ['error serve/wrong-type /assets/lazy-*.js', 'error serve/wrong-type /assets/main-*.js'] },
  },
  'a secret in a header': {
    conf: 'secret-header',
    says: ({ found, text }) => {
      expect(found[0]).toMatch(/^error serve\/secret-in-answer \//);
      expect(text).toMatch(/the header x-upstream-key contains the value of FARE_SIGNING_KEY/);
    },
  },
  'a secret in an error': {
    conf: 'error-page',
    says: ({ found }) => expect(found.some((one) => one.startsWith('error serve/secret-in-answer'))).toBe(true),
  },
  'a login that nobody gave': {
    conf: 'login',
    says: ({ code, answers, unread }) => {
      expect([code, answers]).toEqual([3, 'not known, not known, not known']);
      expect(unread[0]).toMatch(/status 401.*--site-header or --cookie/);
    },
  },
  'a login': {
    conf: 'login',
    args: ['--site-header', 'Authorization: Basic {SITE_LOGIN}'],
    env: { SITE_LOGIN: Buffer.from(`preview:${login}`).toString('base64') },
    says: { code: 0, answers: yes, found: [], unread: [] },
  },
  'a login page that nobody passed': {
    conf: 'login-page',
    says: ({ code, answers, unread }) => {
      expect([code, answers]).toEqual([3, 'not known, not known, not known']);
      expect(unread[0]).toMatch(/redirects to .*\/login/);
    },
  },
  'a login page': {
    conf: 'login-page',
    args: ['--cookie', 'session={SITE_SESSION}'],
    env: { SITE_SESSION: 'made-up-session-0001' },
    says: { code: 0, answers: yes, found: [], unread: [] },
  },
  'a rate limit, without haste': {
    conf: 'rate-limit',
    args: ['--rate', '15'],
    says: { code: 0, answers: yes, unread: [] },
  },
};

describe.skipIf(!hasNginx)('sites behind nginx', () => {
  test.each(Object.entries(cases))(
    '%s',
    async (_, { conf, plant, args = [], env = {}, says }) => {
      const { project, values } = builtTwice();
      plant?.(project);
      const server = await Nginx.start(conf, values);
      running.push(server);
      const said = await probe(project, server.url, args, env);
      if (typeof says === 'function') says(said);
      else expect(said).toMatchObject(says);
    },
    60_000,
  );

  test.each<[title: string, conf: string, args: string[], runs: number]>([
    ['without a limit', 'plain', [], SOAK],
    ['with a rate limit', 'rate-limit', ['--rate', '15'], Math.ceil(SOAK / 20)],
  ])(
    'soak: many probes %s say the same each time',
    async (_, conf, args, runs) => {
      const { project, values } = builtTwice();
      const server = await Nginx.start(conf, values);
      running.push(server);
      for (let run = 1; run <= runs; run++) {
        const { code, answers, found, unread } = await probe(project, server.url, args);
        expect({ run, code, answers, found, unread }).toEqual({ run, code: 0, answers: yes, found: [], unread: [] });
      }
    },
    SOAK * 10_000,
  );

  test('a rate limit that leaves something unanswered is never a yes', async () => {
    const { project, values } = builtTwice();
    const server = await Nginx.start('rate-limit', values);
    running.push(server);
    const { code, answers, unread } = await probe(project, server.url, ['--rate', '1000']);
    const isComplete = unread.length === 0;
    expect([code, answers.startsWith('yes')]).toEqual(isComplete ? [0, true] : [3, false]);
  }, 60_000);

  test('a cache in front of the site keeps the build before', async () => {
    const { project, values } = builtTwice();
    cpSync(project.path('old'), project.path('live'), { recursive: true });
    const upstream = await Nginx.start('bare', { ...values, new: project.path('live') });
    const front = await Nginx.start('shared-cache', { ...values, upstream: upstream.port });
    running.push(upstream, front);
    await probe(project, front.url);
    rmSync(project.path('live'), { recursive: true });
    cpSync(project.path('new'), project.path('live'), { recursive: true });
    const { found, text } = await probe(project, front.url);
    expect(found).toContain('error serve/out-of-date /');
    expect(text).toMatch(/empty the cache in front of the site, which answered \(x-cache-status: HIT\)/);
  }, 60_000);

  test('modules on a host of their own', async () => {
    const { project, values } = builtTwice();
    const assets = await Nginx.start('cors', values);
    const page = readFileSync(project.path('new/index.html'), 'utf8').replace('/assets/', `${assets.url}/assets/`);
    writeFileSync(project.path('new/index.html'), page);
    const site = await Nginx.start('plain', values);
    running.push(assets, site);
    const { found } = await probe(project, site.url);
    expect(found.filter((one: string) => one.includes('cross-origin')).length).toBeGreaterThan(0);
  }, 60_000);
});

describe("a framework's own server", () => {
  test('vite preview: lazy chunks, a request of the code, and a leak in the chunk', async () => {
    const project = new TestProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { desk: { toolchain: vite, code: src, output: dist, build: node ${join(repository, 'node_modules/vite/bin/vite.js')} build } }
variables: { FERRY_API_URL: public, FARE_SIGNING_KEY: server }
`,
      '.env.production': envFile(),
      'index.html': '<!doctype html><script type="module" src="/src/main.js"></script>',
      'src/main.js':
        'document.title = import.meta.env.VITE_FERRY_API_URL; fetch("/api/session"); import("./lazy.js").then((one) => one.start());',
      'src/lazy.js': `export const start = () => console.log("${SECRETS.FARE_SIGNING_KEY}");`,
    }).withPackages();
    const built = project.adder(['with', 'production']);
    expect(built.code, built.stderr).toBe(0);
    const vite = join(repository, 'node_modules/vite/bin/vite.js');
    const server = spawn(process.execPath, [vite, 'preview', '--port', '0', '--strictPort', '--host', '127.0.0.1'], {
      cwd: project.folder,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, NO_COLOR: '1' },
    });
    try {
      const url = await new Promise<string>((resolve) => {
        let text = '';
        server.stdout.on('data', (piece) => {
          text += piece;
          const [found] = /http:\/\/127\.0\.0\.1:\d+/.exec(text) ?? [];
          if (found) resolve(found);
        });
      });
      const { found, answers } = await probe(project, url);
      expect(found).toEqual([expect.stringMatching(/^error leak\/known-value \/assets\/lazy-/)]);
      expect(answers.split(', ')[0]).toBe('no');
    } finally {
      server.kill();
    }
  }, 60_000);
});
