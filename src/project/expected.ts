import type { Bundle } from '../core/contract/contract.js';
import { nameIn } from '../core/contract/names.js';
import type { Place } from '../core/findings/finding.js';
import { placed } from '../core/lint/model.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { readFrom } from '../core/toolchains/read-from.js';
import type { World } from '../host/world.js';
import { readCode } from './lint.js';
import type { Project } from './open.js';

/** How a bundle's shipped code reads public variables at build time. */
export interface CodeReads {
  /** One place of each variable that is read, by the variable's name. */
  places: Map<string, Place>;
  /** The modules that read each variable, by paths from the contract's directory. */
  modules: Map<string, string[]>;
  /** Whether no read can be missing: the code was parsed completely, and reads nothing by a computed name or as a whole. */
  isComplete: boolean;
}

/** Reads the code of a bundle, without checking it. */
export async function codeReads(project: Project, bundle: Bundle, world: World): Promise<CodeReads> {
  const { context, unread, passedOver } = await readCode(project, [bundle], world);
  const variables = [...project.contract.variables.values()].filter(({ reach }) => reach === 'public');
  const byName = new Map(variables.map((variable) => [nameIn(bundle, variable), variable.name]));
  const places = new Map<string, Place>();
  const modules = new Map<string, string[]>();
  const shipped = context.bundles.flatMap((one) => [...one.shipped.keys()]);
  let isComplete = shipped.length > 0 && unread.length + passedOver.length === 0;
  for (const path of shipped) {
    const file = context.files.get(path);
    if (!file || file.problem) isComplete = false;
    for (const read of file?.reads ?? []) {
      if (!file || !isReplaced(bundle, read.object)) continue;
      if (read.name === undefined) isComplete = false;
      const variable = byName.get(read.name ?? '');
      if (variable === undefined || read.kind === 'assigned') continue;
      if (!places.has(variable)) places.set(variable, placed(context, file, read.start, read.end).place);
      modules.set(variable, [...new Set([...(modules.get(variable) ?? []), path])]);
    }
  }
  return { places, modules, isComplete };
}

/** Whether the build puts the value in the place of a read; other ways give it when the app runs. */
function isReplaced(bundle: Bundle, object: string): boolean {
  if (toolchainOf(bundle).reads.find(({ from }) => from === object)?.time === 'run') return false;
  const from = readFrom(object);
  if (from?.kind === 'object') return /^(import\.meta|process)\.env$/.test(from.path);
  return from?.kind === 'module' || from?.kind === 'constant' || from?.kind === 'dart';
}
