import { existsSync, readdirSync, readFileSync } from 'node:fs';
import type { TestProject } from '../support/adder.js';
import { browserPath } from '../support/browser.js';
import { MadeUpSite, type SiteFile } from '../support/site.js';
import { clean, contractWith, withLines } from './project.js';
import { type Beside, does, edit, type Situation } from './situation.js';

const key = 'made-up-fare-signing-key-of-the-tests-0001';
const build = 'adder with production';
const probe = 'probe URL --stage production';
const inspect = 'inspect --stage production';

/** The output of a project, as a server has it. */
function outputOf(at: TestProject): Record<string, SiteFile> {
  if (!existsSync(at.path('dist'))) return {};
  const names = readdirSync(at.path('dist'), { recursive: true, encoding: 'utf8' }).filter((name) =>
    /\.\w+$/.test(name),
  );
  const files = names.map((name) => [`/${name}`, { body: readFileSync(at.path('dist', name)) }] as const);
  return { ...Object.fromEntries(files), '/': Object.fromEntries(files)['/index.html'] as SiteFile };
}

type Files = Record<string, SiteFile>;

/** A server of the output. @param change what is wrong with it; it is so until somebody changes `wrong` */
function served(change: (files: Files) => Files, isLeft = false) {
  return async (at: TestProject): Promise<ServedSite> => {
    does(at, build);
    const site = await MadeUpSite.start(change(outputOf(at)));
    const beside: ServedSite = {
      url: site.url,
      change: isLeft ? change : (files) => files,
      deploy: () => {
        site.files = beside.change(outputOf(at));
      },
      stop: () => site.stop(),
    };
    return beside;
  };
}

interface ServedSite extends Beside {
  change: (files: Files) => Files;
}

/** Configures the server as a remedy says. */
function configure(beside: Beside | undefined, change: (files: Files) => Files): void {
  (beside as ServedSite).change = change;
}

/** Files with a header. */
function withHeader(files: Files, path: RegExp, name: string, value: string): Files {
  return Object.fromEntries(
    Object.entries(files).map(([at, file]) => {
      const whole = typeof file === 'string' ? { body: file } : file;
      return [at, path.test(at) ? { ...whole, headers: { ...whole.headers, [name]: value } } : file];
    }),
  );
}

const loaded = {
  ...clean,
  'adder.yaml': contractWith({ variables: '  MOOD: { reach: public, delivery: runtime }\n' }),
  ...withLines('.env', 'MOOD=calm'),
  ...withLines('.env.staging', 'MOOD=windy'),
  ...withLines('.env.production', 'MOOD=stormy'),
  'src/main.js': `${clean['src/main.js']}use(globalThis.adderValues.MOOD);\n`,
};
const withValues = `${build} && adder emit runtime --stage production --into dist`;

/** Every code about a served site and load-time values: one situation, and what its remedy says to do. */
export const ofSites: readonly Situation[] = [
  { code: 'serve/missing-file', variant: 'values', files: loaded, before: build, check: inspect },
  {
    code: 'serve/missing-file',
    variant: 'answer',
    files: clean,
    beside: served(({ '/assets/main.js': _, ...files }) => files),
    check: probe,
    says: /^deploy all files of one build/,
    follow: () => undefined,
  },
  {
    code: 'serve/late-runtime-file',
    variant: 'script',
    files: loaded,
    before: `${withValues} && sed -i 's,<script src="[./]*adder,<script async src="adder,' dist/index.html`,
    check: inspect,
  },
  {
    code: 'serve/blocked-runtime-file',
    variant: 'digest',
    files: loaded,
    before: `${withValues} && sed -i 's,sha384-....,sha384-AAAA,' dist/index.html`,
    check: inspect,
  },
  {
    code: 'serve/cached-runtime-file',
    variant: 'name',
    files: loaded,
    before: `${withValues} && mv dist/adder-values.*.js dist/adder-values.js && sed -i 's,adder-values[.0-9a-f]*js,adder-values.js,' dist/index.html`,
    check: inspect,
  },
  {
    code: 'serve/wrong-type',
    variant: 'page',
    files: clean,
    beside: served(({ '/assets/main.js': _, ...files }) => ({ ...files, '*': files['/'] as SiteFile })),
    check: probe,
    says: /^deploy all files of the build, and let the server answer paths of missing files with status 404/,
    follow: () => undefined,
  },
  {
    code: 'serve/cross-origin',
    variant: 'header',
    files: clean,
    beside: async (at) => {
      const assets = await MadeUpSite.start();
      const site = await served(
        (files) => ({ ...files, '/': `<script type="module" src="${assets.url}/assets/main.js"></script>` }),
        true,
      )(at);
      assets.files = outputOf(at);
      return {
        ...site,
        deploy: () => {
          assets.files = withHeader(outputOf(at), /./, 'access-control-allow-origin', site.url);
        },
        stop: async () => {
          await site.stop();
          await assets.stop();
        },
      };
    },
    check: probe,
    says: /^let 127\.0\.0\.1:\d+ send `access-control-allow-origin: http:\/\/127\.0\.0\.1:\d+`/,
    follow: () => undefined,
  },
  {
    code: 'serve/long-cache',
    variant: 'page',
    files: clean,
    beside: served((files) => withHeader(files, /^\/$/, 'cache-control', 'max-age=604800')),
    check: probe,
    says: /^send `cache-control: no-cache` for pages/,
    follow: (_, __, beside) => configure(beside, (files) => withHeader(files, /^\/$/, 'cache-control', 'no-cache')),
  },
  {
    code: 'serve/kept-by-worker',
    variant: 'values',
    files: {
      ...loaded,
      'src/sw.js': 'precache([{ url: "/env.js" }, { url: "/index.html" }]);\n',
      'src/main.js': `${loaded['src/main.js']}navigator.serviceWorker.register("/assets/sw.js");\n`,
    },
    beside: served(
      (files) => ({
        ...files,
        '/': '<script src="/env.js"></script><script type="module" src="/assets/main.js"></script>',
        '/env.js': { body: 'window.env = { MOOD: "stormy" };', headers: { 'cache-control': 'no-cache' } },
      }),
      true,
    ),
    check: probe,
    says: /^leave the values file out of the list/,
    follow: (at) => {
      edit(at, 'src/sw.js', '{ url: "/env.js" }, ', '');
      does(at, build);
    },
  },
  {
    code: 'serve/out-of-date',
    variant: 'older',
    files: clean,
    beside: async (at) => {
      const site = await served((files) => files)(at);
      does(at, `sed -i s,/v1,/v2, .env.production && ${build}`);
      return site;
    },
    check: probe,
    says: /^deploy the current build of desk/,
    follow: () => undefined,
  },
  {
    code: 'serve/mixed-builds',
    variant: 'files',
    files: {
      ...clean,
      'src/lazy.js': 'export const tides = import.meta.env.VITE_API_URL + "/tides";\n',
      'src/main.js': `${clean['src/main.js']}import("./lazy.js");\n`,
    },
    beside: async (at) => {
      const site = await served((files) => files)(at);
      const old = outputOf(at)['/assets/lazy.js'] as SiteFile;
      does(at, `sed -i s,/v1,/v2, .env.production && ${build}`);
      const wrong = { ...site, change: (files: Files) => ({ ...files, '/assets/lazy.js': old }) };
      configure(site, wrong.change);
      site.deploy?.();
      return site;
    },
    check: probe,
    says: /^finish the deployment/,
    follow: (_, __, beside) => configure(beside, (files) => files),
  },
  {
    code: 'serve/missing-file',
    variant: 'of-build',
    files: { ...clean, 'src/hidden.js': 'export const hidden = import.meta.env.VITE_API_URL;\n' },
    beside: served(({ '/assets/hidden.js': _, ...files }) => files),
    check: probe,
    says: /^deploy all files of the build$/,
    follow: () => undefined,
  },
  {
    code: 'serve/mixed-builds',
    variant: 'encoding',
    files: clean,
    beside: served((files) => {
      const page = files['/'] as { body: Buffer };
      return { ...files, '/': { body: page.body, compressed: `${page.body}<p>old</p>` } };
    }),
    check: probe,
    says: /^compress the files again after each build/,
    follow: () => undefined,
  },
  {
    code: 'serve/out-of-date',
    variant: 'not-declared',
    files: clean,
    beside: async (at) => {
      does(at, build);
      const old = outputOf(at);
      does(at, 'sed -i s,/v1,/v2, .env.production');
      return Object.assign(await served((files) => files)(at), { old });
    },
    check: `${probe} --build previous`,
    says: /^deploy the build of /,
    follow: (_, __, beside) => {
      const { old } = beside as ServedSite & { old: Files };
      configure(beside, () => old);
    },
  },
  {
    code: 'serve/env-file',
    variant: 'answer',
    files: clean,
    beside: served((files) => ({ ...files, '/.env.production': clean['.env.production'] as string })),
    check: probe,
    says: /^remove .*\.env\.production.* from what is served, serve only dist/,
    follow: () => undefined,
  },
  {
    code: 'serve/secret-in-answer',
    variant: 'header',
    files: clean,
    beside: served((files) => withHeader(files, /^\/$/, 'x-trace', key)),
    check: probe,
    says: /^remove it from the answer/,
    follow: () => undefined,
  },
  {
    code: 'serve/lost-in-browser',
    variant: 'value',
    files: {
      ...clean,
      'src/main.js': 'const env = {}; document.querySelector("h1").textContent = env.API_URL ?? "";\n',
    },
    env: { CHROMIUM: browserPath ?? '' },
    beside: served(
      (files) => ({
        ...files,
        '/': '<!doctype html><h1>https://api.saltmarsh.example/v1</h1><script type="module" src="/assets/main.js"></script>',
      }),
      true,
    ),
    check: `${probe} --browser --allow-incomplete`,
    says: /^read it in browser code as a public value: inlined/,
    follow: (at) => {
      edit(at, 'src/main.js', 'env.API_URL', 'import.meta.env.VITE_API_URL');
      does(at, build);
    },
  },
];
