import { Failure } from '../../core/findings/failure.js';
import { printOverview } from '../../core/report/text-overview.js';
import { overview } from '../../project/overview.js';
import type { OverviewCall } from '../commands/overview.js';
import { printOptions } from '../print-options.js';

/** Runs the command. @returns the exit code */
export async function run({ options, world }: OverviewCall): Promise<number> {
  const { contract, format, color } = options;
  if (format !== 'text' && format !== 'json')
    throw new Failure(`an overview has no format ${format}`, 'use --format text or --format json');
  const found = await overview(world, contract);
  const shape = printOptions({ color, quiet: false }, world.stdout, world.env);
  const text = format === 'json' ? `${JSON.stringify(found, null, 2)}\n` : printOverview(found, shape, world.now());
  world.stdout.write(text);
  return 0;
}
