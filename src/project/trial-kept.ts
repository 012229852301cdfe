import { createHmac } from 'node:crypto';
import { Writable } from 'node:stream';
import type { Bundle } from '../core/contract/contract.js';
import { Failure } from '../core/findings/failure.js';
import { reveal } from '../core/secrets/secret.js';
import { type KeptTrial, keptText, parseKept } from '../core/trial/kept.js';
import { ensureKey, readState } from '../host/state.js';
import { removeLeftovers } from '../host/trial/copy.js';
import { Repository } from '../host/version-control.js';
import { filesNamed } from '../host/walk.js';
import type { World } from '../host/world.js';
import { VERSION } from '../version.js';
import { keptTrialPath } from './kept-paths.js';
import { type Project, stageOf } from './open.js';
import { StageResolver } from './resolve.js';
import { commandOf, type TrialRequest, trial, trialBundle } from './trial.js';
import { isLeftOut } from './trial-copy.js';

/** Result of a trial, and whether an earlier one was reused because nothing changed since. */
export interface TrialAtHand extends KeptTrial {
  isReused: boolean;
}

/**
 * The trial of a bundle: the last one if it was made from the same files by the same command, or else a new one, which is kept.
 * A trial with real values, or of the project itself, is not kept.
 * @param isNew whether to build in any case
 * @throws Failure if there is nothing to build, or the build fails
 */
export async function trialAtHand(
  project: Project,
  request: TrialRequest,
  world: World,
  isNew = false,
): Promise<TrialAtHand> {
  // A build in place has values of the files as well, and one with real values is of this machine.
  const isOwn = request.real.length > 0 || request.inPlace === true;
  const bundle = trialBundle(project, request, world);
  const kept = isNew || isOwn ? undefined : readKept(project, request, bundle);
  // The build may take long, and files may change meanwhile.
  const of = digestOf(project, withCommand(request, bundle, kept), bundle, world);
  if (kept?.of === of) {
    removeLeftovers();
    return { ...kept, isReused: true };
  }
  const command = commandOf(bundle, request);
  const result = await trial(project, { ...request, bundle: bundle.name }, world);
  const revision = Repository.at(project.root)?.revision();
  const made: KeptTrial = {
    ...result,
    ...{ of, command, isTwice: request.twice === true, madeAt: world.now().toISOString() },
    ...(revision && { commit: revision.id, isChanged: revision.dirty }),
  };
  if (!isOwn) project.files.write(keptTrialPath(project, made), keptText(made), { root: project.root });
  return { ...made, isReused: false };
}

/** The last trial of a bundle, if it followed as many values as is asked for. */
function readKept(project: Project, { stage, twice }: TrialRequest, { name }: Bundle): KeptTrial | undefined {
  const kept = parseKept(readState(project, keptTrialPath(project, { stage, bundle: name })) ?? '');
  return twice && !kept?.isTwice ? undefined : kept;
}

/** Without a command of its own, a request is for the bundle's build, or else for what the last trial ran. */
function withCommand(request: TrialRequest, { build }: Bundle, kept: KeptTrial | undefined): TrialRequest {
  return { ...request, command: request.command ?? build ?? kept?.command };
}

/**
 * The current trials of bundles in all stages.
 * @throws Failure if there is none
 */
export function currentTrials(project: Project, bundles: readonly Bundle[], world: World): KeptTrial[] {
  const stages = [...project.contract.stages.keys()];
  const found = bundles.flatMap((bundle) =>
    stages.flatMap((stage) => {
      const request = { ...noRequest, stage, bundle: bundle.name };
      const kept = readKept(project, request, bundle);
      if (!kept) return [];
      return kept.of === digestOf(project, withCommand(request, bundle, kept), bundle, world) ? [kept] : [];
    }),
  );
  if (found.length > 0) return found;
  throw new Failure(
    'there is no trial of this code as it is now',
    `run \`adder trial ${stages.at(-1)}\`, and lint again`,
  );
}

const noRequest = { real: [], log: new Writable() };

/**
 * Digest of all that a trial is made from: files without outputs and packages, the stage's values, and the command (HMAC-SHA-256
 * with the project's key, RFC 2104: some of it is secret).
 */
function digestOf(project: Project, request: TrialRequest, bundle: Bundle, world: World): string {
  const { files, root } = project;
  const top = Repository.at(root)?.top ?? root;
  const hmac = createHmac('sha256', ensureKey(project));
  const isSkipped = isLeftOut(project);
  const add = (...parts: (string | Uint8Array)[]) => {
    for (const part of parts) hmac.update(`${part.length} `).update(part);
  };
  add(VERSION, process.version, request.stage, bundle.name, ...commandOf(bundle, request));

  for (const path of filesNamed(
    files,
    top,
    () => true,
    (one) => isSkipped(files.path.join(top, one)),
  ).sort())
    add(path, files.readIfPossible(files.path.join(top, path)) ?? '');
  const { asked } = new StageResolver(project, world).for(stageOf(project, request.stage));
  for (const [name, { value }] of asked.values) add(name, value ? reveal(value) : '');
  return hmac.digest('hex');
}
