import { Failure } from '../core/findings/failure.js';
import { allValuesReport, valuesReport } from '../core/report/values.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { today, type World } from '../host/world.js';
import { bundleOf, openProject, stageOf, variableOf } from '../project/open.js';
import { Resolver } from '../project/resolve.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printReport } from './print.js';

export const values = defineCommand({
  name: 'values',
  words: '(STAGE [NAME...] | --all)',
  arity: [0, Number.POSITIVE_INFINITY],
  about: 'What will each variable be in a stage, and where does it come from? Public values are shown, others masked.',
  options: [...reportOptions, 'all', 'bundle', 'reveal', 'color', 'debug'],
  examples: [
    ['adder values production', 'every variable of the stage, with the problems'],
    ['adder values staging FERRY_API_URL', 'one of them'],
    ['adder values production --bundle ticket-desk', 'the names as the code of a bundle reads them'],
    ['adder values --all', 'every stage in one call, and what to do first'],
    ['adder values production --format json', 'for programs'],
  ],
  async run({ words: [stageName, ...only], options, world }) {
    const project = openProject(world, options.contract);
    const { contract } = project;
    if (options.all) {
      if (stageName !== undefined)
        throw new Failure(`--all is for every stage, and "${stageName}" was named`, 'leave out one of the two');
      const { all, findings } = new Resolver(project, world).each();
      for (const resolution of all) letThrough(resolution, options.reveal, world);
      return printReport(
        allValuesReport(contract, all, findings, { today: today(world), revealed: options.reveal }),
        options,
        world,
        { project, isSecret: options.reveal.length > 0 },
      );
    }
    if (stageName === undefined)
      throw new Failure('no stage was named', `adder values ${[...contract.stages.keys()].join('|')}`);
    const stage = stageOf(project, stageName);
    const bundle = options.bundle === undefined ? undefined : bundleOf(project, options.bundle).name;
    for (const name of [...only, ...options.reveal]) variableOf(project, name);
    const { asked: resolution } = new Resolver(project, world).for(stage);
    letThrough(resolution, options.reveal, world);
    const report = valuesReport(contract, resolution, { today: today(world), bundle, only, revealed: options.reveal });
    return printReport(report, options, world, { project, isSecret: options.reveal.length > 0 });
  },
});

/** Values that were asked for by name may leave. */
function letThrough({ values }: Resolution, names: readonly string[], world: World): void {
  for (const name of names) {
    const { value } = values.get(name) ?? {};
    if (value) world.outlet.reveal(reveal(value));
  }
}
