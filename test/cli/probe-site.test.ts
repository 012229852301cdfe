import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { afterEach, describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { build, envFile, outputOf, probed as probedAt, SECRETS, shop } from '../support/shop.js';
import { MadeUpSite, type SiteFile } from '../support/site.js';

const sites: MadeUpSite[] = [];
afterEach(async () => {
  for (const site of sites.splice(0)) await site.stop();
});

async function probed(project: TestProject, files: Record<string, SiteFile>, args: readonly string[] = []) {
  const site = await MadeUpSite.start(files);
  sites.push(site);
  const result = await probedAt(project, site, args);
  project.expectNone(Object.values(SECRETS), result.ran);
  const unread = result.report.coverage.unread.map(
    ({ path, because }: { path: string; because: string }) => `${path} ${because}`,
  );
  const skipped = (result.report.coverage.skipped ?? []).map(
    ({ path, because }: { path: string; because: string }) => `${path.replace(site.url, '')} ${because}`,
  );
  return { ...result, site, unread, skipped };
}

/** Adds HTML to the body of the start page. */
function withBody(files: Record<string, SiteFile>, html: string): Record<string, SiteFile> {
  const page = files['/'] as { body: Buffer };
  return { ...files, '/': { ...page, body: page.body.toString().replace('<body>', `<body>${html}`) } };
}

const leak = `const key = "${SECRETS.FARE_SIGNING_KEY}";`;

describe('everything that a page leads to', () => {
  test.each<[title: string, html: string, files: Record<string, SiteFile>]>([
    [
      'a frame, whatever the depth',
      '<iframe src="/frame.html"></iframe>',
      { '/frame.html': '<script src="/leak.js"></script>' },
    ],
    [
      'another language',
      '<link rel="alternate" hreflang="de" href="/de">',
      { '/de': '<script src="/leak.js"></script>' },
    ],
    [
      'a sitemap',
      '',
      {
        '/sitemap.xml': '<?xml version="1.0"?><urlset><url><loc>/fares</loc></url></urlset>',
        '/fares': '<script src="/leak.js"></script>',
      },
    ],
    [
      'a sitemap of sitemaps that robots.txt names',
      '',
      {
        '/robots.txt': 'User-agent: *\nSitemap: /maps.xml\n',
        '/maps.xml': '<sitemapindex><sitemap><loc>/one.xml</loc></sitemap></sitemapindex>',
        '/one.xml': '<urlset><url><loc>/fares</loc></url></urlset>',
        '/fares': '<script src="/leak.js"></script>',
      },
    ],
  ])('%s', async (_, html, more) => {
    const project = shop();
    const files = withBody(build(project), html);
    const types = Object.fromEntries(
      Object.entries(more).map(([path, body]) => [
        path,
        path.endsWith('.xml')
          ? { body: String(body), headers: { 'content-type': 'application/xml' } }
          : path.endsWith('.txt')
            ? { body: String(body), headers: { 'content-type': 'text/plain' } }
            : { body: String(body), headers: { 'content-type': 'text/html' } },
      ]),
    );
    const { found } = await probed(project, { ...files, ...types, '/leak.js': leak });
    expect(found).toContain('leak/known-value FARE_SIGNING_KEY /leak.js');
  });

  test('an image is asked for its status alone, and links beyond the depth are counted', async () => {
    const project = shop();
    const files = withBody(
      build(project),
      '<img src="/a.png" srcset="/b.png 2x, /c.png 3x"><a href="/x">x</a><a href="/y">y</a>',
    );
    const { found, site, skipped } = await probed(project, { ...files, '/a.png': 'png', '/b.png': 'png' }, [
      '--depth',
      '0',
    ]);
    expect(found).toEqual(['serve/missing-file /']);
    const asked = site.requests
      .filter(({ url }) => /png$/.test(url ?? ''))
      .map(({ method, url }) => `${method} ${url}`);
    expect(asked.sort()).toEqual(['GET /c.png', 'HEAD /a.png', 'HEAD /b.png', 'HEAD /c.png']);
    expect(skipped).toEqual(['/ links to 2 more pages, not followed; --depth reads more']);
  });

  test('a script of the build that the site lacks', async () => {
    const project = shop();
    project.write('build.mjs', `${project.read('build.mjs')}\nwrite('hidden', 'export const h = 1');\n`);
    const files = build(project);
    const hidden = Object.keys(files).find((path) => path.includes('hidden')) as string;
    const { [hidden]: _, ...without } = files;
    const { report } = await probed(project, without);
    expect(report.findings.map((one: { message: string; level: string }) => `${one.level} ${one.message}`)).toEqual([
      expect.stringMatching(
        /^warning the site serves the build of .*, but not all of its scripts: .*hidden-\w+\.js answers with status 404/,
      ),
    ]);
  });
});

describe('requests of the code', () => {
  const code =
    'fetch("/api/session");fetch("/api/rates",{method:"GET"});fetch("/api/orders",{method:"POST"});get=(id)=>fetch(`/api/rates/${id}`);';
  const withCode = (project: TestProject) => {
    project.write('build.mjs', project.read('build.mjs').replace('<body>', `<body><script>${code}</script>`));
    return build(project);
  };

  test('an answer that nobody searched is not known to be clean', async () => {
    const project = shop();
    const { answers, ran, report, skipped } = await probed(project, withCode(project));
    expect([answers, ran.code]).toEqual([['not known', 'yes', 'yes'], 3]);
    expect(report.answers.nothingLeaked.because[0]).toMatchObject({
      because: expect.stringContaining('asks the site for /api/rates, /api/rates/ and /api/session'),
      remedy: 'pass --also /api/rates, or --browser',
    });
    expect(skipped.map((one: string) => one.split(' ')[0])).toEqual(['/api/rates', '/api/rates/', '/api/session']);
  });

  test('with --also, and with `also` in the contract, they are', async () => {
    const project = shop();
    const files = {
      ...withCode(project),
      '/api/session': '{}',
      '/api/rates/1': '{}',
      '/api/rates': `{"key":"${SECRETS.FARE_SIGNING_KEY}"}`,
    };
    const { found } = await probed(project, files, [
      '--also',
      '/api/rates',
      '--also',
      '/api/session',
      '--also',
      '/api/rates/1',
    ]);
    expect(found).toEqual(['serve/secret-in-answer FARE_SIGNING_KEY /api/rates']);
    const site = await MadeUpSite.start({ ...files, '/api/rates': '{}' });
    sites.push(site);
    const served = `served: { production: { url: "${site.url}/", also: [/api/rates, /api/rates/1, /api/session] } }`;
    project.write(
      'adder.yaml',
      project.read('adder.yaml').replace('build: node build.mjs', `build: node build.mjs, ${served}`),
    );
    const ran = await project.adderBeside(['probe', '--stage', 'production']);
    expect([ran.code, ran.stdout]).toEqual([0, expect.stringContaining('nothing leaked:             yes')]);
  });
});

test('clients that accept another encoding get an old file', async () => {
  const project = shop();
  const files = build(project);
  const page = files['/'] as { body: Buffer };
  const { found, report } = await probed(project, {
    ...files,
    '/': { body: `<p>old</p><script>${leak}</script>`, compressed: page.body },
  });
  expect(found).toEqual(['leak/known-value FARE_SIGNING_KEY /', 'serve/mixed-builds /']);
  expect(report.findings.find(({ code }: { code: string }) => code === 'serve/mixed-builds').message).toBe(
    'clients that accept only uncompressed files get other content of this file than clients that get gzip',
  );
});

describe('values that a server fills in when it starts', () => {
  const app = (toolchain: string, name: string) =>
    new TestProject({
      'adder.yaml': `adder: 1
stages: { staging: { layers: [.env.staging] }, production: { layers: [.env.production] } }
bundles: { desk: { toolchain: ${toolchain}, code: src, output: dist } }
variables: { ${name}: { reach: public, delivery: runtime } }
`,
      '.env.production': `${name}=https://api.saltmarsh.example\n`,
      '.env.staging': `${name}=https://api.staging.saltmarsh.test\n`,
      'src/app.ts': '',
    });
  const nuxt = (value: string) =>
    `<script>window.__NUXT__={};window.__NUXT__.config={public:{api:{url:${JSON.stringify(value)}}},app:{baseURL:"/"}}</script>`;
  const kit = (value: string) =>
    `<script>{ __sveltekit_1 = { base: "", env: {"PUBLIC_API_URL":${JSON.stringify(value)}} }; }</script>`;

  test.each<[toolchain: string, name: string, page: (value: string) => string]>([
    ['nuxt', 'NUXT_PUBLIC_API_URL', nuxt],
    ['sveltekit', 'PUBLIC_API_URL', kit],
  ])('%s', async (toolchain, name, page) => {
    const project = app(toolchain, name);
    const messages = async (value: string) => {
      const { report } = await probed(project, { '/': page(value) }, ['--stage', 'production']);
      return report.findings.map(({ code, message }: { code: string; message: string }) => `${code} ${message}`);
    };
    expect(await messages('https://api.saltmarsh.example')).toEqual([]);
    expect(await messages('')).toEqual([
      `stale/runtime-file the server started without ${name}, and production has a value for it`,
    ]);
    expect(await messages('https://api.staging.saltmarsh.test')).toEqual([
      `stale/runtime-file the server started with a different ${name} than production (the value of staging)`,
    ]);
  });
});

describe('which build should be there', () => {
  /** Builds twice and returns the files of the older build. */
  function rolledBack(change: Record<string, string> = {}): { project: TestProject; old: Record<string, SiteFile> } {
    const project = shop();
    const old = build(project);
    project.write('build.mjs', project.read('build.mjs').replace('/fares"', '/fares?v=2"'));
    project.write('.env.production', envFile(change));
    build(project);
    return { project, old };
  }
  const message = ({ findings }: { findings: { message: string; remedy: string }[] }) =>
    findings.map((one) => `${one.message} | ${one.remedy}`).join('\n');

  test('a rollback is said, and can be declared', async () => {
    const { project, old } = rolledBack();
    const { report } = await probed(project, old);
    expect(message(report)).toMatch(
      /; both have the same values \| deploy the current build .*; after a rollback, pass --build previous$/,
    );
    const declared = await probed(project, old, ['--build', 'previous']);
    expect([declared.found, declared.answers]).toEqual([[], ['yes', 'yes', 'yes']]);
    const { url } = declared.site;
    const build = 'build: node build.mjs';
    project.write(
      'adder.yaml',
      project.read('adder.yaml').replace(build, `${build}, served: { production: "${url}/" }`),
    );
    const gated = async (...args: string[]) => (await project.adderBeside(['gate', 'production', ...args])).stdout;
    expect(await gated('--probe')).toContain('serve/out-of-date');
    expect(await gated('--probe', '--build', 'previous')).not.toContain('serve/out-of-date');
    expect(project.adder(['gate', 'production', '--build', 'previous']).stderr).toContain('add --probe');
    const receipts = readdirSync(project.path('.adder/receipts/ticket-desk')).sort();
    const named = await probed(project, old, ['--build', `.adder/receipts/ticket-desk/${receipts[1]}`]);
    expect(message(named.report)).toMatch(/^the site serves the build of .*; --build names the one of/);
  });

  test('with other values it is no rollback of the values', async () => {
    const { project, old } = rolledBack({ FERRY_API_URL: 'https://api2.saltmarsh.example' });
    expect(message((await probed(project, old)).report)).not.toContain('same values');
  });

  test.each<[args: string[], expected: RegExp]>([
    [['--build', 'abcdef1'], /no receipt of a build for production is of abcdef1/],
    [['--build', 'yesterday'], /--build yesterday is no build/],
    [['--build', 'none.json'], /none\.json does not exist/],
  ])('%s is an error', async (args, expected) => {
    const project = shop();
    const site = await MadeUpSite.start(build(project));
    sites.push(site);
    const { code, stderr } = await project.adderBeside(['probe', `${site.url}/`, ...args]);
    expect([code, stderr]).toEqual([2, expect.stringMatching(expected)]);
  });

  test.each<[headers: Record<string, string>, remedy: RegExp]>([
    [{ age: '7200' }, /empty the cache in front of the site, which answered \(age: 7200\)/],
    [{ 'x-cache': 'Miss from cdn' }, /no cache answered, the server has the other one \(x-cache: Miss from cdn\)/],
    [{}, /if it was deployed, empty the caches/],
  ])('a cache in front of it: %j', async (headers, remedy) => {
    const { project, old } = rolledBack();
    const page = old['/'] as { body: Buffer };
    expect(message((await probed(project, { ...old, '/': { ...page, headers } })).report)).toMatch(remedy);
  });
});

describe('receipts travel', () => {
  test('the job that deploys knows the build of another job, and not its values', async () => {
    const builder = shop();
    const built = builder.adder(['with', 'production', '--receipt', 'out/{bundle}.json']);
    expect([built.code, built.stderr]).toEqual([0, expect.stringContaining('built 3 files')]);
    const receipt = builder.read('out/ticket-desk.json');
    for (const secret of Object.values(SECRETS)) expect(receipt).not.toContain(secret);
    const files = outputOf(builder);

    const deployer = shop();
    mkdirSync(deployer.path('receipts'));
    deployer.write('receipts/ticket-desk.json', receipt);
    const { answers, report } = await probed(deployer, files, ['--receipts', 'receipts']);
    expect(answers).toEqual(['yes', 'yes', 'not known']);
    expect(report.served).toMatchObject({ builds: [{ stage: 'production', files: 4 }], unknown: 0 });
    expect(report.answers.current.because[0].because).toMatch(
      /^the receipt of this build was written with a key that this machine lacks/,
    );

    for (const [path, file] of Object.entries(files))
      if (path !== '/') deployer.write(`dist${path}`, (file as { body: Buffer }).body);
    const inspected = deployer.json(['inspect', '--receipts', 'receipts/ticket-desk.json']);
    expect([inspected.code, inspected.report.answers.current.answer, inspected.report.findings]).toEqual([
      3,
      'not known',
      [],
    ]);
    rmSync(deployer.path('dist/index.html'));
    expect(
      deployer
        .json(['gate', 'production', '--receipts', 'receipts'])
        .report.findings.map(({ code }: { code: string }) => code),
    ).toContain('stale/receipt');
  });

  test.each<[args: string[], error: RegExp]>([
    [['inspect', '--receipts', 'none'], /--receipts none does not exist/],
    [['inspect', '--receipts', 'src'], /--receipts src has no receipt/],
    [['with', 'production', '--receipt', 'dist/r.json'], /is in the output of ticket-desk, so it would ship/],
    [['with', 'production', '--receipt', 'src'], /--receipt src is a directory/],
    [['with', 'production', '--receipt', 'r.json', '--', 'node', '-e', ''], /r\.json has nothing to say/],
  ])('%j is an error', (args, error) => {
    const { code, stderr } = shop().adder(args);
    expect([code, stderr]).toEqual([2, expect.stringMatching(error)]);
  });

  test('a damaged one beside it is listed', () => {
    const project = shop();
    project.adder(['with', 'production', '--receipt', 'receipts/a.json']);
    project.write('receipts/b.json', '{');
    const { code, report } = project.json(['inspect', '--receipts', 'receipts']);
    expect([code, report.coverage.unread]).toEqual([
      3,
      [{ path: 'receipts/b.json', inside: [], because: 'is no receipt, is damaged, or is from a later version' }],
    ]);
  });
});
