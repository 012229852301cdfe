import { Failure } from '../../core/findings/failure.js';
import { inspect } from '../../project/inspect.js';
import { openProject, withReceipts } from '../../project/open.js';
import type { InspectCall } from '../commands/inspect.js';
import { needsContents, printInspection } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words, options, world }: InspectCall): Promise<number> {
  const project = withReceipts(openProject(world, options.contract), options.receipts, world);
  const { stage, bundle, threads, shard } = options;
  if (shard !== undefined && words.length > 0)
    throw new Failure('--shard divides the outputs of the bundles, and paths were given too', 'remove one of the two');
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
}
