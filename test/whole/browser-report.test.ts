import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Finding } from '../../src/core/findings/finding.js';
import { summarize } from '../../src/core/findings/judge.js';
import { type FindingsReport, reportSchema, type TrialReport } from '../../src/core/report/documents.js';
import { printHtml } from '../../src/core/report/html/html.js';
import { browserPath, launch } from '../support/browser.js';

const hostile = '</script><img src=x onerror=alert(1)><!--';

function findingOf(index: number): Finding {
  const isLeak = index % 4 === 0;
  return {
    code: isLeak ? 'leak/known-value' : 'leak/setting',
    variant: 'shipped',
    facts: { variable: `NAME_${index % 50}`, reach: isLeak ? 'server' : 'build' },
    level: isLeak ? 'error' : 'note',
    variable: `NAME_${index % 50}`,
    reach: isLeak ? 'server' : 'build',
    stage: 'production',
    place: { path: `dist/part-${index % 30}.js`, inside: [], line: index + 1, column: 1, offset: index, length: 3 },
    message: index === 7 ? `contains ${hostile}` : `contains text ${index}`,
    remedy: 'run `adder with production`',
    excerpt: { line: index + 1, text: `a("${hostile}")`, column: 4, length: 5 },
    fingerprint: index.toString(16).padStart(32, '0'),
  };
}

function reportOf(count: number): FindingsReport {
  const findings = Array.from({ length: count }, (_, index) => findingOf(index));
  const accepted = [{ ...findingOf(1), because: 'until the move', until: '2027-01-31' }];
  return {
    report: 1,
    kind: 'findings',
    command: 'inspect',
    stage: 'production',
    coverage: {
      files: 30,
      members: 2,
      bytes: 4_000_000,
      unread: [{ path: 'dist/part-1.js', inside: [hostile], because: 'is encrypted' }],
      notSearched: [{ variable: 'LEDGER', stage: 'production', because: 'no value here' }],
    },
    answers: {
      nothingLeaked: { answer: 'no' },
      allThere: { answer: 'yes' },
      current: { answer: 'not known', because: [{ because: 'there is no receipt', remedy: 'build with Adder' }] },
    },
    contents: {
      variables: [
        { name: 'FERRY_API_URL', reach: 'public' },
        { name: 'PIER', reach: 'public' },
        { name: 'LEDGER', reach: 'server' },
      ],
      files: [{ path: `dist/${hostile}.js`, bytes: 1_200_000, members: 2, for: 'browser' }],
      values: [{ variable: 'FERRY_API_URL', path: 'dist/part-0.js', inside: [], places: 2 }],
    },
    findings,
    summary: { ...summarize(findings), accepted: 1 },
    accepted,
  };
}

describe.skipIf(!browserPath)('the HTML report in a browser', () => {
  const folder = mkdtempSync(join(tmpdir(), 'adder-report-'));
  let browser: Browser;
  const problems: string[] = [];

  beforeAll(async () => {
    browser = await launch();
  });
  afterAll(async () => {
    await browser.close();
    rmSync(folder, { recursive: true });
  });

  async function opened(report: FindingsReport | TrialReport): Promise<Page> {
    const path = join(folder, `${report.findings.length}.html`);
    writeFileSync(path, printHtml(reportSchema.parse(report)));
    const page = await browser.newPage();
    problems.length = 0;
    page.on('console', (one) => problems.push(one.text()));
    page.on('pageerror', (one) => problems.push(one.message));
    page.on('dialog', (one) => problems.push(one.message()));
    page.on('request', (one) => one.url().startsWith('file:') || problems.push(one.url()));
    await page.goto(`file://${path}`);
    return page;
  }

  const shown = (page: Page) => page.locator('#shown').textContent();

  test('20,000 findings are filtered by level, code, variable, file and text', async () => {
    const page = await opened(reportOf(20_000));
    expect(await shown(page)).toBe('20,000 of 20,000 shown');
    expect(await page.locator('#findings article').count()).toBe(50);
    await page.getByRole('button', { name: '15,000 notes' }).click();
    expect(await shown(page)).toBe('5,000 of 20,000 shown');
    await page.getByLabel('variable', { exact: true }).selectOption('NAME_4');
    expect(await shown(page)).toBe('200 of 20,000 shown');
    await page.getByLabel('text').fill('text 10404');
    await expect.poll(() => shown(page)).toBe('1 of 20,000 shown');
    expect(await page.locator('#findings article .message').allTextContents()).toEqual(['contains text 10404']);
    await page.getByRole('button', { name: 'Show all' }).click();
    expect(await shown(page)).toBe('20,000 of 20,000 shown');
    await page.getByLabel('code', { exact: true }).selectOption('leak/setting');
    expect(await shown(page)).toBe('15,000 of 20,000 shown');
    await page.getByRole('button', { name: /^Show 50 more \(\d+ findings left\)$/ }).click();
    expect(await page.locator('#findings article').count()).toBe(100);
    expect(problems).toEqual([]);
    await page.close();
  });

  test('findings are grouped by cause and variable, with links from the top', async () => {
    const page = await opened(reportOf(6000));
    const links = page.locator('.overview a');
    expect(await links.first().textContent()).toBe('1 item could not be checked');
    await page
      .getByRole('button', { name: /^Show 8 more/ })
      .first()
      .click();
    await page.getByRole('link', { name: 'NAME_48 in 3 files (60 findings)' }).click();
    const group = page.locator('details.group[open]').last();
    expect(await group.locator('> summary').textContent()).toBe('NAME_48server60 findings in 3 files');
    expect(await group.locator('article').count()).toBe(50);
    expect(await page.evaluate(() => document.activeElement?.textContent)).toContain('NAME_48');
    expect(problems).toEqual([]);
    await page.close();
  });

  test('a tree chooses a file or a directory, and the URL has the filter', async () => {
    const page = await opened(reportOf(40));
    await page.locator('summary[aria-label=file]').click();
    await page.getByRole('button', { name: 'dist/part-3.js: 2 findings' }).click();
    expect(await shown(page)).toBe('2 of 40 shown');
    await page.getByRole('button', { name: '30 notes' }).click();
    const url = page.url();
    expect(url).toMatch(/#file=dist%2Fpart-3\.js&levels=error%2Cwarning$/);
    const other = await browser.newPage();
    await other.goto(url);
    expect([await shown(other), await other.locator('#filter-file').textContent()]).toEqual([
      '0 of 40 shown',
      'dist/part-3.js',
    ]);
    await other.getByRole('button', { name: 'Show all' }).click();
    expect([await shown(other), other.url().replace(/.*#/, '#')]).toEqual(['40 of 40 shown', '#findings']);
    await page.locator('summary[aria-label=file]').click();
    await page.getByRole('button', { name: 'dist: 40 findings' }).click();
    expect(problems).toEqual([]);
    await Promise.all([page.close(), other.close()]);
  });

  test('on paper everything is open, and the matrix is split into tables that fit', async () => {
    const page = await opened(reportOf(400));
    await page.emulateMedia({ media: 'print' });
    await page.setViewportSize({ width: 680, height: 1000 });
    await page.evaluate(() => dispatchEvent(new Event('beforeprint')));
    const visible = await page.evaluate(() => ({
      folded: document.querySelectorAll('main details:not([open]):not(.menu)').length,
      listed: document.querySelectorAll('#findings article, #findings .brief').length,
      columns: Math.max(...[...document.querySelectorAll('.paper thead tr')].map((one) => one.children.length)),
      tables: document.querySelectorAll('.paper table').length,
      isWide: document.documentElement.scrollWidth > innerWidth,
    }));
    expect(visible).toEqual({ folded: 0, listed: 400, columns: 5, tables: 8, isWide: false });
    await page.evaluate(() => dispatchEvent(new Event('afterprint')));
    expect(await page.locator('.paper table').count()).toBe(0);
    await page.close();
  });

  test('text from artifacts stays text', async () => {
    const page = await opened(reportOf(40));
    expect(await page.locator('img').count()).toBe(0);
    await page.getByLabel('text').fill('contains </script>');
    await expect.poll(() => shown(page)).toBe('1 of 40 shown');
    expect(await page.locator('#findings article .message').first().textContent()).toBe(`contains ${hostile}`);
    expect(await page.locator('#findings article mark').first().textContent()).toBe('</scr');
    expect(await page.locator('#files code').first().textContent()).toBe(`dist/${hostile}.js`);
    const policy = await page.locator('meta[http-equiv]').getAttribute('content');
    expect(policy).toMatch(/^default-src 'none'; script-src 'sha256-[^']+'; style-src 'sha256-[^']+'; base-uri 'none'/);
    const blocked = page.evaluate(() => {
      const script = document.createElement('script');
      script.textContent = 'document.title = "changed"';
      document.body.append(script);
      return document.title;
    });
    expect(await blocked).toBe('adder inspect production');
    await page.close();
  });

  test('a cell of the matrix opens its findings, by the keyboard too', async () => {
    const page = await opened(reportOf(40));
    await page.keyboard.press('Tab');
    expect(await page.evaluate(() => document.activeElement?.textContent)).toBe('Skip to the findings');
    const cell = page.getByRole('button', { name: 'NAME_8 in dist/part-8.js: 1 finding' });
    await cell.focus();
    await page.keyboard.press('Enter');
    expect(await shown(page)).toBe('1 of 40 shown');
    expect(await page.evaluate(() => document.activeElement?.id)).toBe('findings-title');
    expect(await page.getByRole('img', { name: 'FERRY_API_URL in dist/part-0.js: its value, 2 places' }).count()).toBe(
      1,
    );
    expect(await page.locator('#matrix .help').allTextContents()).toEqual([
      'Found in no file: PIER',
      'Not searched for: LEDGER',
    ]);
    const group = page.locator('.cause > summary').first();
    await group.focus();
    await page.keyboard.press('Space');
    expect(await page.locator('.cause').first().getAttribute('open')).toBeNull();
    const unnamed = await page.evaluate(() =>
      [...document.querySelectorAll('button, select, input, a')]
        .filter((one) => {
          const own = one.id === '' ? null : document.querySelector(`label[for="${one.id}"]`);
          const label = own?.textContent ?? one.getAttribute('aria-label') ?? one.textContent;
          return !label?.trim();
        })
        .map((one) => one.outerHTML),
    );
    expect(unnamed).toEqual([]);
    expect(problems).toEqual([]);
    await page.close();
  });

  test.each(['light', 'dark'] as const)('text has enough contrast in the %s theme', async (colorScheme) => {
    const page = await opened(reportOf(40));
    await page.emulateMedia({ colorScheme });
    const low = await page.evaluate(() => {
      const numbers = (color: string) => (color.match(/[\d.]+/g) ?? []).map(Number);
      const light = (color: string) => {
        const [r = 0, g = 0, b = 0] = numbers(color).map((one) => {
          const part = one / 255;
          return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
        });
        return 0.2126 * r + 0.7152 * g + 0.0722 * b;
      };
      const behind = (element: Element): string => {
        for (let at: Element | null = element; at; at = at.parentElement) {
          const { backgroundColor } = getComputedStyle(at);
          if ((numbers(backgroundColor)[3] ?? 1) > 0) return backgroundColor;
        }
        return 'rgb(255, 255, 255)';
      };
      return [...document.querySelectorAll('main *, header *')].flatMap((one) => {
        const hasText = [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent?.trim());
        if (!hasText || one.getClientRects().length === 0) return [];
        const [a, b] = [light(getComputedStyle(one).color), light(behind(one))].sort((x, y) => y - x);
        const ratio = ((a ?? 0) + 0.05) / ((b ?? 0) + 0.05);
        return ratio < 4.5 ? [`${one.tagName}.${one.className} ${ratio.toFixed(1)}`] : [];
      });
    });
    expect(low).toEqual([]);
    await page.close();
  });

  test('an empty report, and one of another command', async () => {
    const page = await opened({ ...reportOf(0), command: 'lint' });
    expect(await page.locator('#findings').textContent()).toContain('No findings.');
    expect(await page.title()).toBe('adder lint production');
    expect(problems).toEqual([]);
    await page.close();
  });

  test('a trial: names and files, the way of each value, and a made-up name that is markup', async () => {
    const arrival = { path: 'dist/a.js', from: '.env:3', encoding: ['base64'], audience: 'browser' as const };
    const row = { setIn: ['.env:3'], readBy: ['src/a.js:1'], isUnmarked: false };
    const { made, findings, summary } = reportOf(0);
    const page = await opened({
      ...{ report: 1, kind: 'trial', command: 'trial', stage: 'production', bundle: 'desk', isReused: false },
      ...{ builtAt: '2026-12-01T10:00:00.000Z', asked: [], findings, summary, ...(made && { made }) },
      coverage: { files: 1, members: 0, bytes: 10, unread: [] },
      rows: [
        { ...row, name: 'FARE_KEY', reach: 'server', arrivesIn: [{ ...arrival, source: 'src/<b>a.js:2' }] },
        { ...row, name: 'PIER', reach: 'public', arrivesIn: [{ ...arrival, encoding: ['plain'] }] },
        { ...row, name: 'SEATS', reach: 'public', isUnmarked: true, arrivesIn: [] },
      ],
    });
    expect(await page.getByLabel('FARE_KEY in dist/a.js, from .env:3').textContent()).toBe('✕');
    expect(await page.getByLabel('PIER in dist/a.js, from .env:3').textContent()).toBe('●');
    expect(await page.locator('.ways li').allTextContents()).toEqual([
      'FARE_KEY .env:3 → src/<b>a.js:2 → dist/a.js (as base64)',
      'PIER .env:3 → dist/a.js',
    ]);
    expect(await page.locator('#trial').textContent()).toContain('?');
    expect(problems).toEqual([]);
    await page.close();
  });
});
