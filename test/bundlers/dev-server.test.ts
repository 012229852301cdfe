import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createServer, type ViteDevServer } from 'vite';
import { afterEach, expect, test } from 'vitest';
import { ferryContract, ferryProject, secrets } from '../support/adder.js';

const plugin = pathToFileURL(join(import.meta.dirname, '../../dist/plugin/vite.js')).href;
let server: ViteDevServer | undefined;

afterEach(() => server?.close());

test('serves the values of its stage, nothing that is not public, and new ones after a change', async () => {
  const at = ferryProject({
    'adder.yaml': ferryContract.replace('required: false }', 'required: false, delivery: runtime }'),
    'index.html': '<head></head><script type="module" src="/src/main.js"></script>',
    'src/main.js':
      "import { NOTICE_BANNER, TIDE_CHART } from 'adder/values';\nimport './other.js';\nconsole.log(import.meta.env.VITE_FERRY_API_URL, TIDE_CHART, NOTICE_BANNER, import.meta.env);\n",
    'src/other.js': 'export const all = { ...import.meta.env };\n',
    '.env': 'TIDE_CHART=true\nNOTICE_BANNER=ahoy\n',
    '.env.local': `VITE_FARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n`,
  });
  const { default: adder } = await import(plugin);
  server = await createServer({
    root: at.folder,
    logLevel: 'silent',
    server: { port: 0, watch: { usePolling: true, interval: 50 } },
    plugins: [adder({ stage: 'production', contract: at.path('adder.yaml') })],
  });
  await server.listen();
  const [url = ''] = server.resolvedUrls?.local ?? [];
  const get = async (path: string) => (await fetch(new URL(path, url))).text();

  expect(await get('/src/main.js')).toContain('"https://api.saltmarsh.example"');
  expect(await get('/')).toContain('<script src="/adder-values.js"></script>');
  expect(await get('/adder-values.js')).toBe(
    'globalThis.adderValues = Object.freeze({\n  NOTICE_BANNER: "ahoy",\n});\n',
  );
  // Every module that the server has by then, those that it makes up among them, and the files that it must not give.
  const found = await crawl(get, [
    '/',
    '/adder-values.js',
    '/@vite/client',
    '/@vite/env',
    '/.env.local',
    '/.env.production',
  ]);
  expect([...found.keys()]).toEqual(expect.arrayContaining(['/src/main.js', '/src/other.js']));
  expect([...found.values()].join('\n')).toContain('TIDE_CHART = true');
  for (const [path, text] of found)
    for (const secret of Object.values(secrets)) expect(text.includes(secret), path).toBe(false);

  const reloaded = new Promise<void>((resolve) => {
    const send = server?.ws.send.bind(server.ws);
    if (server)
      server.ws.send = ((message: { type?: string }) => {
        if (message.type === 'full-reload') resolve();
        send?.(message as never);
      }) as never;
  });
  at.write('.env.production', at.read('.env.production').replace('api.saltmarsh', 'booking.saltmarsh'));
  await reloaded;
  expect(await get('/src/main.js')).toContain('"https://booking.saltmarsh.example"');
}, 30_000);

/** Files served under some paths, and under every path that they import. */
async function crawl(get: (path: string) => Promise<string>, paths: string[]): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (let path = paths.shift(); path !== undefined; path = paths.shift()) {
    if (found.has(path)) continue;
    const text = await get(path);
    found.set(path, text);
    for (const [, next = ''] of text.matchAll(/(?:from|import|src=)\s*["'](\/[^"']+)["']/g)) paths.push(next);
  }
  return found;
}
