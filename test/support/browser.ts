import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { extname, join } from 'node:path';
import { type Browser, chromium } from 'playwright-core';

/** The system's browser; without one the browser tests are skipped, aloud, and in CI they fail. */
export const browserPath = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'].find((path) =>
  existsSync(path),
);
if (!browserPath) {
  if (process.env.CI) throw new Error('no Chromium on this machine, and in CI the browser tests may not be skipped');
  console.warn('SKIPPED: the browser tests, as no Chromium was found (apt-get install chromium)');
}

const types: Record<string, string> = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.map': 'application/json',
};

/** Serves a directory on this machine alone. */
export async function serve(folder: string): Promise<{ url: string; close(): void }> {
  const server = createServer(async ({ url = '/' }, response) => {
    const { pathname } = new URL(url, 'http://x');
    const path = join(folder, pathname.endsWith('/') ? `${pathname}index.html` : pathname);
    const body = await readFile(path).catch(() => undefined);
    response.writeHead(body ? 200 : 404, { 'content-type': types[extname(path)] ?? 'text/plain' }).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, close: () => void server.close() };
}

/** The browser, with nothing of its own on the network. */
export function launch(): Promise<Browser> {
  return chromium.launch({
    executablePath: browserPath as string,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}
