import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { afterEach, describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { MadeUpSite } from '../support/site.js';

const login = 'made-up-login-of-the-preview-0001';
const environment = { SITE_LOGIN: login };

const page = '<!doctype html><script type="module" src="/main.js"></script>';
const files = { '/': page, '/main.js': 'fetch("https://api.saltmarsh.example");\n' };

const sites: MadeUpSite[] = [];
afterEach(async () => {
  for (const site of sites.splice(0)) await site.stop();
});

async function started(...args: Parameters<typeof MadeUpSite.start>): Promise<MadeUpSite> {
  const site = await MadeUpSite.start(...args);
  sites.push(site);
  return site;
}

/** Starts a site that requires the login. */
async function closed(refusal = { status: 401, headers: {} as Record<string, string> }): Promise<MadeUpSite> {
  const site = await started(files);
  site.guard = ({ headers, url }) => {
    const isIn = headers.authorization === `Basic ${login}` || headers.cookie === `session=${login}`;
    return isIn || (url === refusal.headers.location && refusal.status !== 401) ? undefined : refusal;
  };
  return site;
}

function shop(served = ''): TestProject {
  return new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist]${served} } }
variables: { FERRY_API_URL: public }
`,
    '.env.production': 'FERRY_API_URL=https://api.saltmarsh.example\n',
  });
}

async function probed(project: TestProject, args: readonly string[], env: Record<string, string> = environment) {
  const ran = await project.adderBeside(['probe', ...args, '--stage', 'production', '--format', 'json'], env);
  const report = ran.stdout === '' ? undefined : JSON.parse(ran.stdout);
  expect(ran.stdout + ran.stderr).not.toContain(login);
  return { ...ran, report, unread: (report?.coverage.unread ?? []) as { path: string; because: string }[] };
}

describe('a site behind a login', () => {
  test.each<[string, string[]]>([
    ['a header', ['--site-header', 'Authorization: Basic {SITE_LOGIN}']],
    ['a cookie', ['--cookie', 'session={SITE_LOGIN}']],
  ])('is read with %s', async (_, access) => {
    const site = await closed();
    const { unread, report } = await probed(shop(), [`${site.url}/`, ...access]);
    expect(unread).toEqual([]);
    expect(report.answers.nothingLeaked.answer).toBe('yes');
    expect(site.requests.map(({ url }) => url)).toContain('/main.js');
  });

  test('is read with what the contract says, by the gate too', async () => {
    const site = await closed();
    const served = `, served: { production: { url: "${site.url}/", headers: { Authorization: "Basic {SITE_LOGIN}" } } }`;
    const { unread } = await probed(shop(served), []);
    expect(unread).toEqual([]);
    const gate = ['gate', 'production', '--probe', '--format', 'json'];
    const { stdout } = await shop(served).adderBeside(gate, environment);
    expect(stdout).not.toContain(login);
    const parts = JSON.parse(stdout).checked as { part: string; state: string }[];
    expect(parts.find(({ part }) => part === 'served sites')?.state).toBe('checked');
  });

  test.each<[string, { status: number; headers: Record<string, string> }, RegExp]>([
    [
      'refuses',
      { status: 401, headers: {} },
      /denies access \(status 401\); if it asks for a login, pass --site-header/,
    ],
    ['sends to a login', { status: 302, headers: { location: '/login' } }, /redirects to \S+\/login; if it asks/],
  ])('%s: nothing is known of it', async (_, refusal, because) => {
    const site = await closed(refusal);
    site.files['/login'] = { body: page, headers: { 'content-type': 'text/html' } };
    const { code, unread, report } = await probed(shop(), [`${site.url}/`]);
    expect([code, report.answers.nothingLeaked.answer]).toEqual([3, 'not known']);
    expect(unread.map((one) => one.because)).toContainEqual(expect.stringMatching(because));
  });
});

test('what lets in goes to the site alone, and not to other hosts or after a redirect', async () => {
  const [site, other] = [await closed(), await started(files)];
  const script = { '/': page.replace('/main.js', `${other.url}/main.js`) };
  site.files = { ...files, ...script, '/icon.svg': { status: 302, headers: { location: `${other.url}/icon.svg` } } };
  site.files['/'] = `${site.files['/']}<link rel="icon" href="/icon.svg">`;
  await probed(shop(), [`${site.url}/`, '--site-header', 'Authorization: Basic {SITE_LOGIN}']);
  expect(other.requests.length).toBeGreaterThan(1);
  expect(other.requests.flatMap(({ headers }) => headers.authorization ?? [])).toEqual([]);
  expect(site.requests.every(({ headers }) => headers.authorization === `Basic ${login}`)).toBe(true);
});

test.each<[string, string[], RegExp]>([
  [
    'a secret in the command line',
    ['--site-header', `Authorization: Basic ${login}`],
    /names no variable.*\n.*SITE_LOGIN/,
  ],
  ['a cookie in the command line', ['--cookie', `session=${login}`], /the header Cookie names no variable/],
  ['a variable without a value', ['--cookie', 'session={NO_SUCH}'], /NO_SUCH has no value/],
  ['no header', ['--site-header', 'Authorization'], /--site-header is not of the form "Name: value"/],
  ['no cookie', ['--cookie', 'session'], /--cookie is not of the form NAME=VALUE/],
  ['no address', ['--resolve', 'shop.saltmarsh.example'], /--resolve is not of the form HOST:ADDRESS/],
  [
    'a wrong address',
    ['--resolve', 'shop.saltmarsh.example:1.2.3'],
    /1\.2\.3 of shop\.saltmarsh\.example is not an IP/,
  ],
  ['no file', ['--ca', 'none.pem'], /none\.pem/],
  ['a file without certificates', ['--ca', 'adder.yaml'], /adder\.yaml has no certificate/],
])('%s is an error', async (_, args, said) => {
  const { code, stderr } = await probed(shop(), ['https://shop.saltmarsh.example/', ...args]);
  expect([code, stderr]).toEqual([2, expect.stringMatching(said)]);
});

test('a harmless header needs no variable', async () => {
  const site = await started(files);
  await probed(shop(), [`${site.url}/`, '--site-header', 'X-Preview: yes']);
  expect(site.requests[0]?.headers['x-preview']).toBe('yes');
});

test('a secret in the contract is an error at its place', async () => {
  const served = `, served: { production: { url: "https://shop.saltmarsh.example/", headers: { Authorization: "Basic ${login}" } } }`;
  const { stdout } = shop(served).adder(['lint', '--format', 'json']);
  expect(stdout).not.toContain(login);
  expect(JSON.parse(stdout).findings).toEqual([
    expect.objectContaining({ code: 'contract/unreadable', variant: 'secret-header', level: 'error' }),
  ]);
});

test('a host is asked at the address of --resolve, with the certificates of --ca', async () => {
  const project = shop();
  const [key, cert] = [project.path('key.pem'), project.path('cert.pem')];
  const subject = ['-subj', '/CN=shop.saltmarsh.example', '-addext', 'subjectAltName=DNS:shop.saltmarsh.example'];
  const made = [
    'req',
    '-x509',
    '-newkey',
    'rsa:2048',
    '-nodes',
    '-days',
    '2',
    '-keyout',
    key,
    '-out',
    cert,
    ...subject,
  ];
  execFileSync('openssl', made, { stdio: 'ignore' });
  const site = await started(files, { key: readFileSync(key, 'utf8'), cert: readFileSync(cert, 'utf8') });
  const url = `https://shop.saltmarsh.example:${new URL(site.url).port}/`;
  const resolve = ['--resolve', 'shop.saltmarsh.example:127.0.0.1'];
  const { unread } = await probed(project, [url, ...resolve, '--ca', 'cert.pem']);
  expect(unread).toEqual([]);
  expect(site.requests.length).toBeGreaterThan(1);
  const { code, stderr } = await probed(project, [url, ...resolve]);
  expect([code, stderr]).toEqual([2, expect.stringContaining('has a certificate that cannot be trusted')]);
});
