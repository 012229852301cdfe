import { afterEach, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { browserPath } from '../support/browser.js';
import { MadeUpSite } from '../support/site.js';

const contract = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { ticket-desk: { toolchain: other, code: src, output: dist } }
variables:
  QUAY_NAME: public
  FERRY_API_URL: public
  FARE_SIGNING_KEY: server
`;
const login = 'made-up-login-of-the-preview-0001';
const key = 'made-up-signing-key-for-fares-0001';

const shop = () =>
  new TestProject({
    'adder.yaml': contract,
    '.env': `QUAY_NAME="North Quay & Pier"\nFERRY_API_URL=https://api.saltmarsh.example\nFARE_SIGNING_KEY=${key}\n`,
  }).withPackages();

let site: MadeUpSite;
afterEach(() => site.stop());

const page = `<!doctype html><html><body><h1>North Quay &amp; Pier</h1><a href="https://api.saltmarsh.example/fares">fares</a>
<script src="/app.js"></script></body></html>`;

test.skipIf(!browserPath).each([
  ['an open site', []],
  ['a site behind a login', ['--cookie', 'session={PREVIEW_LOGIN}']],
])(
  'values that the server rendered and the app lost, with the error of the console: %s',
  async (_, access) => {
    const project = shop();
    site = await MadeUpSite.start({
      '/': page,
      // This is what a component that reads `process.env` does: the heading is rendered again, and an error follows. It also asks another host.
      '/app.js': `const env = {}; document.querySelector('h1').textContent = env.QUAY_NAME ?? '';
fetch('http://localhost:1/elsewhere').catch(() => {}); env.QUAY_NAME.trim(); // ${'x'.repeat(10)}`,
    });
    if (access.length > 0)
      site.guard = ({ headers }) => (headers.cookie === `session=${login}` ? undefined : { status: 401 });
    const env = { CHROMIUM: browserPath as string, PREVIEW_LOGIN: login };
    const usual = ['probe', site.url, '--stage', 'production', '--browser', '--allow-incomplete', '--format', 'json'];
    const args = [...usual, ...access];
    const ran = await project.adderBeside(args, env);
    const { findings } = JSON.parse(ran.stdout || '{}');
    expect(
      findings?.map(({ code, variable }: Record<string, string>) => [code, variable]),
      ran.stderr,
    ).toEqual([['serve/lost-in-browser', 'QUAY_NAME']]);
    expect(findings[0].message).toMatch(/disappears after hydration; the browser's console: .*undefined/);
    project.expectNone([key, login], ran);
    site.files['/app.js'] = 'void 0';
    const fixed = await project.adderBeside(args, env);
    expect(JSON.parse(fixed.stdout).findings).toEqual([]);
  },
  60_000,
);

test.skipIf(!browserPath)(
  'answers to requests of the code are recorded and searched',
  async () => {
    const project = shop();
    site = await MadeUpSite.start({
      '/': page,
      '/app.js': "document.title = 'https://api.saltmarsh.example'; fetch('/api/session?id=1');",
      '/api/session': { body: `{"key":"${key}"}`, headers: { 'content-type': 'application/json' } },
    });
    const env = { CHROMIUM: browserPath as string };
    const args = ['probe', site.url, '--stage', 'production', '--format', 'json'];
    const without = JSON.parse((await project.adderBeside(args, env)).stdout);
    expect([without.findings, without.answers.nothingLeaked.answer]).toEqual([[], 'not known']);
    const ran = await project.adderBeside([...args, '--browser'], env);
    const { findings, answers } = JSON.parse(ran.stdout);
    expect(findings.map(({ code, place }: { code: string; place: { path: string } }) => [code, place.path])).toEqual([
      ['serve/secret-in-answer', `${site.url}/api/session`],
    ]);
    expect(answers.nothingLeaked.answer).toBe('no');
    project.expectNone([key], ran);
  },
  60_000,
);

test('without the package or Chromium, it says what to install', async () => {
  site = await MadeUpSite.start({ '/': page });
  const project = new TestProject({ 'adder.yaml': contract, '.env': 'QUAY_NAME=x\nFERRY_API_URL=y\n' });
  const { code, stderr } = await project.adderBeside(['probe', site.url, '--stage', 'production', '--browser'], {
    PATH: '/nowhere',
  });
  expect(code).toBe(2);
  expect(stderr).toMatch(/--browser needs (Chromium|the package playwright-core)/);
});
