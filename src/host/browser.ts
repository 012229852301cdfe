import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { delimiter, join } from 'node:path';
import type * as playwright from 'playwright-core';
import { Failure } from '../core/findings/failure.js';
import type { Answer, HttpClient } from './http.js';
import type { World } from './world.js';

/** A page after its app started. */
export interface Started {
  /** The result of the expression that was asked for. */
  text: string;
  /** Errors of the console and of scripts, first lines only. */
  errors: string[];
  /** Answers to requests of the page's code to one origin. */
  answers: Answer[];
}

/** Names of programs that are Chromium, as systems call them. */
const programs = ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable', 'chrome', 'msedge'];

/** Time for the page to load, and for the app to start after it, in milliseconds. */
const [LOAD_MS, START_MS] = [30_000, 1500];

/** How a page's requests are sent. */
export interface PageRequests {
  /** Tells whether a request may be sent; others are aborted. */
  isAllowed(url: string): boolean;
  /** Client that sends the requests instead of the browser, for a site that needs credentials or other connection settings. */
  client?: HttpClient | undefined;
  /** Origin whose answers to the page's code are recorded. */
  origin: string;
}

/** Maximum response size for a page, in bytes. */
const MOST_BYTES = 64 * 2 ** 20;

/**
 * Opens a page in Chromium without a window, and evaluates an expression after the app started.
 * @throws Failure if there is no Chromium, or the package that drives it is not installed
 */
export async function startedPage(
  url: string,
  expression: string,
  { isAllowed, client, origin }: PageRequests,
  { env, cwd }: Pick<World, 'env' | 'cwd'>,
): Promise<Started> {
  const { chromium } = driver(cwd);
  const browser = await chromium.launch({
    executablePath: program(env),
    // Chromium refuses its sandbox to the administrator, whom containers often run as.
    args: process.getuid?.() === 0 ? ['--no-sandbox'] : [],
  });
  try {
    const page = await (await browser.newContext()).newPage();
    const errors: string[] = [];
    page.on('pageerror', ({ message }) => errors.push(firstLine(message)));
    page.on('console', (message) => void (message.type() === 'error' && errors.push(firstLine(message.text()))));
    await page.route('**/*', (route) => {
      const asked = route.request().url();
      if (!isAllowed(asked)) return route.abort();
      return client && /^https?:/.test(asked) ? answered(route, client) : route.continue();
    });
    const answers: Promise<Answer | undefined>[] = [];
    page.on('response', (response) => {
      const isOfCode = ['fetch', 'xhr', 'eventsource'].includes(response.request().resourceType());
      if (isOfCode && new URL(response.url()).origin === origin) answers.push(recorded(response));
    });
    await page.goto(url, { waitUntil: 'load', timeout: LOAD_MS });
    await page.waitForTimeout(START_MS);
    const text = String(await page.evaluate(expression));
    return { text, errors, answers: (await Promise.all(answers)).flatMap((one) => one ?? []) };
  } finally {
    await browser.close();
  }
}

/** Time for the body of an answer, in milliseconds: a stream of events has no end. */
const BODY_MS = 2000;

/** An answer with its body; undefined if it has none, or does not end. */
async function recorded(response: playwright.Response): Promise<Answer | undefined> {
  const late = new Promise<undefined>((resolve) => void setTimeout(() => resolve(undefined), BODY_MS).unref());
  try {
    const body = await Promise.race([response.body(), late]);
    return body && { url: response.url(), status: response.status(), headers: response.headers(), body };
  } catch {
    return undefined;
  }
}

/** Answers a request through the client. Redirects are returned to the browser, which sends another request. */
async function answered(route: playwright.Route, client: HttpClient): Promise<void> {
  const asked = route.request();
  const sent = Object.entries(asked.headers()).filter(([name]) => !/^(host|connection|accept-encoding)$/.test(name));
  try {
    const { status, headers, body } = await client.send({
      url: asked.url(),
      method: asked.method(),
      headers: Object.fromEntries(sent),
      body: asked.postData() ?? undefined,
      mostBytes: MOST_BYTES,
    });
    // The client already decompressed the body.
    const kept = Object.entries(headers).filter(([name]) => !/^content-(encoding|length)$/.test(name));
    await route.fulfill({ status, headers: Object.fromEntries(kept), body: Buffer.from(body) });
  } catch {
    await route.abort();
  }
}

function driver(cwd: string): typeof playwright {
  for (const from of [join(cwd, 'index.js'), join(import.meta.dirname, 'index.js')]) {
    try {
      return createRequire(from)('playwright-core') as typeof playwright;
    } catch {
      // The package is not installed there.
    }
  }
  throw new Failure('--browser needs the package playwright-core', 'run: npm install --save-dev playwright-core');
}

function program({ CHROMIUM, PATH = '' }: World['env']): string {
  if (CHROMIUM) return CHROMIUM;
  const found = PATH.split(delimiter)
    .flatMap((directory) => programs.map((name) => join(directory, name)))
    .find((path) => existsSync(path));
  if (found) return found;
  throw new Failure('--browser needs Chromium, which is not installed', 'install it, or set CHROMIUM to its path');
}

const LONGEST = 200;

function firstLine(text: string): string {
  return (text.split('\n')[0] ?? '').slice(0, LONGEST);
}
