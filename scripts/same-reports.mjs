// Compares the reports of two builds of Adder on the same projects, to show that a change of the code does not change them.
//   node scripts/same-reports.mjs BEFORE/dist/adder.cjs dist/adder.cjs DIR...
// Properties that only the second build has, and fingerprints, are not compared. Exits with 1 if something differs.
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { resolve as absolute, join } from 'node:path';
import { parse } from 'yaml';

const [before, after, ...folders] = process.argv.slice(2).map((path) => absolute(path));

/** Fields that may differ, or that were renamed. */
const ignored = new Set(['fingerprint', 'part', 'partialFingerprints']);
const renamed = { passedOver: 'skipped' };

function stagesOf(folder) {
  try {
    return Object.keys(parse(readFileSync(join(folder, 'adder.yaml'), 'utf8')).stages ?? {});
  } catch {
    return [];
  }
}

/** The command lines that are compared in a project. */
function callsFor(folder) {
  const stages = stagesOf(folder);
  const [first] = stages;
  const last = stages.at(-1);
  return [
    ['lint', '--format', 'json'],
    ['lint'],
    ['values', '--all', '--format', 'json'],
    ['draft', '--dry-run'],
    ['inspect', '--stage', last ?? 'production', '--format', 'json'],
    ...(last
      ? [
          ['gate', last, '--format', 'json'],
          ['gate', last],
          ['gate', last, '--format', 'sarif'],
        ]
      : []),
    ...(last && first !== last ? [['compare', first, last, '--format', 'json']] : []),
  ];
}

function run(program, args, cwd) {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [program, ...args], { cwd, env: { ...process.env, NO_COLOR: '1', CI: '' } });
    let [stdout, stderr] = ['', ''];
    child.stdout.on('data', (chunk) => (stdout += chunk));
    child.stderr.on('data', (chunk) => (stderr += chunk));
    child.once('close', (code) => resolve({ code, stdout, stderr }));
  });
}

/** Lists the paths at which two values differ; what only the second one has does not count. */
function differences(a, b, path = '') {
  if (a === b) return [];
  // A command became a list of words.
  if (typeof a === 'string' && Array.isArray(b)) return differences(a, b.join(' '), path);
  if (Array.isArray(a) && Array.isArray(b)) {
    if (a.length !== b.length) return [`${path}: ${a.length} items, ${b.length} items`];
    return a.flatMap((one, index) => differences(one, b[index], `${path}[${index}]`));
  }
  if (a && b && typeof a === 'object' && typeof b === 'object')
    return Object.keys(a)
      .filter((key) => !ignored.has(key))
      .flatMap((key) => differences(a[key], b[renamed[key] ?? key], `${path}.${key}`));
  return [`${path}: ${JSON.stringify(a)?.slice(0, 300)}\n      ${JSON.stringify(b)?.slice(0, 300)}`];
}

/** Text without what two runs or two sets of fingerprints make different. */
function comparable(text) {
  return text
    .replace(/\b[0-9a-f]{8}( [0-9a-f]{8})*( …)?(?!\w)/g, '#')
    .replace(/"(partialFingerprints|guid)"[\s\S]*?\}/g, '#');
}

function compared(one, two) {
  const codes = one.code === two.code ? [] : [`exit code ${one.code}, then ${two.code}: ${two.stderr.slice(0, 300)}`];
  try {
    return [...codes, ...differences(JSON.parse(one.stdout), JSON.parse(two.stdout))];
  } catch {
    const [a, b] = [one, two].map(({ stdout, stderr }) => comparable(stdout + stderr).split('\n'));
    const at = a.findIndex((line, index) => line !== b[index]);
    return at < 0 && a.length === b.length ? codes : [...codes, `line ${at + 1}: ${a[at]}\n      ${b[at]}`];
  }
}

let differing = 0;
let calls = 0;

async function work() {
  for (let folder = folders.shift(); folder; folder = folders.shift()) {
    for (const args of callsFor(folder)) {
      const [one, two] = [await run(before, args, folder), await run(after, args, folder)];
      calls++;
      const found = compared(one, two);
      if (found.length === 0) continue;
      differing++;
      console.log(`${folder}: adder ${args.join(' ')}\n  ${found.slice(0, 4).join('\n  ')}`);
    }
  }
}

await Promise.all([work(), work()]);
console.log(`${calls} calls, ${differing} of them differ`);
process.exitCode = differing > 0 ? 1 : 0;
