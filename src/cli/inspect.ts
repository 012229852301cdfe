import { Failure } from '../core/findings/failure.js';
import { inspect } from '../project/inspect.js';
import { openProject } from '../project/open.js';
import { defineCommand } from './command.js';
import { reportOptions } from './options.js';
import { needsContents, printInspection } from './print.js';

export const inspectArtifacts = defineCommand({
  name: 'inspect',
  positionals: [{ name: 'PATHS', help: "Files or directories (default: the bundles' outputs)" }],
  about:
    'Searches built files for build and server values in every encoding, for values of other stages, and for values that changed since the build. Archives, source maps and data: URIs are unpacked.',
  options: [
    ...reportOptions,
    'stage',
    'bundle',
    'where',
    'shard',
    'caches',
    'packages',
    'allow-incomplete',
    'threads',
    'color',
    'debug',
  ],
  examples: [
    ['adder inspect', 'the outputs of all bundles, for the stage of the last build'],
    ['adder inspect --stage production web/dist', 'one directory, built by any tool'],
    ['adder inspect --caches', 'include build caches, which pipelines may store'],
    ['adder inspect --shard 2/8 --format json --save part-2.json', 'one of eight parts'],
    ['adder inspect --format json --save report.json', 'JSON in a file, the summary on the terminal'],
  ],
  async run({ words, options, world }) {
    const project = openProject(world, options.contract);
    const { stage, bundle, threads, shard } = options;
    if (shard !== undefined && words.length > 0)
      throw new Failure(
        '--shard divides the outputs of the bundles, and paths were given too',
        'remove one of the two',
      );
    const [part = 1, of = 1] = shard?.split('/').map(Number) ?? [];
    const inspected = await inspect(
      project,
      {
        paths: words,
        caches: options.caches,
        packages: options.packages,
        contents: needsContents(options),
        ...(stage !== undefined && { stage }),
        ...(bundle !== undefined && { bundle }),
        ...(threads !== undefined && { threads }),
        ...(shard !== undefined && { part: { part, of } }),
      },
      world,
    );
    return printInspection(inspected, options, world, project);
  },
});
