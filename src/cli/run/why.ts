import { openProject } from '../../project/open.js';
import { why } from '../../project/why.js';
import type { WhyCall } from '../commands/why.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [name = ''], options, world }: WhyCall): Promise<number> {
  const project = openProject(world, options.contract);
  return printReport(await why(project, name, world), options, world, { project });
}
