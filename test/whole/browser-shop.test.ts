import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { encodings } from '../../src/core/needles/index.js';
import { layOut } from '../../src/demo/layout.js';
import { TestProject } from '../support/adder.js';
import { browserPath, launch, serve } from '../support/browser.js';

/** The shop in a real browser: what a passenger's browser gets is what the contract calls public, and nothing else. */
describe.skipIf(!browserPath)('the web shop, built for staging, in a browser', () => {
  const project = new TestProject();
  let server: Awaited<ReturnType<typeof serve>>;
  beforeAll(async () => {
    layOut(join(import.meta.dirname, '../../src/demo/ferries'), project.folder);
    project.withPackages();
    project.write('web/src/checkout.ts', project.read('checkout.fixed.ts'));
    const ran = project.adder(['with', 'staging', '--', 'npm', 'run', 'build']);
    expect(ran.code, ran.stdout + ran.stderr).toBe(0);
    server = await serve(project.path('web/dist'));
  });
  afterAll(() => server?.close());

  test('public values are at work, and no other value is in any response', async () => {
    const browser = await launch();
    try {
      const page = await browser.newPage();
      const asked: string[] = [];
      const bodies: Promise<string>[] = [];
      await page.route('**/*', (route) => {
        const url = route.request().url();
        asked.push(url);
        return url.includes('127.0.0.1')
          ? route.continue()
          : route.fulfill({
              status: 200,
              contentType: 'application/json',
              body: '{"ticket":"SF-1"}',
              headers: { 'access-control-allow-origin': '*' },
            });
      });
      page.on('response', (response) => bodies.push(response.text().catch(() => '')));
      await page.goto(server.url);
      expect(await page.getByRole('heading', { level: 2 }).textContent()).toBe('Summer timetable');
      expect(await page.getByLabel('Passengers').getAttribute('max')).toBe('48');
      expect(await page.locator('img').getAttribute('src')).toContain('made-up-tiles-key-for-staging');
      const booked = page.waitForRequest(/bookings/);
      await page.getByRole('button', { name: 'Book' }).click();
      expect((await booked).url()).toBe('https://api.staging.saltmarsh.test/bookings');
      const received = (await Promise.all(bodies)).join('\n');
      expect(received).toContain('https://api.staging.saltmarsh.test');
      const stagingKey = /FARE_SIGNING_KEY=(.*)/.exec(project.read('.env.staging'))?.[1] ?? expect.unreachable();
      const ledger = /LEDGER_DATABASE_URL=(.*)/.exec(project.read('.env'))?.[1] ?? expect.unreachable();
      for (const value of [stagingKey, ledger]) {
        for (const bytes of encodings.flatMap(({ encode }) => [...encode(value)]))
          expect(received).not.toContain(Buffer.from(bytes).toString());
      }
    } finally {
      await browser.close();
    }
  });
});

describe.skipIf(!browserPath)('one build promoted from stage to stage', () => {
  test('the page has the values of its stage, and only their file differs between stages', async () => {
    const project = new TestProject();
    layOut(join(import.meta.dirname, '../../src/demo/promote'), project.folder);
    project.withPackages();
    for (const args of [
      ['emit', 'module', '--save', 'web/src/values.ts'],
      ['with', 'staging', '--', 'npm', 'run', 'build'],
    ])
      expect(project.adder(args).code).toBe(0);
    const built = filesOf(project);
    const server = await serve(project.path('web/dist'));
    const browser = await launch();
    try {
      const page = await browser.newPage();
      const errors: string[] = [];
      page.on('pageerror', ({ message }) => errors.push(message));
      await page.goto(server.url);
      expect(errors).toEqual([expect.stringContaining('the values file of this page was not loaded before the app')]);
      for (const [stage, address, notes] of [
        ['staging', 'https://api.staging.saltmarsh.test/bookings', ['Sea trial: no ticket from here is valid']],
        ['production', 'https://api.saltmarsh.example/bookings', []],
      ] as const) {
        expect(project.adder(['emit', 'runtime', '--stage', stage, '--into', 'web/dist']).code).toBe(0);
        await page.goto(server.url);
        expect(await page.locator('form').getAttribute('action')).toBe(address);
        expect(await page.getByRole('note').allTextContents()).toEqual(notes);
        const now = filesOf(project);
        expect([...now.keys()].filter((name) => !built.has(name))).toEqual([expect.stringMatching(/^adder-values\./)]);
        expect([...built].filter(([name, text]) => now.get(name) !== text).map(([name]) => name)).toEqual([
          'index.html',
        ]);
      }
      expect(errors).toHaveLength(1);
    } finally {
      await browser.close();
      server.close();
    }
  });
});

function filesOf(project: TestProject): Map<string, string> {
  const names = readdirSync(project.path('web/dist'), { recursive: true, encoding: 'utf8' });
  const files = names.filter((name) => statSync(project.path('web/dist', name)).isFile());
  return new Map(files.map((name) => [name, project.read(`web/dist/${name}`)]));
}
