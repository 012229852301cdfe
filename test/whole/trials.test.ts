import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, TestProject } from '../support/adder.js';

/** A project that no toolchain of Adder describes, and the truth: what a build with real values has in which files. */
interface Unusual {
  files: Record<string, string>;
  bundles: string;
  bundle?: string;
  command: string[];
  output: string;
  /** Names of env files, each with a value that occurs nowhere else. */
  values: Record<string, string>;
  /** Names that no browser file may have. */
  secrets: readonly string[];
}

const vite = 'node_modules/vite/bin/vite.js';
const own = `const envOf = (path) => Object.fromEntries(readFileSync(path, 'utf8').split('\\n').filter(Boolean).map((line) => line.split('=')));\n`;
const lines = (values: Record<string, string>) =>
  Object.entries(values)
    .map(([name, value]) => `${name}=${value}\n`)
    .join('');

const docs = {
  DOCS_URL: 'https://docs.saltmarsh.example',
  SEARCH_KEY: 'search-key-9f8a7b6c5d4e',
  DEPLOY_TOKEN: 'deploy-token-1a2b3c4d5e6f',
};
const shop = {
  API_URL: 'https://api.saltmarsh.example',
  MAP_ID: 'map-of-the-islands-31',
  LEDGER_WORD: 'ledger-word-8fj2kd9fk2',
};
const worker = { QUEUE_URL: 'https://queue.saltmarsh.example', FARE_KEY: 'fare-key-9fk20dkq8fj2' };
const front = {
  VITE_API_URL: 'https://api.saltmarsh.example',
  VITE_PIER: 'north-pier-of-the-island',
  FARE_KEY: 'fare-key-71jd92kd83',
};

const projects: Record<string, Unusual> = {
  'a documentation site with custom fields': {
    values: docs,
    secrets: ['DEPLOY_TOKEN'],
    bundles: 'guide: { toolchain: other, code: [docs], output: [build] }',
    command: ['node', 'build.mjs'],
    output: 'build',
    files: {
      '.env': lines(docs),
      'docs/index.js': 'console.log("guide")\n',
      'site.config.mjs': `import { readFileSync } from 'node:fs';\n${own}const env = envOf('.env');
export default { url: env.DOCS_URL, customFields: { search: { key: env.SEARCH_KEY, host: env.DOCS_URL } }, deploy: () => env.DEPLOY_TOKEN };\n`,
      'build.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
import config from './site.config.mjs';
mkdirSync('build/assets', { recursive: true });
writeFileSync('build/assets/main.0f3a91c2.js', 'window.site=' + JSON.stringify({ customFields: config.customFields }));
writeFileSync('build/index.html', '<link rel="canonical" href="' + config.url + '">');
writeFileSync('build/sitemap.xml', '<loc>' + config.url + '</loc>');\n`,
    },
  },
  'a framework of another language with a settings script and sed': {
    values: shop,
    secrets: ['LEDGER_WORD'],
    bundles: 'shop: { toolchain: other, code: [static], output: [public] }',
    command: ['sh', 'settings.sh'],
    output: 'public',
    files: {
      '.env': lines(shop),
      'static/app.js': 'fetch(window.settings.api)\n',
      'settings.tmpl': 'window.settings = { api: "@API@", map: "@MAP@" };\n',
      'settings.sh': `set -e
set -a; . ./.env; set +a
mkdir -p public
cp static/app.js public/app.js
sed -e "s#@API@#$API_URL#" -e "s#@MAP@#$(printf %s "$MAP_ID" | base64)#" settings.tmpl > public/settings.js
test -n "$LEDGER_WORD"\n`,
    },
  },
  'a worker with a front end': {
    values: worker,
    secrets: ['FARE_KEY'],
    bundles: `front: { toolchain: other, code: [front], output: [dist/front] }
  worker: { runs: server, toolchain: other, code: [worker], output: [dist/worker] }`,
    bundle: 'front',
    command: ['node', 'build.mjs'],
    output: 'dist',
    files: {
      'worker/.env': lines(worker),
      'front/main.js': 'console.log(QUEUE_URL)\n',
      'worker/main.js':
        'export default { fetch: () => sign(FARE_KEY, QUEUE_URL) }; const sign = (...all) => all.join();\n',
      'build.mjs': `import { readFileSync } from 'node:fs';
import { build } from 'esbuild';
${own}const env = envOf('worker/.env');
const define = (...names) => Object.fromEntries(names.map((name) => [name, JSON.stringify(env[name])]));
await build({ entryPoints: ['front/main.js'], bundle: true, outdir: 'dist/front', define: define('QUEUE_URL'), sourcemap: true });
await build({ entryPoints: ['worker/main.js'], bundle: true, format: 'esm', outdir: 'dist/worker', define: define('QUEUE_URL', 'FARE_KEY') });\n`,
    },
  },
  'a monorepo with a shared package of settings': {
    values: front,
    secrets: ['FARE_KEY'],
    bundles: 'web: { toolchain: vite, code: [apps/web, packages/settings], output: [apps/web/dist] }',
    command: ['node', vite, 'build', 'apps/web'],
    output: 'apps/web/dist',
    files: {
      '.env': lines(front),
      'package.json': '{ "name": "quay", "private": true, "type": "module", "workspaces": ["apps/*", "packages/*"] }',
      'packages/settings/package.json': '{ "name": "@quay/settings", "type": "module", "exports": "./index.js" }',
      'packages/settings/index.js': 'export const settings = { api: import.meta.env.VITE_API_URL };\n',
      'apps/web/package.json': '{ "name": "web", "type": "module" }',
      'apps/web/index.html': '<!doctype html><title>%VITE_PIER%</title><script type="module" src="/main.js"></script>',
      'apps/web/main.js': "import { settings } from '../../packages/settings/index.js';\nconsole.log(settings.api);\n",
      'apps/web/vite.config.js': "export default { envDir: '../..', build: { sourcemap: true } };\n",
    },
  },
};

function contractOf({ bundles, values, secrets }: Unusual): string {
  const layer = values === worker ? 'worker/.env' : '.env';
  const variables = Object.keys(values).map((name) => `  ${name}: ${secrets.includes(name) ? 'server' : 'public'}\n`);
  return `adder: 1\nstages: { production: { layers: [${layer}] } }\nbundles:\n  ${bundles}\nvariables:\n${variables.join('')}`;
}

const stable = (path: string) => path.replace(/[-.][\w-]{8}(?=\.js)/, '');

/** `NAME in path`, for each value that is in a file as it is or in base64. */
function really({ values, output }: Unusual, at: TestProject): string[] {
  const paths = readdirSync(at.path(output), { recursive: true, encoding: 'utf8' }).filter((path) =>
    statSync(at.path(output, path)).isFile(),
  );
  return Object.entries(values).flatMap(([name, value]) =>
    paths
      .filter((path) => {
        const text = readFileSync(at.path(output, path), 'utf8');
        return text.includes(value) || text.includes(Buffer.from(value).toString('base64'));
      })
      .map((path) => `${name} in ${stable(join(output, path))}`),
  );
}

describe.each(Object.entries(projects))('%s', (_, project) => {
  const at = new TestProject({ ...project.files, 'adder.yaml': contractOf(project) }).withPackages();
  const words = ['trial', 'production', '--format', 'json', ...(project.bundle ? ['--bundle', project.bundle] : [])];
  const tried = at.adderProcess([...words, '--', ...project.command], {}, { timeout: 120_000 });
  const report = JSON.parse(tried.stdout || '{}');

  test('made-up values arrive where real ones do', () => {
    expect(existsSync(at.path(project.output))).toBe(false);
    const [program = '', ...args] = project.command;
    execFileSync(program, args, { cwd: at.folder, env: bareEnvironment(), stdio: 'pipe' });
    const arrivals: string[] = report.rows.flatMap(
      ({ name, arrivesIn }: { name: string; arrivesIn: { path: string; audience: string }[] }) =>
        arrivesIn
          .filter(({ path, audience }) => audience !== 'elsewhere' && !path.includes(' → '))
          .map(({ path }) => `${name} in ${stable(path)}`),
    );
    const real = really(project, at);
    expect(real.length).toBeGreaterThan(1);
    expect([...new Set(arrivals)].sort()).toEqual([...new Set(real)].sort());
  });

  test('each came from the file that sets it, and no secret gets to a browser', () => {
    const shown = report.rows.flatMap(({ arrivesIn }: { arrivesIn: { from: string }[] }) =>
      arrivesIn.map(({ from }) => from),
    );
    expect(shown.every((from: string) => /\.env:\d/.test(from))).toBe(true);
    expect(report.findings.filter(({ level }: { level: string }) => level === 'error')).toEqual([]);
  });
});
