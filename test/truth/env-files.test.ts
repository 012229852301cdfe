import { spawnSync } from 'node:child_process';
import { appendFileSync } from 'node:fs';
import { decodeHTML } from 'entities';
import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { exposed, filesOf, names, type Project, projectsOf } from './env-files.js';

/** `npm run truth` sets more projects and another seed. */
const { ADDER_TRUTH_PROGRAMS, ADDER_TRUTH_SEED, ADDER_TRUTH_RESULTS } = process.env;
const count = Number(ADDER_TRUTH_PROGRAMS ?? 4);
const seed = Number(ADDER_TRUTH_SEED ?? 32);

type Seen = Record<string, string>;

interface Finding {
  code: string;
  message: string;
  variable?: string;
}

/** Builds a project as its script does, and runs or reads its page. Writes what arrived. */
const builder = `import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { build } from 'vite';
const [, , , mode] = process.argv;
await build({ mode, logLevel: 'silent' });
const seen = {};
globalThis.seen = (name, value) => { if (value !== undefined) seen[name] = value; };
for (const path of readdirSync('dist', { recursive: true }).filter((name) => name.endsWith('.js'))) await import(process.cwd() + '/dist/' + path);
writeFileSync('seen.json', JSON.stringify({ seen, page: readFileSync('dist/index.html', 'utf8') }));
`;

/** Everything that Adder says and that is not so. */
function differencesOf(project: Project): string[] {
  const { stage } = project;
  const folder = new TestProject({ ...filesOf(project), 'make.mjs': builder }).withPackages();
  const drafted = folder.adder(['draft']);
  if (drafted.code !== 0) return [`draft: ${drafted.stderr}`];
  const found: string[] = [];
  const plain = built(withoutLocalFiles(project), stage);
  const { report } = folder.json(['values', stage]);
  const stated = valuesOf(report.values);
  // Where programs read a line in several ways, Adder says so, and gives the build one of them.
  const isDisputed = (name: string) =>
    (report.findings as Finding[]).some(({ code, variable }) => code === 'value/ambiguous' && variable === name);
  for (const name of exposed(project))
    if (!isDisputed(name) && stated[name] !== plain[name])
      found.push(`values: ${name} is ${plain[name]}, not ${stated[name]}`);
  const withAdder = folder.adder(['with', stage, '--', 'node', 'make.mjs', '--mode', stage]);
  const arrived = withAdder.code === 0 ? seenIn(folder) : undefined;
  const lint = folder.json(['lint']).report.findings as Finding[];
  const atReads = lint.filter(({ code }) => /^code\/(unreachable-read|unknown-name|server-read|unset)$/.test(code));
  for (const name of names) {
    const isReported = atReads.some(
      ({ code, variable, message }) =>
        (variable === name || message.startsWith(`${name} `)) &&
        (code !== 'code/unset' || message.startsWith('no stage') || message.includes(stage)),
    );
    if (plain[name] === undefined && !isReported && arrived)
      found.push(`lint is silent about ${name}, which is not there`);
    if (plain[name] !== undefined && isReported) found.push(`lint reports ${name}, which is there`);
  }
  // A value that the contract forbids, or that is missing, stops the build.
  const stops = /^value\/(missing|widened|unknown-reference|empty)$/;
  const isRefused = (report.findings as Finding[]).some(({ code }) => stops.test(code));
  if (!arrived && !isRefused) found.push(`with: ${withAdder.stderr}`);
  for (const [name, value] of Object.entries(arrived ?? {}))
    if (value !== plain[name] && !isDisputed(name) && !withAdder.stderr.includes(name))
      found.push(`with: ${name} is ${value}`);
  for (const name of Object.keys(plain))
    if (arrived && !(name in arrived) && plain[name] !== '') found.push(`with: ${name} is missing`);
  return found.length === 0 ? [] : [...found, `plain: ${JSON.stringify(plain)}`, ...lint.map(({ message }) => message)];
}

/** A stage that ships has no file that only this machine has, and the tool would load them. */
function withoutLocalFiles(project: Project): TestProject {
  const files = project.files.filter(({ path }) => !path.endsWith('.local'));
  return new TestProject({ ...filesOf({ ...project, files }), 'make.mjs': builder }).withPackages();
}

function built(folder: TestProject, stage: string): Seen {
  const { status, stderr } = spawnSync(process.execPath, ['make.mjs', '--mode', stage], {
    cwd: folder.folder,
    encoding: 'utf8',
    env: { PATH: process.env.PATH },
  });
  if (status !== 0) throw new Error(stderr);
  return seenIn(folder);
}

/** The values that code noted, and those in the text and the attributes of the page. */
function seenIn(folder: TestProject): Seen {
  const { seen, page } = JSON.parse(folder.read('seen.json')) as { seen: Seen; page: string };
  for (const [, name = '', title, text = ''] of page.matchAll(/<p id="(\w+)"(?: title="([^"]*)")?>([^<]*)<\/p>/g)) {
    const value = title ?? text;
    if (value !== `%${name}%`) seen[name] = decodeHTML(value);
  }
  return Object.fromEntries(Object.entries(seen).sort());
}

/** The values by the names that code reads. */
function valuesOf(
  values: readonly { name: string; reach: string; value?: string; names: Record<string, string> }[],
): Seen {
  return Object.fromEntries(
    values.flatMap(({ name, value, names: byBundle }) => {
      const [own = name] = Object.values(byBundle);
      return value === undefined ? [] : [[own, value]];
    }),
  );
}

test(`values and lint say what a build with these env files gets, seed ${seed}`, { timeout: 36_000_000 }, () => {
  const projects = projectsOf({ seed, count });
  const wrong: string[] = [];
  let different = 0;
  for (const project of projects) {
    const found = differencesOf(project);
    if (found.length === 0) continue;
    different++;
    if (wrong.length < 5)
      wrong.push([JSON.stringify(project), ...found, JSON.stringify(filesOf(project), null, 1)].join('\n'));
  }
  if (ADDER_TRUTH_RESULTS !== undefined)
    appendFileSync(ADDER_TRUTH_RESULTS, `${JSON.stringify(['vite', projects.length, different, 'env files'])}\n`);
  expect(wrong.join('\n\n')).toBe('');
});
