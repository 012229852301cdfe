import { readdirSync, readFileSync } from 'node:fs';
import { expect } from 'vitest';
import { TestProject } from './adder.js';
import type { MadeUpSite, SiteFile } from './site.js';

/** Build and server variables of the shop. */
export const SECRETS = {
  FARE_SIGNING_KEY: 'made-up-signing-key-for-fares-0001',
  SOURCE_MAP_UPLOAD_TOKEN: 'made-up-upload-token-0001',
  API_TOKEN: 'made-up-api-token-of-quay-0001',
};

export const shopContract = `adder: 1
stages:
  staging: { layers: [.env.staging] }
  production: { layers: [.env.production] }
bundles:
  ticket-desk: { toolchain: vite, code: src, output: dist, build: node build.mjs }
variables:
  FERRY_API_URL: { reach: public }
  SOURCE_MAP_UPLOAD_TOKEN: { reach: build }
  FARE_SIGNING_KEY: { reach: server }
  API_TOKEN: { reach: server }
`;

export const envFile = (more: Record<string, string> = {}) =>
  Object.entries({ FERRY_API_URL: 'https://api.saltmarsh.example', ...SECRETS, ...more })
    .map(([name, value]) => `${name}='${value}'\n`)
    .join('');

/** A build with a page, a script, a lazy chunk and a map. */
export const builder = `import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
rmSync('dist', { recursive: true, force: true });
mkdirSync('dist/assets', { recursive: true });
const write = (name, text) => {
  const digest = createHash('sha256').update(text).digest('hex').slice(0, 8);
  writeFileSync('dist/assets/' + name + '-' + digest + '.js', text);
  return name + '-' + digest + '.js';
};
const lazy = write('lazy', 'export const map = "a ' + process.env.VITE_FERRY_API_URL + ' map";');
const main = write('main', 'fetch("' + process.env.VITE_FERRY_API_URL + '/fares");import("./' + lazy + '");');
writeFileSync('dist/index.html', '<!doctype html><html><head><script type="module" src="/assets/' + main + '"></script></head><body></body></html>');
`;

export function shop(files: Record<string, string> = {}): TestProject {
  return new TestProject({
    'adder.yaml': shopContract,
    '.env.production': envFile(),
    '.env.staging': envFile({ FERRY_API_URL: 'https://api.staging.saltmarsh.test' }),
    'src/main.ts': 'fetch(import.meta.env.VITE_FERRY_API_URL)',
    'build.mjs': builder,
    ...files,
  });
}

/** Builds, and returns the output as the files of a site. */
export function build(project: TestProject, stage = 'production'): Record<string, SiteFile> {
  const { code, stderr } = project.adder(['with', stage]);
  expect(code, stderr).toBe(0);
  return outputOf(project);
}

export function outputOf(project: TestProject): Record<string, SiteFile> {
  const names = readdirSync(project.path('dist'), { recursive: true, encoding: 'utf8' }).filter((name) =>
    /\.\w+$/.test(name),
  );
  const files = names.map((name) => [`/${name}`, { body: readFileSync(project.path('dist', name)) }] as const);
  return { ...Object.fromEntries(files), '/': Object.fromEntries(files)['/index.html'] as SiteFile };
}

/** Probes a site: finding codes with variable and path, and the three answers. */
export async function probed(
  project: TestProject,
  site: MadeUpSite,
  args: readonly string[] = [],
  { env = {}, assets = '\0' }: { env?: Record<string, string>; assets?: string } = {},
) {
  const ran = await project.adderBeside(['probe', `${site.url}/`, '--format', 'json', ...args], env);
  if (ran.stdout === '') throw new Error(`no report: ${ran.stderr}`);
  const report = JSON.parse(ran.stdout);
  const found = report.findings.map(
    ({ code, variable, place }: { code: string; variable?: string; place?: { path: string } }) =>
      [code, variable, place?.path.replace(site.url, '').replace(assets, 'ASSETS')].filter(Boolean).join(' '),
  );
  return { ran, report, found: found.sort() as string[], answers: answersOf(report) };
}

function answersOf({ answers }: { answers: Record<string, { answer: string }> }): string[] {
  return ['nothingLeaked', 'allThere', 'current'].map((question) => answers[question]?.answer ?? '');
}
