// A made-up hosting platform on this machine: a console where the values of each stage are set, the site, and a second host for
// its assets. It reads host.json at each request, so edit that file to switch faults. Values are kept in memory only.
//
//   node tool/host.mjs [DIRECTORY]
//
// Console: GET /stages/STAGE/values lists names; PUT /stages/STAGE/values/NAME sets a value. Secrets can be written and not read.

import { createReadStream, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { extname, join, normalize } from 'node:path';

const root = process.argv[2] ?? '.';
const settings = () => JSON.parse(readFileSync(join(root, 'host.json'), 'utf8'));

/** Stage to name to value. */
const stages = new Map(
  Object.entries(settings().values ?? {}).map(([stage, values]) => [stage, new Map(Object.entries(values))]),
);
let requests = 0;
let second = 0;
let inSecond = 0;

function answer(response, status, body, headers = {}) {
  response.writeHead(status, { 'content-type': 'application/json', ...headers });
  response.end(body === undefined ? '' : `${JSON.stringify(body)}\n`);
}

/** Counts a request. @returns whether there were more in this second */
function isTooOften(perSecond) {
  const now = Math.floor(Date.now() / 1000);
  inSecond = now === second ? inSecond + 1 : 1;
  second = now;
  return inSecond > perSecond;
}

/** Faults of the console. @returns whether the request was answered, badly */
function fail(request, response, { failEvery, resetEvery, perSecond }) {
  requests++;
  if (perSecond && isTooOften(perSecond)) answer(response, 429, { error: 'slow down' }, { 'retry-after': '1' });
  else if (resetEvery && requests % resetEvery === 0) request.socket.destroy();
  else if (failEvery && requests % failEvery === 0) answer(response, 503, { error: 'try later' });
  else return false;
  return true;
}

async function consoleRequest(request, response) {
  const { token, faults = {}, pageSize = 3 } = settings();
  if (request.headers.authorization !== `Bearer ${token}`) return answer(response, 401, { error: 'who are you?' });
  const url = new URL(request.url, 'http://console.test');
  const [, , stage = '', , name] = url.pathname.split('/').map(decodeURIComponent);
  const values = stages.get(stage);
  if (!values) return answer(response, 404, { error: 'no such stage' });
  // A value may be set and its answer lost: only then is a repeated request of use.
  const isLost = faults.loseEvery && (requests + 1) % faults.loseEvery === 0;
  if (request.method === 'GET' && name === undefined) {
    if (fail(request, response, faults)) return undefined;
    const page = Number(url.searchParams.get('page') ?? 1);
    const all = [...values].map(([key, { value, scopes, secret }]) => ({ key, scopes, ...(!secret && { value }) }));
    const items = all.slice((page - 1) * pageSize, page * pageSize);
    const next = page * pageSize < all.length ? { next: `${url.pathname}?page=${page + 1}` } : {};
    return answer(response, 200, { data: { items }, ...next });
  }
  if (request.method !== 'PUT' || !name) return answer(response, 405, { error: 'no such method' });
  const chunks = [];
  for await (const chunk of request) chunks.push(chunk);
  if (fail(request, response, faults)) return undefined;
  const { value, scopes } = JSON.parse(Buffer.concat(chunks).toString());
  values.set(name, { value, scopes, secret: !scopes.includes('build') });
  if (isLost) return request.socket.destroy();
  return answer(response, 200, { key: name, scopes });
}

const types = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript',
  '.mjs': 'text/javascript',
  '.css': 'text/css',
  '.json': 'application/json',
  '.map': 'application/json',
  '.webmanifest': 'application/manifest+json',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
};

/** Contents of a cache in front of the site, by path. */
const kept = new Map();
let purge;

function serve(which) {
  return (request, response) => {
    const all = settings();
    const { directory = 'web/dist', headers = {}, keeps = [], deny = [], login, perSecond } = all[which] ?? {};
    if (login && request.headers.authorization !== `Basic ${login}`) {
      response.writeHead(401, { 'content-type': 'text/plain', 'www-authenticate': 'Basic realm="preview"' });
      return response.end('who are you?\n');
    }
    if (perSecond && isTooOften(perSecond)) {
      response.writeHead(429, { 'content-type': 'text/plain', 'retry-after': '1' });
      return response.end('slow down\n');
    }
    if (all.purge !== purge) kept.clear();
    purge = all.purge;
    const { pathname } = new URL(request.url, 'http://site.test');
    const path = normalize(decodeURIComponent(pathname)).replace(/\/$/, '/index.html');
    const file = join(root, directory, path);
    if (deny.some((part) => path.includes(part)) || !existsSync(file) || !statSync(file).isFile()) {
      response.writeHead(404, { 'content-type': 'text/plain' });
      return response.end('not found\n');
    }
    const own = Object.entries(headers).flatMap(([part, given]) => (path.includes(part) ? Object.entries(given) : []));
    response.writeHead(200, {
      'content-type': types[extname(path)] ?? 'application/octet-stream',
      ...Object.fromEntries(own),
    });
    if (!keeps.some((part) => path.includes(part))) return createReadStream(file).pipe(response);
    if (!kept.has(path)) kept.set(path, readFileSync(file));
    return response.end(kept.get(path));
  };
}

const ports = settings().ports ?? {};
const listening = [];
for (const [name, handler] of [
  ['console', (request, response) => void consoleRequest(request, response).catch(() => request.socket.destroy())],
  ['site', serve('site')],
  ['assets', serve('assets')],
]) {
  const server = createServer(handler);
  listening.push(
    new Promise((resolve) => {
      server.listen(ports[name] ?? 0, '127.0.0.1', () => resolve([name, `http://127.0.0.1:${server.address().port}`]));
    }),
  );
}
const urls = Object.fromEntries(await Promise.all(listening));
writeFileSync(join(root, 'host-urls.json'), `${JSON.stringify(urls, null, 2)}\n`);
process.stdout.write(
  `${Object.entries(urls)
    .map(([name, url]) => `${name} ${url}`)
    .join('\n')}\n`,
);
process.on('SIGTERM', () => process.exit(0));
/** For tests: what the console has. */
process.on('SIGUSR2', () => {
  const all = Object.fromEntries([...stages].map(([stage, values]) => [stage, Object.fromEntries(values)]));
  writeFileSync(join(root, 'host-values.json'), JSON.stringify(all));
});
