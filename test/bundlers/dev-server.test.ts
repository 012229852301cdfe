import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createServer, type ViteDevServer } from 'vite';
import { afterEach, expect, test } from 'vitest';
import { ferryProject, secrets } from '../support/adder.js';

const plugin = pathToFileURL(join(import.meta.dirname, '../../dist/plugin/vite.js')).href;
let server: ViteDevServer | undefined;

afterEach(() => server?.close());

test('serves the values of its stage, nothing that is not public, and new ones after a change', async () => {
  const at = ferryProject({
    'index.html': '<script type="module" src="/src/main.js"></script>',
    'src/main.js':
      "import { TIDE_CHART } from 'adder/values';\nconsole.log(import.meta.env.VITE_FERRY_API_URL, TIDE_CHART, import.meta.env);\n",
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

  const main = await get('/src/main.js');
  expect(main).toContain('"https://api.saltmarsh.example"');
  const specifier = /from "([^"]*adder-values[^"]*)"/.exec(main)?.[1] ?? expect.unreachable();
  expect(await get(specifier)).toContain('TIDE_CHART = true');
  for (const path of ['/', '/src/main.js', specifier, '/@vite/client', '/@vite/env'])
    for (const secret of Object.values(secrets)) expect(await get(path)).not.toContain(secret);

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
