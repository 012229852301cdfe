// Opens a built page in the system's Chromium, and says what its code prints.
import { existsSync, readFileSync, statSync } from 'node:fs';
import { createServer } from 'node:http';
import { extname, join } from 'node:path';
import { chromium } from 'playwright-core';

/** The system's Chromium, if there is one. */
export const executablePath = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'].find(
  (path) => existsSync(path),
);

const types = { '.html': 'text/html', '.js': 'text/javascript', '.mjs': 'text/javascript', '.css': 'text/css' };

/** Serves a directory with a fallback to its page, as hosts of single-page apps do. */
export async function serve(folder) {
  const server = createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url, 'http://localhost').pathname));
    const isFile = existsSync(path) && statSync(path).isFile();
    const file = isFile ? path : join(folder, 'index.html');
    response.writeHead(200, { 'content-type': types[extname(file)] ?? 'application/octet-stream' });
    response.end(readFileSync(file));
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  return server;
}

/**
 * @param folder the directory of a page
 * @param text what the page's code is to print or show
 * @returns what it printed and showed instead; undefined if the text came within ten seconds
 */
export async function missingFromPage(folder, text) {
  if (executablePath === undefined) throw new Error('no Chromium found: install it (apt-get install chromium)');
  const server = await serve(folder);
  const browser = await chromium.launch({ executablePath, args: ['--no-sandbox'] });
  try {
    const page = await browser.newPage();
    const printed = [];
    page.on('console', (message) => printed.push(message.text()));
    page.on('pageerror', (error) => printed.push(error.message));
    await page.goto(`http://127.0.0.1:${server.address().port}/`);
    for (let wait = 0; wait < 100; wait++) {
      const shown = `${printed.join('\n')}\n${await page.evaluate('document.body.innerText')}`;
      if (shown.includes(text)) return undefined;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    return printed.join('\n') || 'nothing';
  } finally {
    await browser.close();
    server.close();
  }
}
