import { type ChangedValue, changedValues } from '../../core/build/changes.js';
import { Failure } from '../../core/findings/failure.js';
import { joinWords } from '../../core/text/nearest.js';
import { watchFiles } from '../../host/watch.js';
import type { World } from '../../host/world.js';
import { runBuild } from '../../project/build.js';
import { openProject, type Project, valueFilesOf } from '../../project/open.js';
import { type PreparedBuild, prepareBuild } from '../../project/preflight.js';
import { ending, refuse, reportPreflight, type WithOptions } from './with-steps.js';

interface Prepared {
  project: Project;
  prepared: PreparedBuild;
}

interface Restarting {
  command: readonly string[];
  options: WithOptions;
  world: World;
}

/** Runs a command, and restarts it after each change of the contract or a layer that changes its values, until it exits. */
export async function runAgain(first: Prepared, call: Restarting): Promise<number> {
  const { command, options, world } = call;
  if (first.prepared.refused) return refuse(first.project, first.prepared, command, options, world);
  reportPreflight(first.prepared, options, world);
  for (let current = first; ; ) {
    const stop = new AbortController();
    let next: Prepared | undefined;
    const unwatch = watchFiles(valueFilesOf(current.project, current.prepared.stage), () => {
      next = changed(call, current);
      if (next) stop.abort();
    });
    const outcome = await runBuild(current.project, current.prepared, command, world, { stop: stop.signal });
    await unwatch();
    if (!next) {
      if (!options.quiet) world.stderr.write(`${ending(outcome)}\n`);
      return outcome.code;
    }
    current = next;
  }
}

/** The next run, or undefined to keep the old one: nothing changed for it, or the new values are wrong. */
function changed({ options, command, world }: Restarting, current: Prepared): Prepared | undefined {
  let next: Prepared;
  try {
    const project = openProject(world, current.project.contractPath);
    const { name } = current.prepared.stage;
    next = { project, prepared: prepareBuild(project, { stage: name, bundle: options.bundle, command }, world) };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    world.stderr.write(`adder: ${error.message}; keeping the old values\n`);
    return undefined;
  }
  if (next.prepared.refused) {
    const wrong = next.prepared.report.findings.map(({ message }) => message);
    world.stderr.write(`adder: ${wrong.join('; ')}; keeping the old values\n`);
    return undefined;
  }
  const changes = changedValues(current.prepared.given, next.prepared.given);
  if (changes.length === 0) return undefined;
  world.stderr.write(`adder: ${joinWords(changes.map(describeChange))}; restarting\n`);
  return next;
}

function describeChange({ name, change, from, to }: ChangedValue): string {
  if (change !== 'changed') return `${name} was ${change === 'new' ? 'added' : 'removed'}`;
  return from !== undefined && to !== undefined ? `${name} changed from ${from} to ${to}` : `${name} changed`;
}
