// Uses Adder on projects that nobody here wrote: templates of the common frameworks, clean and with values and mistakes.
//   npm run field                 all of them; writes docs/support.md with the result
//   npm run field -- --quick      the fastest ones
//   npm run field -- nuxt angular these
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { cache, copyProgram, prepare, versionsIn } from './field/prepare.mjs';
import { projects } from './field/projects.mjs';
import { Field, steps } from './field/steps.mjs';

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
      await step(field);
      cells.push('yes');
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

copyProgram();
const rows = [];
let failed = 0;
for (const project of chosen) {
  try {
    const row = await tryOut(project);
    failed += row.failed;
    rows.push([project.name, row.version, ...row.cells]);
  } catch (error) {
    failed++;
    console.log(`${project.name}: ${error.message.slice(0, 1500)}`);
    rows.push([project.name, 'not installed']);
  }
}

const heads = ['project', 'version', ...Object.keys(steps)];
const table = [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
console.log(`\n${table}\n`);
if (names.length === 0 && !isQuick)
  writeFileSync(
    'docs/support.md',
    `<!-- Written by \`npm run field\`. -->
# Support

\`npm run field\` uses Adder on templates that the npm registry has for each framework, as a new user would: on the clean
template, then with several env files, a workflow, a Dockerfile, a read of a public variable, and mistakes. This is its last
result.

| step | what is checked |
| --- | --- |
| draft, values | the contract is valid and has the right toolchain; \`adder values\` has no errors |
| lint, inspect | nothing above a note on the clean template and its build |
| build | \`adder with production\` builds it |
| draft again | with env files: the right reach of each variable, no errors in any stage |
| lint again, inspect again | no false alarm |
| arrives | the stage's value is in the output, no other stage's |
| misspelt | \`adder lint\` reports a misspelt name, and \`--fix\` restores the file |
| leak | lint and inspect report a secret in browser code; after the fix they are silent |
| stale | inspect reports a changed value; a rebuild brings the new one |

${table}
`,
  );
process.exitCode = failed > 0 ? 1 : 0;
