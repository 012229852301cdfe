import type { Stage, Variable } from '../../core/contract/contract.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { count, displayText } from '../../core/text/display.js';
import type { World } from '../../host/world.js';
import { assertMayHold, localFile, problemOf, unfilled, writeValue } from '../../project/fill.js';
import { openProject, type Project, scopedProject, stageOf, variableOf } from '../../project/open.js';
import type { FillCall } from '../commands/fill.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [name], options, world }: FillCall): Promise<number> {
  const project = scopedProject(openProject(world, options.contract), options.bundle, world.cwd);
  const stages = [...project.contract.stages.keys()];
  if (name === undefined) throw new Failure('adder fill needs a stage', `usage: adder fill ${stages.join('|')}`);
  const stage = stageOf(project, name);
  const file = localFile(stage);
  const given = options['from-stdin'];
  if (given !== undefined) return fillOne(project, stage, file, variableOf(project, given), world);
  return fillAll(project, stage, file, world);
}

async function fillOne(
  project: Project,
  stage: Stage,
  file: string,
  variable: Variable,
  world: World,
): Promise<number> {
  assertMayHold(project, file, variable);
  // A program that prints a value ends it with a line break, which is not part of it.
  const text = (await world.stdin.text()).replace(/\r?\n$/, '');
  const problem = problemOf(variable, text, stage);
  if (problem)
    throw new Failure(
      `${variable.name} ${problem}; nothing was written`,
      `pass a valid ${variable.form.name} on standard input`,
    );
  writeValue(project, file, variable, text);
  world.stderr.write(`adder: wrote ${variable.name} to ${file}\n`);
  return EXIT.fine;
}

async function fillAll(project: Project, stage: Stage, file: string, world: World): Promise<number> {
  const variables = unfilled(project, stage, world);
  if (variables.length === 0) {
    world.stderr.write(`adder: no value is missing in ${stage.name}\n`);
    return EXIT.fine;
  }
  for (const variable of variables) assertMayHold(project, file, variable);
  if (!world.stdin.isTerminal) {
    throw new Failure(
      `${variables.map((variable) => variable.name).join(', ')} cannot be asked for: standard input is not a terminal`,
      'pass one value at a time with --from-stdin NAME',
    );
  }
  world.stderr.write(`${count(variables.length, 'value')} missing in ${stage.name}; each is written to ${file}\n\n`);
  for (const variable of variables) {
    const text = await ask(variable, stage, world);
    if (text === undefined) return EXIT.interrupted;
    writeValue(project, file, variable, text);
  }
  const left = unfilled(project, stage, world);
  world.stderr.write(
    left.length === 0
      ? `adder: ${stage.name} is complete\n`
      : `adder: still missing: ${left.map(({ name }) => name).join(', ')}\n`,
  );
  return left.length === 0 ? EXIT.fine : EXIT.findings;
}

/** Asks until the answer is valid. @returns undefined if the user ended it */
async function ask(variable: Variable, stage: Stage, world: World): Promise<string | undefined> {
  const { name, reach, form, about, example } = variable;
  const sample = example ?? (form.name === 'text' ? undefined : form.example);
  const facts = [form.name, about, reach === 'public' && sample !== undefined && `such as ${sample}`].filter(Boolean);
  world.stderr.write(`${displayText(`${name}, ${reach}: ${facts.join('; ')}`)}\n`);
  try {
    for (;;) {
      const text = await prompt(variable);
      const problem = problemOf(variable, text, stage);
      if (problem === undefined) return text;
      world.stderr.write(`  ${name} ${problem}; try again\n`);
    }
  } catch (error) {
    if (error instanceof Error && error.name === 'ExitPromptError') return undefined;
    throw error;
  }
}

/** Each question starts empty. Otherwise a refused answer, which was typed unseen, would precede the next one. */
async function prompt({ name, reach }: Variable): Promise<string> {
  if (reach !== 'public') return (await import('@inquirer/password')).default({ message: name });
  return (await import('@inquirer/input')).default({ message: name });
}
