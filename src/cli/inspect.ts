import { inspect } from '../project/inspect.js';
import { openProject } from '../project/open.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { printInspection } from './print.js';

export const inspectArtifacts = defineCommand({
  name: 'inspect',
  words: '[PATH...]',
  arity: [0, Number.POSITIVE_INFINITY],
  about:
    "What is in these artifacts that must not be? Looks for every build and server value in every encoding, for other stages' values, and for values that have changed since the build. Without paths: the outputs of the bundles.",
  options: [...reportOptions, 'stage', 'bundle', 'caches', 'packages', 'threads', 'color', 'debug'],
  examples: [
    ['adder inspect', 'the outputs of all bundles, for the stage that was built last'],
    ['adder inspect --stage production web/dist', 'one folder, whoever built it'],
    ['adder inspect --caches', 'and what the tools keep for their next build, which pipelines store'],
    ['adder inspect --format json --save report.json', 'the report for programs in a file, the summary here'],
  ],
  async run({ words, options, world }) {
    const project = openProject(world, options.contract);
    const { stage, bundle, threads } = options;
    const inspected = await inspect(
      project,
      {
        paths: words,
        caches: options.caches,
        packages: options.packages,
        ...(stage !== undefined && { stage }),
        ...(bundle !== undefined && { bundle }),
        ...(threads !== undefined && { threads }),
      },
      world,
    );
    return printInspection(inspected, options, world, project);
  },
});
