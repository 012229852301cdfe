import { rulesOf } from '../core/contract/rules.js';
import { within } from '../core/files/within.js';
import { EXIT } from '../core/findings/failure.js';
import { gateReport } from '../core/report/gate.js';
import { today } from '../host/world.js';
import { checkAll } from '../project/gate.js';
import { openProject, stageOf } from '../project/open.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { needsContents, printReport } from './print.js';

export const gate = defineCommand({
  name: 'gate',
  positionals: [{ name: 'STAGE', help: 'The stage that ships', completes: 'stage' }],
  needs: { count: 1, what: 'a stage' },
  about:
    'Runs all checks for one stage in one call, for a pipeline: the values, the code and the repository, the built files with their receipts, the hosts of the contract, and with --probe the served sites. One report, one exit code.',
  options: [...reportOptions, 'where', 'caches', 'packages', 'probe', 'allow-incomplete', 'threads', 'color', 'debug'],
  examples: [
    ['adder gate production', 'all checks before production ships'],
    ['adder gate production --format html --save adder.html', 'as a page'],
    ['adder gate staging --fail-on warning', 'stricter'],
    ['adder gate production --probe', 'after the deployment'],
  ],
  async run({ words: [name = ''], options, world }) {
    const project = openProject(world, options.contract);
    const stage = stageOf(project, name);
    const { caches, packages, threads, probe } = options;
    const { parts, isStopped } = await checkAll(
      project,
      {
        stage: stage.name,
        caches,
        packages,
        probe,
        allowsWithoutValue: options['allow-incomplete'],
        contents: needsContents(options),
        ...(threads !== undefined && { threads }),
      },
      world,
    );
    const bundles = [...project.contract.bundles.values()].flatMap(({ name: bundle, output }) =>
      output.length > 0 ? { name: bundle, hasOutput: within(output) } : [],
    );
    const report = gateReport(stage.name, parts, bundles, rulesOf(project.contract), today(world));
    const code = await printReport(report, options, world, { project });
    return isStopped ? EXIT.interrupted : code;
  },
});
