// Uses Adder on projects that nobody here wrote: templates of the common frameworks, clean and with values and mistakes.
//   npm run field                 all of them; writes docs/support.md with the result
//   npm run field -- --quick      the fastest ones
//   npm run field -- nuxt angular these
// Two processes share the projects, as builds wait for the disk and for single threads.
import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { cache, copyProgram, prepare, versionsIn } from './field/prepare.mjs';
import { projects } from './field/projects.mjs';
import { Field, steps } from './field/steps.mjs';
import { writePart } from './field/support.mjs';

const words = process.argv.slice(2);
const isQuick = words.includes('--quick');
const names = words.filter((word) => !word.startsWith('--'));
const unknown = names.find((name) => !projects.some((one) => one.name === name));
if (unknown) throw new Error(`no project ${unknown}; known: ${projects.map(({ name }) => name).join(', ')}`);
const chosen = projects.filter(({ name, quick }) => (names.length > 0 ? names.includes(name) : !isQuick || quick));

/** All steps of one project. A step that fails does not end the others. @returns the row of the table */
async function tryOut(project) {
  const folder = prepare(project);
  const field = new Field(project, folder);
  const problems = [];
  const cells = [];
  for (const [name, step] of Object.entries(steps)) {
    try {
      const cell = await step(field);
      cells.push(cell === '' ? '' : 'yes');
    } catch (error) {
      cells.push('**no**');
      problems.push(`## ${name}\n${error.message}\n`);
      console.log(`${project.name}: ${name}: ${error.message.split('\n').slice(0, 12).join('\n  ')}`);
    }
  }
  writeFileSync(join(cache, `${project.name}.log`), [...problems, ...field.log].join('\n'));
  console.log(`${project.name}: ${cells.length - problems.length} of ${cells.length}`);
  return { cells, failed: problems.length, version: versionsIn(folder, project.shows) };
}

/** The rows of some projects, kept in the cache for the process that prints the table. */
async function work(some) {
  for (const project of some) {
    let row;
    try {
      row = await tryOut(project);
    } catch (error) {
      console.log(`${project.name}: ${error.message.slice(0, 1500)}`);
      row = { cells: [], failed: 1, version: 'not installed' };
    }
    writeFileSync(rowFile(project), JSON.stringify(row));
  }
}

function rowFile({ name }) {
  return join(cache, `${name}.row.json`);
}

/** @returns when another process has worked on some projects */
function share(some) {
  const args = [fileURLToPath(import.meta.url), ...some.map(({ name }) => name)];
  const child = spawn(process.execPath, args, { stdio: 'inherit', env: { ...process.env, ADDER_FIELD_SHARE: '1' } });
  return new Promise((resolve) => child.once('exit', resolve));
}

if (process.env.ADDER_FIELD_SHARE) {
  await work(chosen);
  process.exit(0);
}
mkdirSync(cache, { recursive: true });
copyProgram();
for (const project of chosen) rmSync(rowFile(project), { force: true });
const halves = [0, 1].map((half) => chosen.filter((_, index) => index % 2 === half)).filter(({ length }) => length > 0);
await Promise.all(halves.map(share));

const results = chosen.map((project) => ({ project, row: JSON.parse(readFileSync(rowFile(project), 'utf8')) }));
const failed = results.reduce((sum, { row }) => sum + row.failed, 0);
const rows = results.map(({ project, row }) => [project.name, row.version, ...row.cells]);
const heads = ['project', 'version', ...Object.keys(steps)];
const table = [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
console.log(`\n${table}\n`);
if (names.length === 0 && !isQuick)
  writePart(
    'field',
    `# Support

\`npm run field\` uses Adder on templates that the npm registry has for each framework, as a new user would: on the clean
template, then with several env files, a workflow, a Dockerfile, a read of a public variable, and mistakes. This is its last
result.

| step | what is checked |
| --- | --- |
| draft, values | the contract is valid and has the right toolchain; \`adder values\` has no errors |
| lint, inspect | nothing above a note on the clean template and its build |
| build | \`adder with production\` builds it |
| draft again | with env files: the right reach of each variable, no errors in any stage |
| draft by trial | the same by a build with made-up values: what arrives is public, the secret is not |
| lint again, inspect again | no false alarm |
| arrives | the stage's value is in the output, no other stage's |
| trial | made-up values arrive in the same files as the real value did, and the trial has nothing to say against the contract |
| opened | the page in Chromium has the value; empty for apps without a static page |
| misspelt | \`adder lint\` reports a misspelt name, and \`--fix\` restores the file |
| leak | lint and inspect report a secret in browser code; after the fix they are silent |
| stale | inspect reports a changed value; a rebuild brings the new one |

${table}
`,
  );
process.exitCode = failed > 0 ? 1 : 0;
