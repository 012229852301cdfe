import { EXIT, Failure } from '../core/failure.js';
import { findingLines } from '../core/report/text-findings.js';
import { count } from '../core/text/display.js';
import { type BuildOutcome, prepareBuild, runBuild, shownCommand } from '../project/build.js';
import { openProject } from '../project/open.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printOptions, printReport } from './print.js';

export const withValues = defineCommand({
  name: 'with',
  words: 'STAGE -- COMMAND...',
  arity: [0, 1],
  takesRest: true,
  about:
    'Runs a build with exactly the values that its bundle may have, and nothing else of this environment. Refuses when one is missing or malformed. Masks build and server values in the output, and writes a receipt of what was built.',
  options: [...reportOptions, 'bundle', 'color', 'debug'],
  examples: [
    ['adder with production -- npm run build', 'build the only bundle of the contract'],
    ['adder with staging --bundle ticket-desk -- npx vite build', 'one of several'],
  ],
  async run({ words: [stage], rest, options, world }) {
    const project = openProject(world.cwd, options.contract);
    if (stage === undefined)
      throw new Failure('no stage was named', `adder with ${[...project.contract.stages.keys()].join('|')} -- COMMAND`);
    if (rest.length === 0)
      throw new Failure('no command was given', `put it behind --, as in: adder with ${stage} -- npm run build`);
    const prepared = prepareBuild(
      project,
      { stage, command: rest, ...(options.bundle !== undefined && { bundle: options.bundle }) },
      world,
    );
    if (prepared.refused) {
      const code = await printReport(prepared.report, options, world, { contract: project.contract });
      world.stderr.write(`adder: not built: ${shownCommand(prepared, rest).join(' ')}\n`);
      return code === EXIT.fine ? EXIT.findings : code;
    }
    const { style, ...settings } = printOptions(options, world.stderr, world.env, project.contract);
    for (const line of findingLines(prepared.report.findings, { style, ...settings })) world.stderr.write(`${line}\n`);
    const outcome = await runBuild(project, prepared, rest, world);
    if (!options.quiet) world.stderr.write(`${style.dim(ending(outcome))}\n`);
    return outcome.code;
  },
});

function ending({ receiptPath, withoutReceipt, files = 0, signal, code }: BuildOutcome): string {
  if (receiptPath) return `adder: ${count(files, 'file')} built; receipt: ${receiptPath}`;
  const how = signal ? `ended by ${signal}` : `gave back ${code}`;
  return `adder: the command ${how}; no receipt: ${withoutReceipt}`;
}
