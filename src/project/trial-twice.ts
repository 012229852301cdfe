import { Writable } from 'node:stream';
import { variablesByName } from '../core/contract/names.js';
import { Failure } from '../core/findings/failure.js';
import { differing } from '../core/trial/difference.js';
import type { Arrival, Evidence } from '../core/trial/evidence.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import { type BuiltCopy, builtCopy, type CopyRequest } from './trial-copy.js';

/**
 * A build with what others show of its values without room for a marker: one with another value for all of them, and if their outputs
 * differ, one with the same values, whose differences mean nothing, and one for each value.
 */
export async function compared(project: Project, of: CopyRequest, first: BuiltCopy, world: World): Promise<BuiltCopy> {
  const names = first.evidence.unmarked;
  if (names.length === 0) return first;
  const groups = byVariable(project, names);
  const differences = async (changed: readonly string[], why: string) => {
    of.log.write(`adder: building again with ${why}\n`);
    const other = await builtAgain(project, { ...of, changed: new Set(changed) }, world);
    return other && differing(first.digests, other.digests);
  };
  const ofAll = await differences(names, 'other values');
  if (ofAll?.size === 0) return known(first, new Map(names.map((name) => [name, []])));
  const noise = await differences([], 'the same values');
  if (!noise) return first;
  const found = new Map<string, string[]>();
  for (const [title, group] of groups) {
    const own = groups.size === 1 ? ofAll : await differences(group, `another value of ${title}`);
    const paths = [...(own ?? [])].filter((path) => !noise.has(path)).sort();
    // A build that refused the value tells nothing, and a file that differs in any case may have the value as well.
    if (own && (paths.length > 0 || noise.size === 0)) for (const name of group) found.set(name, paths);
  }
  return known(first, found);
}

/** Names by the variable that they stand for: they have one value. */
function byVariable({ contract }: Project, names: readonly string[]): Map<string, string[]> {
  const variables = variablesByName(contract);
  const groups = new Map<string, string[]>();
  for (const name of names) {
    const title = variables.get(name)?.name ?? name;
    groups.set(title, [...(groups.get(title) ?? []), name]);
  }
  return groups;
}

/** A build may not take another value. Then nothing is known of it. */
async function builtAgain(project: Project, of: CopyRequest, world: World): Promise<BuiltCopy | undefined> {
  try {
    // The output of one build is enough.
    const log = new Writable({ write: (_chunk, _encoding, done) => done() });
    return await builtCopy(project, { ...of, log }, world);
  } catch (error) {
    if (error instanceof Failure) return undefined;
    throw error;
  }
}

function known(built: BuiltCopy, found: ReadonlyMap<string, readonly string[]>): BuiltCopy {
  const arrivals = [...found].flatMap(([name, paths]) =>
    paths.map(
      (path): Arrival => ({
        marker: { text: '', name, setAt: {} },
        ...{ path, inside: [], audience: 'browser', encoding: ['difference'] },
      }),
    ),
  );
  const evidence: Evidence = {
    ...built.evidence,
    unmarked: built.evidence.unmarked.filter((name) => !found.has(name)),
    compared: [...found.keys()],
    arrivals: [...built.evidence.arrivals, ...arrivals],
  };
  return { ...built, evidence };
}
