import { createServer, type IncomingMessage } from 'node:http';
import { type AddressInfo, connect, type Socket } from 'node:net';
import { afterEach, describe, expect, test } from 'vitest';
import { type Ran, TestProject } from '../support/adder.js';
import {
  build,
  builder,
  shopContract as contract,
  envFile,
  outputOf,
  probed as probedAt,
  SECRETS as secrets,
  shop,
} from '../support/shop.js';
import { MadeUpSite, type SiteFile } from '../support/site.js';

let site: MadeUpSite;
let assets: MadeUpSite | undefined;
afterEach(async () => {
  await site?.stop();
  await assets?.stop();
  assets = undefined;
});

const probed = (project: TestProject, args: readonly string[] = [], env: Record<string, string> = {}) =>
  probedAt(project, site, args, { env, ...(assets && { assets: assets.url }) });

const withHeaders = (files: Record<string, SiteFile>, pattern: RegExp, headers: Record<string, string>) =>
  Object.fromEntries(
    Object.entries(files).map(([path, file]) =>
      pattern.test(path) && typeof file !== 'string'
        ? [path, { ...file, headers: { ...file.headers, ...headers } }]
        : [path, file],
    ),
  );

describe('what gives no answer is not absent', () => {
  test.each<[title: string, path: string, file: SiteFile]>([
    ['a private path of a busy server', '/.env', { status: 503 }],
    ['a private path behind a rate limit', '/.env.production', { status: 429, headers: { 'retry-after': '0' } }],
    ['a list of files that may exist', '/asset-manifest.json', { status: 504 }],
    ['a connection that is closed', '/.env', 'close'],
  ])('%s is not checked', async (_, path, file) => {
    const project = shop();
    const files = build(project);
    site = await MadeUpSite.start(files);
    site.files = { ...files, [path]: file };
    const { ran, report, answers } = await probed(project);
    expect([ran.code, answers[0]]).toEqual([3, 'not known']);
    expect(report.coverage.unread.map((one: { path: string }) => one.path.replace(site.url, ''))).toEqual([path]);
    expect(site.paths().filter((one) => one === path).length).toBe(3);
    expect((await probed(project, ['--allow-incomplete'])).ran.code).toBe(3);
  });

  test('a request that succeeds at the second attempt counts', async () => {
    const project = shop();
    const files = build(project);
    site = await MadeUpSite.start(files);
    site.files = { ...files, '/.env': { status: 503, later: 'FARE_SIGNING_KEY=made-up\n' } };
    const { ran, found } = await probed(project);
    expect([ran.code, found]).toEqual([1, ['serve/env-file /.env']]);
  });
});

test('every file of the served build is asked for, wherever the site has it', async () => {
  const leak = `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist/static/js', { recursive: true });
writeFileSync('dist/static/js/main-1.js', 'fetch("' + process.env.VITE_FERRY_API_URL + '/fares");load(({ 7: "a1b2" })[7]);');
writeFileSync('dist/static/js/7-a1b2.js', 'const key = "${secrets.FARE_SIGNING_KEY}";');
`;
  const project = shop({ 'build.mjs': leak });
  expect(project.adder(['with', 'production']).code).toBe(0);
  const script = (name: string) => ({ body: project.read(`dist/static/js/${name}`) });
  site = await MadeUpSite.start({
    '/': '<script src="/_app/js/main-1.js"></script>',
    '/_app/js/main-1.js': script('main-1.js'),
    '/_app/js/7-a1b2.js': script('7-a1b2.js'),
  });
  const { ran, found } = await probed(project);
  expect([ran.code, found]).toEqual([1, ['leak/known-value FARE_SIGNING_KEY /_app/js/7-a1b2.js']]);
});

describe('a site as it was built', () => {
  test('is clean, and its lazy chunk is among the files', async () => {
    const project = shop();
    site = await MadeUpSite.start(build(project));
    const { found, answers, report, ran } = await probed(project);
    expect([found, answers, ran.code]).toEqual([[], ['yes', 'yes', 'yes'], 0]);
    expect(report.served.builds).toEqual([expect.objectContaining({ stage: 'production', files: 4 })]);
    expect(site.paths().some((path) => path.startsWith('/assets/lazy-'))).toBe(true);
    project.expectNone(Object.values(secrets), ran);
  });

  test('no request carries a secret or a cookie, and each names Adder', async () => {
    const project = shop();
    site = await MadeUpSite.start(withHeaders(build(project), /./, { 'set-cookie': 'session=1' }));
    await probed(project);
    for (const { headers, url = '' } of site.requests) {
      expect(headers['user-agent']).toMatch(/^adder\//);
      expect(headers.cookie).toBeUndefined();
      for (const secret of Object.values(secrets)) expect(JSON.stringify(headers) + url).not.toContain(secret);
    }
  });

  test('without receipts, whether it is current is not known', async () => {
    const project = shop();
    const files = build(project);
    site = await MadeUpSite.start(files);
    const { answers, ran } = await probed(
      new TestProject({ 'adder.yaml': contract, '.env.production': envFile(), 'src/main.ts': '' }),
      ['--stage', 'production'],
    );
    expect([answers, ran.code]).toEqual([['yes', 'yes', 'not known'], 3]);
  });
});

describe('which build is served', () => {
  test('an older one: the newest has the new value, so it is redeployed', async () => {
    const project = shop();
    site = await MadeUpSite.start(build(project));
    project.write('.env.production', envFile({ FERRY_API_URL: 'https://booking.saltmarsh.example' }));
    const changed = await probed(project);
    expect(changed.found).toContain('stale/past-value FERRY_API_URL /');
    expect(changed.report.since[0].changes).toEqual([
      expect.objectContaining({ variable: 'FERRY_API_URL', action: 'rebuild' }),
    ]);
    build(project);
    const { found, report, answers } = await probed(project);
    expect(found).toContain('serve/out-of-date /');
    expect(report.since[0].changes).toEqual([
      expect.objectContaining({ variable: 'FERRY_API_URL', action: 'redeploy' }),
    ]);
    expect(answers[2]).toBe('no');
  });

  test('another stage’s', async () => {
    const project = shop();
    site = await MadeUpSite.start(build(project, 'staging'));
    const { found } = await probed(project, ['--stage', 'production']);
    expect(found).toContain('serve/out-of-date /');
    expect(found.some((one) => one.startsWith('stage/foreign-value FERRY_API_URL'))).toBe(true);
  });

  test('two at once, because a cache keeps an old chunk', async () => {
    const project = shop();
    const old = build(project);
    project.write('.env.production', envFile({ FERRY_API_URL: 'https://booking.saltmarsh.example' }));
    project.write('build.mjs', builder.replace("write('lazy',", "write('lazy',  '/* 2 */' +"));
    const lazy = (files: object) => Object.keys(files).find((path) => path.includes('lazy')) as string;
    const files = build(project);
    // The page and the main script are new; the cache answers for the chunk with the old content.
    site = await MadeUpSite.start({ ...files, [lazy(files)]: old[lazy(old)] as SiteFile });
    const { found, ran } = await probed(project);
    expect(found).toContain(`serve/mixed-builds ${lazy(files)}`);
    expect(ran.code).toBe(1);
  });
});

describe('what is wrong with the answers', () => {
  test('a missing chunk, and a server that answers everything with its page', async () => {
    const project = shop();
    const files = build(project);
    const main = Object.keys(files).find((path) => path.includes('main-')) as string;
    const lazy = Object.keys(files).find((path) => path.includes('lazy-')) as string;
    const { [lazy]: _, ...without } = files;
    site = await MadeUpSite.start(without);
    expect((await probed(project)).found).toEqual([`serve/missing-file ${main}`]);
    site.files = { ...without, '*': files['/'] as SiteFile };
    const { found, answers } = await probed(project);
    // Paths that must not answer do not, although each gets the page.
    expect(found).toEqual([`serve/wrong-type ${lazy}`]);
    expect(answers[1]).toBe('no');
  });

  test('assets on another host, without and with the header that modules need', async () => {
    const project = shop();
    const files = build(project);
    assets = await MadeUpSite.start(files);
    const page = (files['/'] as { body: Buffer }).body.toString().replace('/assets/', `${assets.url}/assets/`);
    site = await MadeUpSite.start({ '/': page });
    const { found, report } = await probed(project);
    expect(found.filter((one) => one.startsWith('serve/cross-origin'))).toHaveLength(2);
    const { remedy } = report.findings.find(({ code }: { code: string }) => code === 'serve/cross-origin');
    expect(remedy).toContain(`access-control-allow-origin: ${site.url}`);
    assets.files = withHeaders(files, /./, { 'access-control-allow-origin': site.url });
    expect((await probed(project)).found.filter((one) => one.startsWith('serve/cross-origin'))).toEqual([]);
    expect(assets.requests.find(({ url }) => url?.includes('main-'))?.headers.origin).toBe(site.url);
  });

  test('a script of somebody else: only values of the project count, and the report says so', async () => {
    const project = shop();
    const files = build(project);
    assets = await MadeUpSite.start({ '/s.js': 'fetch("http://localhost:3000/x")' });
    const page = (files['/'] as { body: Buffer }).body.toString();
    site = await MadeUpSite.start({
      ...files,
      '/': page.replace('</head>', `<script src="${assets.url}/s.js"></script></head>`),
    });
    const own = await probed(project);
    // The page itself has the address of a host on this machine, and is of no build; the script is not asked for its build.
    expect([own.found, own.report.served.unknown]).toEqual([['stage/local-address /'], 1]);
    expect(own.report.coverage.skipped[0].because).toContain('has scripts of others');
    const host = new URL(assets.url).host;
    expect((await probed(project, ['--asset-host', host])).found).toContain('stage/local-address ASSETS/s.js');
    assets.files = { '/s.js': `send("${secrets.FARE_SIGNING_KEY}")` };
    expect((await probed(project)).found).toContain('leak/known-value FARE_SIGNING_KEY ASSETS/s.js');
  });

  test('a font that only a style sheet names, on another host without the header', async () => {
    const project = shop();
    assets = await MadeUpSite.start({ '/text.woff2': 'font' });
    const files = build(project);
    const page = (files['/'] as { body: Buffer }).body.toString();
    site = await MadeUpSite.start({
      ...files,
      '/': page.replace('</head>', '<link rel="stylesheet" href="/a.css"></head>'),
      '/a.css': `@font-face { font-family: x; src: url(${assets.url}/text.woff2) }`,
    });
    expect((await probed(project)).found).toContain('serve/cross-origin ASSETS/text.woff2');
  });

  test('an env file, the repository and the contract are found, and no secret is shown', async () => {
    const project = shop();
    site = await MadeUpSite.start({
      ...build(project),
      '/.env.production': envFile(),
      '/.git/HEAD': 'ref: refs/heads/main\n',
      '/adder.yaml': contract,
    });
    const { found, ran, answers } = await probed(project);
    expect(found).toEqual([
      'serve/env-file /.env.production',
      'serve/env-file /.git/HEAD',
      'serve/env-file /adder.yaml',
    ]);
    expect(answers[0]).toBe('no');
    project.expectNone(Object.values(secrets), ran);
  });

  test('the text of an error, copies of env files on an asset host, and a list of files', async () => {
    const project = shop();
    const files = build(project);
    const list = '<html><title>Index of /assets/</title><a href="main.js">main.js</a></html>';
    assets = await MadeUpSite.start({ '/.env.bak': envFile(), '/style.css': '' });
    const page = `<!doctype html><link rel="stylesheet" href="${assets.url}/style.css">`;
    const [, script] = /src="([^"]+)"/.exec(String((files['/index.html'] as { body: Buffer }).body)) ?? [];
    site = await MadeUpSite.start({
      ...files,
      '/': `${page}<script src="${script}"></script><script src="/down.js"></script>`,
      '/down.js': { status: 404, body: `Error: no such quay\nFARE_SIGNING_KEY=${secrets.FARE_SIGNING_KEY}\n` },
      '/assets/': { body: list },
    });
    const { found, ran } = await probed(project, ['--asset-host', new URL(assets.url).host]);
    expect(found).toEqual(
      expect.arrayContaining([
        'serve/env-file /assets/',
        'serve/env-file ASSETS/.env.bak',
        'serve/secret-in-answer FARE_SIGNING_KEY /down.js',
      ]),
    );
    project.expectNone(Object.values(secrets), ran);
  });

  test('only files with a digest in their names may stay in caches', async () => {
    const project = shop({ 'build.mjs': `${builder}\nwriteFileSync('dist/legacy.js', 'legacy()');` });
    const files = withHeaders(build(project), /./, { 'cache-control': 'public, max-age=31536000' });
    const page = (files['/'] as { body: Buffer }).body
      .toString()
      .replace('</head>', '<script src="/legacy.js"></script></head>');
    site = await MadeUpSite.start({ ...files, '/': { ...(files['/'] as object), body: page } });
    const { found, report } = await probed(project);
    expect(found.filter((one) => one.startsWith('serve/'))).toEqual(
      ['serve/long-cache /', 'serve/long-cache /index.html', 'serve/long-cache /legacy.js'].filter((one) =>
        found.includes(one),
      ),
    );
    expect(found).toEqual(expect.arrayContaining(['serve/long-cache /', 'serve/long-cache /legacy.js']));
    expect(report.findings[0].message).toContain('(cache-control: public, max-age=31536000)');
  });

  test('load-time values: wrong ones, under a fixed name, and in a service worker', async () => {
    const project = shop({
      'adder.yaml': `${contract}  NOTICE_BANNER: { reach: public, delivery: runtime, required: [production] }\n`,
    });
    project.write('.env.production', envFile({ NOTICE_BANNER: 'The ferry is late' }));
    const files = build(project);
    const page = (files['/'] as { body: Buffer }).body
      .toString()
      .replace('<head>', '<head><script src="/env.js"></script>');
    const worker = '<script>navigator.serviceWorker.register("/sw.js")</script>';
    site = await MadeUpSite.start({
      ...files,
      '/': page.replace('<body>', `<body>${worker}`),
      '/env.js': 'window.env = { NOTICE_BANNER: "The ferry is on time" };',
      '/sw.js': 'precache([{url:"/env.js"},{url:"/index.html"}])',
    });
    const { found } = await probed(project);
    expect(found).toEqual(
      expect.arrayContaining([
        'serve/cached-runtime-file /env.js',
        'serve/kept-by-worker /sw.js',
        'stale/runtime-file NOTICE_BANNER /env.js',
      ]),
    );
    site.files['/env.js'] = {
      body: 'window.env = { NOTICE_BANNER: "The ferry is late" };',
      headers: { 'cache-control': 'no-cache' },
    };
    site.files['/sw.js'] = 'precache([{url:"/index.html"}])';
    const after = (await probed(project)).report.findings.filter((one: { code: string }) =>
      /runtime-file|worker/.test(one.code),
    );
    expect(after.map((one: { level: string; message: string }) => [one.level, one.message])).toEqual([
      ['note', expect.stringContaining('answers with the start page that it keeps')],
    ]);
  });

  test('a policy in a header, values as JSON, and chunks that only a manifest names', async () => {
    const project = shop({
      'adder.yaml': `${contract}  NOTICE_BANNER: { reach: public, delivery: runtime, required: [production] }\n`,
    });
    project.write('.env.production', envFile({ NOTICE_BANNER: 'The ferry is late' }));
    build(project);
    expect(project.adder(['emit', 'runtime', '--stage', 'production', '--into', 'dist']).code).toBe(0);
    const files = outputOf(project);
    const policy = (value: string) => withHeaders(files, /^\/$/, { 'content-security-policy': value });
    site = await MadeUpSite.start(policy("default-src 'none', script-src 'nonce-x'"));
    expect((await probed(project)).found).toContain('serve/blocked-runtime-file /');
    site.files = policy("script-src 'self'");
    expect((await probed(project)).found).toEqual([]);
    site.files = {
      ...files,
      '/config.json': '{"NOTICE_BANNER":"The ferry is late"}',
      '/': '<script>fetch("/config.json")</script>',
    };
    expect((await probed(project)).found).toContain('serve/cached-runtime-file /config.json');
    const leak = `send("${secrets.FARE_SIGNING_KEY}")`;
    site.files = { ...files, '/asset-manifest.json': '{"files":{"x.js":"/assets/x.js"}}', '/assets/x.js': leak };
    expect((await probed(project)).found).toContain('leak/known-value FARE_SIGNING_KEY /assets/x.js');
  });

  test('a large page is checked for its load-time values too', async () => {
    const project = shop({
      'adder.yaml': `${contract}  NOTICE_BANNER: { reach: public, delivery: runtime, required: [production] }\n`,
    });
    project.write('.env.production', envFile({ NOTICE_BANNER: 'The ferry is late' }));
    const files = build(project);
    site = await MadeUpSite.start({
      ...files,
      '/': `<script src="/app.js"></script>${'<p>tide</p>'.repeat(50_000)}`,
      '/app.js': 'x()',
    });
    expect((await probed(project)).found).toContain('serve/missing-file /');
  });

  test('leaks in scripts and maps are traced as in files', async () => {
    const project = shop();
    const files = build(project);
    const main = Object.keys(files).find((path) => path.includes('main-')) as string;
    const leak = `${(files[main] as { body: Buffer }).body}send("${secrets.FARE_SIGNING_KEY}")`;
    site = await MadeUpSite.start({ ...files, [main]: leak });
    const { found, ran, answers } = await probed(project);
    expect(found).toContain(`leak/known-value FARE_SIGNING_KEY ${main}`);
    expect(answers).toEqual(['no', 'yes', 'not known']);
    project.expectNone(Object.values(secrets), ran);
  });

  test('answers of an API, with a method, a body and a credential in a header', async () => {
    const project = shop({ 'body.json': '{"port":"Quay"}' });
    site = await MadeUpSite.start({
      ...build(project),
      '/api/config': {
        body: JSON.stringify({ key: secrets.FARE_SIGNING_KEY }),
        headers: { 'content-type': 'application/json', 'x-trace': secrets.SOURCE_MAP_UPLOAD_TOKEN },
      },
    });
    const { found, ran } = await probed(project, [
      '--also',
      'POST /api/config @body.json',
      '--header',
      'Authorization: Bearer {API_TOKEN}',
    ]);
    expect(found).toEqual([
      'serve/secret-in-answer FARE_SIGNING_KEY /api/config',
      'serve/secret-in-answer SOURCE_MAP_UPLOAD_TOKEN /api/config',
    ]);
    const asked = site.requests.filter(({ url }) => url === '/api/config');
    expect(asked.map(({ method, headers }) => [method, headers.authorization])).toEqual([
      ['POST', `Bearer ${secrets.API_TOKEN}`],
    ]);
    // Only the API gets the credential.
    expect(site.requests.filter(({ headers }) => headers.authorization !== undefined)).toHaveLength(1);
    project.expectNone(Object.values(secrets), ran);
  });
});

describe('polite and safe', () => {
  test('another host gets no request, unless its files belong to the page', async () => {
    const project = shop();
    const files = build(project);
    assets = await MadeUpSite.start({ '/x.json': '{}' });
    const elsewhere = assets.url.replace('127.0.0.1', 'localhost');
    const page = (files['/'] as { body: Buffer }).body
      .toString()
      .replace(
        '<body>',
        `<body><a href="${elsewhere}/">x</a><img src="${elsewhere}/x.png"><link rel="manifest" href="${elsewhere}/x.json">`,
      );
    site = await MadeUpSite.start({ ...files, '/': page });
    const { report } = await probed(project);
    expect(assets.requests).toEqual([]);
    expect(report.coverage.skipped).toEqual([
      expect.objectContaining({ because: 'is another host, whose files were not read' }),
    ]);
  });

  test('a script on a private host that nobody named is refused', async () => {
    const project = shop();
    assets = await MadeUpSite.start({ '/x.js': 'x()' });
    const elsewhere = assets.url.replace('127.0.0.1', 'localhost');
    site = await MadeUpSite.start({ ...build(project), '/': `<script src="${elsewhere}/x.js"></script>` });
    const { report, ran } = await probed(project);
    expect(assets.requests).toEqual([]);
    expect(report.coverage.unread).toEqual([
      expect.objectContaining({ because: 'has a private address, and only hosts that you name may' }),
    ]);
    expect(ran.code).toBe(1);
    await probed(project, ['--asset-host', new URL(elsewhere).host]);
    expect(assets.paths()).toContain('/x.js');
  });

  test('a proxy of the environment gets the requests, and looks up the name', async () => {
    const project = shop();
    site = await MadeUpSite.start(build(project));
    const asked: string[] = [];
    const proxy = createServer().on('connect', (request: IncomingMessage, socket: Socket) => {
      asked.push(request.url ?? '');
      const { hostname, port } = new URL(site.url);
      const target = connect(Number(port), hostname, () => {
        socket.write('HTTP/1.1 200 OK\r\n\r\n');
        target.pipe(socket).pipe(target);
      });
      target.on('error', () => socket.destroy());
      socket.on('error', () => target.destroy());
    });
    await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
    const { port } = proxy.address() as AddressInfo;
    const args = ['probe', 'http://shop.saltmarsh.example/', '--stage', 'production', '--format', 'json'];
    const { stdout, stderr } = await project.adderBeside(args, { HTTP_PROXY: `http://127.0.0.1:${port}` });
    proxy.close();
    expect(JSON.parse(stdout || '{}').answers?.current?.answer, stderr).toBe('yes');
    expect(new Set(asked)).toEqual(new Set(['shop.saltmarsh.example:80']));
  });

  test('hostile paths and endless answers are listed, and end', async () => {
    const project = shop();
    const files = build(project);
    site = await MadeUpSite.start({
      ...files,
      '/': '<script src="/%E0%A4%A.js"></script><script src="/\u001b]0;x\u0007.js"></script><script src="/loop.js"></script>',
      '/loop.js': { status: 302, headers: { location: '/loop.js' } },
    });
    const { ran, report } = await probed(project);
    expect(ran.code).toBe(1);
    expect(report.coverage.unread).toEqual([
      { path: `${site.url}/loop.js`, inside: [], because: 'redirects more than 5 times' },
    ]);
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what must not be there
    expect(ran.stdout + ran.stderr).not.toMatch(/[\u001b\u0007]/);
  });

  test('redirects stay on the site', async () => {
    const project = shop();
    assets = await MadeUpSite.start({ '/': 'x' });
    site = await MadeUpSite.start({
      '/': { status: 302, headers: { location: `${assets.url.replace('127.0.0.1', 'localhost')}/` } },
    });
    const away = await project.adderBeside(['probe', site.url, '--stage', 'production']);
    expect(away).toMatchObject({ code: 2, stderr: expect.stringContaining('redirects to another host') });
    expect(assets.requests).toEqual([]);
  });

  test('redirects that go round end', async () => {
    const project = shop();
    site = await MadeUpSite.start({ '/': { status: 302, headers: { location: '/' } } });
    expect((await project.adderBeside(['probe', site.url, '--stage', 'production'])).stderr).toContain(
      'redirects more than 5 times',
    );
  });

  test('links are followed as far as --depth says, each page once', async () => {
    const project = shop();
    const page = (links: string) => ({ body: `<!doctype html>${links}`, headers: { 'content-type': 'text/html' } });
    site = await MadeUpSite.start({
      '/': page('<a href="/a?x=1">a</a><a href="/a?x=2">a</a>'),
      '/a': page('<a href="/b">b</a><a href="/">up</a>'),
      '/b': page(''),
    });
    const pages = async (depth: string) => {
      site.requests.length = 0;
      await project.adderBeside(['probe', site.url, '--stage', 'production', '--depth', depth]);
      return site.paths().filter((path) => /^\/(a|b)?(\?|$)/.test(path));
    };
    expect(await pages('0')).toEqual(['/']);
    expect(await pages('1')).toEqual(['/', '/a?x=1']);
    expect(await pages('2')).toEqual(['/', '/a?x=1', '/b']);
  });

  test.each<[title: string, args: string[], message: string]>([
    ['no URL', ['not a url at all'], 'this is not a URL of a site'],
    ['a file', ['file:///etc/passwd'], 'this is not a URL of a site'],
    ['a password', ['https://a:b@shop.example/'], 'contains a user name or password'],
    ['a host that does not exist', ['https://nowhere.saltmarsh.invalid/'], 'is an unknown host'],
    ['a broken --also', ['http://127.0.0.1:17999/', '--also', 'x'], '--also needs a path'],
    ['a host that is down', ['http://127.0.0.1:17999/'], 'refused the connection'],
  ])('%s is refused with exit code 2', async (_, args, message) => {
    const ran: Ran = await shop().adderBeside(['probe', ...args, '--stage', 'production']);
    expect(ran.code).toBe(2);
    expect(ran.stderr).toMatch(new RegExp(`${message}|could not be looked up`));
    expect(ran.stderr).not.toContain('a:b@');
  });
});
