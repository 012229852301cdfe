import { writtenNames } from '../core/contract/names.js';
import { Failure } from '../core/findings/failure.js';
import { mentionsOf, namesReadIn } from '../core/reads/mentions.js';
import type { WhyReport } from '../core/report/documents.js';
import { whyReport } from '../core/report/why.js';
import { nearest } from '../core/text/nearest.js';
import type { Files } from '../host/files.js';
import { newestReceipt } from '../host/state.js';
import { expandPaths, pathsBelow } from '../host/walk.js';
import { today, type World } from '../host/world.js';
import type { Project } from './open.js';
import { checkValues } from './values.js';

/**
 * Everything that is known of one name.
 * @throws Failure with the nearest names of contract, layers and code, where none of them has it
 */
export async function why(project: Project, name: string, world: World): Promise<WhyReport> {
  const { contract, root, files } = project;
  const check = checkValues(project, {}, world);
  const inLayers = check.parts
    .flatMap(({ resolutions }) => resolutions)
    .flatMap(({ undeclared }) => undeclared.map((one) => one.name));
  const code = await codeFiles(project);
  if (!contract.variables.has(name) && !inLayers.includes(name))
    throw unknownName(files, name, [...contract.variables.keys()], inLayers, code);
  const variable = contract.variables.get(name);
  return whyReport(
    contract,
    name,
    check,
    (bundle) => {
      const owner = contract.bundles.get(bundle);
      const written = owner && variable ? writtenNames(owner, variable) : [name];
      const { predicate } = newestReceipt(project, bundle).stored?.receipt ?? {};
      const built = predicate && {
        stage: predicate.stage,
        at: predicate.builtAt,
        places: predicate.values.find((value) => value.name === name)?.places ?? [],
        modules: predicate.values.find((value) => value.name === name)?.modules ?? [],
      };
      const places = (code.get(bundle) ?? []).flatMap((path) =>
        mentions(written, files.readIfPossible(path) ?? nothing).map((place) => ({
          path: files.shown(path, root),
          ...place,
        })),
      );
      return { code: places, ...(built && { built }) };
    },
    today(world),
  );
}

/** In the order of the file. */
function mentions(names: readonly string[], bytes: Uint8Array): { line: number; column: number }[] {
  const found = names.flatMap((name) => mentionsOf(name, bytes));
  return found.sort((a, b) => a.line - b.line || a.column - b.column);
}

async function codeFiles({ contract, root, files }: Project): Promise<Map<string, string[]>> {
  const entries = [...contract.bundles.values()].map(
    async ({ name, code }) => [name, pathsBelow(files, await expandPaths(files, code, root))] as const,
  );
  return new Map(await Promise.all(entries));
}

function unknownName(
  files: Files,
  name: string,
  declared: readonly string[],
  inLayers: readonly string[],
  code: ReadonlyMap<string, readonly string[]>,
): Failure {
  const inCode = [...code.values()].flat().flatMap((path) => namesReadIn(files.readIfPossible(path)?.toString() ?? ''));
  const near = [
    ['in the contract', nearest(name, declared)],
    ['in the layers', nearest(name, inLayers)],
    ['in the code', nearest(name, inCode)],
  ] as const;
  const found = near.filter(([, names]) => names.length > 0).map(([where, names]) => `${names.join(', ')} (${where})`);
  const remedy = found.length > 0 ? `did you mean ${found.join('; ')}?` : `known: ${declared.join(', ')}`;
  return new Failure(`"${name}" is not in the contract, the layers or the code`, remedy);
}

const nothing = Buffer.alloc(0);
