// Uses Adder on projects that nobody here wrote: templates of the common frameworks, clean and with values and mistakes.
//   npm run field                 all of them, and docs/support.md with the result
//   npm run field -- --quick      the fastest ones
//   npm run field -- nuxt angular these
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { cache, copyProgram, prepare } from './field/prepare.mjs';
import { projects } from './field/projects.mjs';
import { Field, steps } from './field/steps.mjs';

const words = process.argv.slice(2);
const isQuick = words.includes('--quick');
const names = words.filter((word) => !word.startsWith('--'));
const unknown = names.find((name) => !projects.some((one) => one.name === name));
if (unknown) throw new Error(`no project ${unknown}; known: ${projects.map(({ name }) => name).join(', ')}`);
const chosen = projects.filter(({ name, quick }) => (names.length > 0 ? names.includes(name) : !isQuick || quick));

copyProgram();
let failed = 0;
const rows = [];
for (const project of chosen) {
  const cells = {};
  const log = [];
  try {
    const field = new Field(project, prepare(project));
    for (const [name, step] of Object.entries(steps)) {
      try {
        await step(field);
        cells[name] = 'yes';
      } catch (error) {
        cells[name] = 'NO';
        failed++;
        log.push(`## ${name}\n${error.message}\n`);
        console.log(`${project.name}: ${name}: ${error.message.split('\n').slice(0, 12).join('\n  ')}`);
      }
    }
    writeFileSync(join(cache, `${project.name}.log`), [...log, ...field.log].join('\n'));
  } catch (error) {
    failed++;
    console.log(`${project.name}: ${error.message.slice(0, 1500)}`);
  }
  rows.push([project.name, ...Object.keys(steps).map((name) => cells[name] ?? '')]);
  console.log(
    `${project.name}: ${Object.values(cells).filter((cell) => cell === 'yes').length} of ${Object.keys(steps).length}`,
  );
}

const heads = ['project', ...Object.keys(steps)];
const table = [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
console.log(`\n${table}\n`);
process.exitCode = failed > 0 ? 1 : 0;
