import { join } from 'node:path';
import { type ChangedValue, changedValues } from '../core/build/changes.js';
import { Failure } from '../core/failure.js';
import { joinWords } from '../core/text/nearest.js';
import { watchFiles } from '../host/watch.js';
import type { World } from '../host/world.js';
import { type PreparedBuild, prepareBuild, runBuild } from '../project/build.js';
import { openProject, type Project } from '../project/open.js';
import type { OptionValues, reportOptions } from './options.js';
import { ending, refuse, sayFindings } from './with.js';

interface Restarting {
  contractPath: string;
  stage: string;
  command: readonly string[];
  options: OptionValues<(typeof reportOptions)[number] | 'inspect' | 'color' | 'bundle'>;
  world: World;
}

/** Runs a command, and again after each change of the contract or a layer that gives it other values, until it ends by itself. */
export async function runAgain(call: Restarting): Promise<number> {
  const { command, options, world } = call;
  let current = prepare(call);
  if (current.prepared.refused) return refuse(current.project, current.prepared, command, options, world);
  sayFindings(current.project, current.prepared, options, world);
  for (;;) {
    const stop = new AbortController();
    let next: Prepared | undefined;
    const unwatch = watchFiles(watchedBy(current), () => {
      next = changed(call, current);
      if (next) stop.abort();
    });
    const outcome = await runBuild(current.project, current.prepared, command, world, stop.signal);
    await unwatch();
    if (!next) {
      if (!options.quiet) world.stderr.write(`${ending(outcome)}\n`);
      return outcome.code;
    }
    current = next;
  }
}

interface Prepared {
  project: Project;
  prepared: PreparedBuild;
}

function prepare({ contractPath, stage, command, options: { bundle }, world }: Restarting): Prepared {
  const project = openProject(world.cwd, contractPath);
  return {
    project,
    prepared: prepareBuild(project, { stage, command, ...(bundle !== undefined && { bundle }) }, world),
  };
}

function watchedBy({ project, prepared }: Prepared): string[] {
  const layers = prepared.stage.layers.flatMap((layer) =>
    layer.kind === 'file' ? [join(project.root, layer.name)] : [],
  );
  return [project.contractPath, ...layers];
}

/** What is to run now, or undefined where the old run goes on: nothing changed for it, or the new values are not in order. */
function changed(call: Restarting, current: Prepared): Prepared | undefined {
  const { world } = call;
  let next: Prepared;
  try {
    next = prepare(call);
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    world.stderr.write(`adder: ${error.message}; the run goes on with the old values\n`);
    return undefined;
  }
  if (next.prepared.refused) {
    const wrong = next.prepared.report.findings.map(({ message }) => message);
    world.stderr.write(`adder: ${wrong.join('; ')}; the run goes on with the old values\n`);
    return undefined;
  }
  const changes = changedValues(current.prepared.given, next.prepared.given);
  if (changes.length === 0) return undefined;
  world.stderr.write(`adder: ${joinWords(changes.map(told))}; starting again\n`);
  return next;
}

function told({ name, change, from, to }: ChangedValue): string {
  if (change !== 'changed') return `${name} ${change === 'new' ? 'is new' : 'is gone'}`;
  return from !== undefined && to !== undefined ? `${name} is ${to} now, was ${from}` : `${name} has changed`;
}
