// Probes of a site of 2,000 files on loopback, with faults, in one process: memory must stay flat. Not part of `npm run bench`.
//
//   node bench/soak.mjs [PROBES]        default: 1000

import { fork } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const FILES = 2000;
const MB = 2 ** 20;

/** The site: one page, chunks that import the next ones, and faults: connections that close, errors that pass, and slow answers. */
function serve() {
  let requests = 0;
  const body = (index) => {
    const next = [2 * index + 1, 2 * index + 2]
      .filter((one) => one < FILES)
      .map((one) => `import("./chunk-${one}.js")`);
    return `${next.join(';')};export const text${index}="${'timetable '.repeat(300 + (index % 50))}";`;
  };
  const server = createServer((request, response) => {
    requests++;
    if (requests % 997 === 0) return request.socket.destroy();
    if (requests % 499 === 0) {
      response.writeHead(503);
      return response.end();
    }
    const index = /^\/chunk-(\d+)\.js$/.exec(request.url)?.[1];
    if (request.url === '/') {
      response.writeHead(200, { 'content-type': 'text/html' });
      return response.end('<!doctype html><script type="module" src="/chunk-0.js"></script>');
    }
    response.writeHead(index === undefined ? 404 : 200, { 'content-type': 'text/javascript' });
    return response.end(index === undefined ? 'no' : body(Number(index)));
  });
  server.listen(0, '127.0.0.1', () => process.send(server.address().port));
}

async function main() {
  const { load } = await import('../scripts/load.mjs');
  const { realWorld, openProject, probe, usualProbe } = await load('bench/soak-entry.ts');
  const folder = mkdtempSync(join(tmpdir(), 'adder-soak-'));
  writeFileSync(
    join(folder, 'adder.yaml'),
    'adder: 1\nstages: { production: { layers: [.env] } }\nbundles: { desk: { toolchain: other, code: src, output: dist } }\nvariables: { FARE_SIGNING_KEY: server }\n',
  );
  writeFileSync(join(folder, '.env'), 'FARE_SIGNING_KEY=made-up-signing-key-for-fares-0001\n');
  const child = fork(fileURLToPath(import.meta.url), ['serve']);
  const port = await new Promise((resolve) => child.once('message', resolve));
  const world = { ...realWorld(), cwd: folder };
  const project = openProject(world);
  const probes = Number(process.argv[2] ?? 1000);
  const used = [];
  const start = Date.now();
  try {
    for (let index = 1; index <= probes; index++) {
      const { coverage, findings } = await probe(
        project,
        { ...usualProbe, url: `http://127.0.0.1:${port}/`, stage: 'production' },
        world,
      );
      if (coverage.files < FILES || findings.length > 0)
        throw new Error(
          `probe ${index}: ${coverage.files} files, ${JSON.stringify(findings[0] ?? coverage.unread[0])}`,
        );
      globalThis.gc?.();
      used.push(process.memoryUsage.rss() / MB);
      if (index % 50 === 0 || index === probes)
        console.log(
          `${index} probes, ${Math.round(used.at(-1))} MB, ${((Date.now() - start) / index / 1000).toFixed(2)} s each`,
        );
    }
  } finally {
    child.kill();
    rmSync(folder, { recursive: true });
  }
  // The first probes fill caches.
  const mean = (part) => part.reduce((sum, one) => sum + one, 0) / part.length;
  const tenth = Math.max(1, Math.floor(probes / 10));
  const growth = mean(used.slice(-tenth)) / mean(used.slice(tenth, 2 * tenth));
  console.log(`memory of the last tenth against the second: ${growth.toFixed(2)} (at most 1.15)`);
  if (growth > 1.15) process.exitCode = 1;
}

if (process.argv[2] === 'serve') serve();
else await main();
