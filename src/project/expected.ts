import type { Bundle } from '../core/contract/contract.js';
import { nameIn } from '../core/contract/names.js';
import type { Place } from '../core/findings/finding.js';
import { placed } from '../core/lint/model.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { readFrom } from '../core/toolchains/read-from.js';
import type { World } from '../host/world.js';
import { readCode } from './lint.js';
import type { Project } from './open.js';

/** The public variables that a bundle's shipped code reads at build time, by name, each with one place. */
export async function readPlaces(project: Project, bundle: Bundle, world: World): Promise<Map<string, Place>> {
  const { context } = await readCode(project, [bundle], world);
  const variables = [...project.contract.variables.values()].filter(({ reach }) => reach === 'public');
  const byName = new Map(variables.map((variable) => [nameIn(bundle, variable), variable.name]));
  const found = new Map<string, Place>();
  for (const path of context.bundles.flatMap(({ shipped }) => [...shipped.keys()])) {
    const file = context.files.get(path);
    for (const read of file?.reads ?? []) {
      const variable = read.name === undefined ? undefined : byName.get(read.name);
      if (!file || variable === undefined || found.has(variable) || read.kind === 'assigned') continue;
      if (isReplaced(bundle, read.object)) found.set(variable, placed(context, file, read.start, read.end).place);
    }
  }
  return found;
}

/** Whether the build puts the value in the place of a read; other ways give it when the app runs. */
function isReplaced(bundle: Bundle, object: string): boolean {
  if (toolchainOf(bundle).reads.find(({ from }) => from === object)?.time === 'run') return false;
  const from = readFrom(object);
  if (from?.kind === 'object') return /^(import\.meta|process)\.env$/.test(from.path);
  return from?.kind === 'module' || from?.kind === 'constant' || from?.kind === 'dart';
}
