import { type EmitKind, type EmitRequest, emitKinds } from '../../core/emit/index.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { runtimeFile } from '../../core/runtime/runtime.js';
import { escapeControls } from '../../core/text/display.js';
import { isGenerated } from '../../core/text/generated.js';
import { echoed, suggest } from '../../core/text/nearest.js';
import { today, type World } from '../../host/world.js';
import { withoutEffect } from '../../project/ambient.js';
import { mergeLaunchInto } from '../../project/launch.js';
import { sourcePaths } from '../../project/lint.js';
import { neededBundle, openProject, type Project, projectFor, scopedProject, stageOf } from '../../project/open.js';
import { pipelineSettings } from '../../project/pipelines.js';
import { StageResolver } from '../../project/resolve.js';
import { assertInOrder, runtimeChanges, writeRuntime } from '../../project/runtime.js';
import { sharedFiles } from '../../project/shared-files.js';
import type { EmitCall } from '../commands/emit.js';
import { saveOutput } from '../save.js';

type Options = EmitCall['options'];

/** Runs the command. @returns the exit code */
export async function run({ words: [name], options, world }: EmitCall): Promise<number> {
  const listed = kindOf(name);
  const kind = options['with-values'] ? (listed.withValues ?? noValues(listed)) : listed;
  checkOptions(kind, options);
  const project = openProject(world, options.contract);
  if (options.into !== undefined && kind.delivery === 'editor')
    return configure(project, options.into, options.check, world);
  if (options.into !== undefined) return deliver(project, kind, options, world);
  const request = requestFor(project, kind, options, world);
  const byHand = options.replace ? undefined : handMade(kind, options.save, world);
  const text = byHand === undefined ? kind.emit(request) : (kind.addTo?.(byHand, request) ?? '');
  if (options.check) return check(options.save, text, world);
  if (options.save === undefined) world.stdout.pass(escapeControls(text));
  else {
    const { save, replace, 'with-build': isSecret } = options;
    saveOutput(text, { path: save, replace: replace || byHand !== undefined, isSecret, project }, world);
    if (kind.name === 'types') warnOfEffect(project, save, world);
  }
  return EXIT.fine;
}

/** The text of a file that somebody wrote by hand, and that a kind can add to. */
function handMade({ addTo }: EmitKind, save: string | undefined, world: World): string | undefined {
  if (!addTo || save === undefined) return undefined;
  const file = world.files.path.resolve(world.cwd, save);
  const text = world.files.readIfPossible(file)?.toString();
  return text === undefined || text.trim() === '' || isGenerated(text) ? undefined : text;
}

/** Declarations that no TypeScript configuration includes have no effect. */
function warnOfEffect({ files, root }: Project, path: string, world: World): void {
  const because = withoutEffect(files, files.path.resolve(world.cwd, path), root);
  if (because === undefined) return;
  world.stderr.write(`adder: ${path} has no effect: ${because}\n  → save it below a directory that it includes\n`);
}

function kindOf(name: string | undefined): EmitKind {
  const known = emitKinds.map((one) => one.name);
  if (name === undefined) throw new Failure('adder emit needs a kind', `known: ${known.join(', ')}`);
  const kind = emitKinds.find((one) => one.name === name);
  if (kind) return kind;
  const shown = echoed(name, known);
  throw new Failure(shown ? `unknown kind ${shown}` : 'unknown kind', suggest(name, known));
}

function noValues({ name }: EmitKind): never {
  throw new Failure(
    `--with-values does not apply to adder emit ${name}`,
    'usage: adder emit module --with-values --stage STAGE',
  );
}

/** Options that a kind does not take would have no effect. */
function checkOptions(kind: EmitKind, { side, as, into, 'with-build': withBuild }: Options): void {
  const formats = ['text', ...(kind.formats ?? [])];
  if (!formats.includes(as))
    throw new Failure(`adder emit ${kind.name} has no format ${as}`, `known: ${formats.join(', ')}`);
  const refused = [
    side !== 'public' && !kind.takes.includes('side') && '--side',
    withBuild && !kind.takes.includes('withBuild') && '--with-build',
    into !== undefined && kind.delivery === undefined && '--into',
  ].find((one) => one !== false);
  if (refused !== undefined)
    throw new Failure(
      `${refused} does not apply to adder emit ${kind.name}`,
      refused === '--into' ? 'use --save FILE to write the file' : `remove ${refused}`,
    );
}

/** Everything that a kind takes, and nothing else. */
function requestFor(project: Project, kind: EmitKind, options: Options, world: World): EmitRequest {
  const { contract } = project;
  const { bundle, stage, side, as: format, 'with-build': withBuild } = options;
  const given = { contract, side, format, withBuild, call: callOf(kind, options) };
  return {
    ...given,
    ...(kind.takes.includes('bundle') && { bundle: neededBundle(project, bundle, world.cwd) }),
    ...(kind.takes.includes('resolution') && {
      resolution: resolutionFor(scopedProject(project, bundle, world.cwd), kind, stage, world),
    }),
    ...(kind.takes.includes('language') && { language: languageOf(project, options, world) }),
    ...(kind.takes.includes('isShared') && { isShared: sharedFiles(project) }),
    ...(kind.takes.includes('provided') && stage !== undefined && { provided: pipelineSettings(project, stage) }),
  } as EmitRequest;
}

/** The language of a file by its ending; of what is printed, by the files of the bundle's package. */
function languageOf(project: Project, { save, bundle: name }: Options, world: World): EmitRequest['language'] {
  const ending = /\.([cm]?)([jt])sx?$/.exec(save ?? '');
  if (ending?.[1] === 'c')
    throw new Failure(`${save} is a CommonJS file, and this kind writes an ES module`, 'save it as .js, .mjs or .ts');
  if (ending) return ending[2] === 'j' ? 'javascript' : 'typescript';
  const { paths } = sourcePaths(project, [neededBundle(project, name, world.cwd)]);
  const isPlain = paths.some((path) => /\.m?jsx?$/.test(path)) && !paths.some((path) => /\.[cm]?tsx?$/.test(path));
  return isPlain ? 'javascript' : 'typescript';
}

/** Puts the runtime values of a stage into a build's output; with --check, reports whether they are there. */
function deliver(
  project: Project,
  kind: EmitKind,
  { into = '', stage, bundle: name, check }: Options,
  world: World,
): number {
  const bundle = neededBundle(project, name, world.cwd);
  const resolution = resolutionFor(projectFor(project, bundle), kind, stage, world);
  assertInOrder(project, bundle, resolution, today(world));
  const directory = world.files.path.resolve(world.cwd, into);
  const changes = runtimeChanges(world.files, directory, runtimeFile(project.contract, bundle, resolution));
  if (!check) writeRuntime(world.files, changes, project.root);
  const state = describeState(changes.length > 0, check);
  world.stderr.write(`adder: the ${resolution.stage.name} values in ${into} ${state}\n`);
  return check && changes.length > 0 ? EXIT.findings : EXIT.fine;
}

/** Merges run configurations into an editor's directory; with --check, reports whether they are there. */
async function configure(project: Project, into: string, check: boolean, world: World): Promise<number> {
  const isNew = await mergeLaunchInto(project, world.files.path.resolve(world.cwd, into), check);
  world.stderr.write(`adder: the run configurations in ${into} ${describeState(isNew, check)}\n`);
  return check && isNew ? EXIT.findings : EXIT.fine;
}

function describeState(isNew: boolean, check: boolean): string {
  if (!isNew) return 'are up to date';
  return check ? 'are out of date; run the same command without --check to write them' : 'were written';
}

function resolutionFor(project: Project, { name }: EmitKind, stage: string | undefined, world: World) {
  const stages = [...project.contract.stages.keys()].join('|');
  if (stage === undefined) throw new Failure(`adder emit ${name} needs a stage`, `add --stage ${stages}`);
  return new StageResolver(project, world).for(stageOf(project, stage)).asked;
}

/** Reports whether a file is up to date; writes nothing. */
function check(path: string | undefined, text: string, world: World): number {
  if (path === undefined) throw new Failure('--check needs a file', 'add --save FILE');
  const file = world.files.path.resolve(world.cwd, path);
  const isSame = world.files.readIfPossible(file)?.toString() === text;
  world.stderr.write(
    isSame
      ? `adder: ${path} is up to date\n`
      : `adder: ${path} is out of date; run the same command without --check to write it\n`,
  );
  return isSame ? EXIT.fine : EXIT.findings;
}

/** The command that makes the file again. */
function callOf({ name, takes }: EmitKind, { bundle, stage, side, as, 'with-values': withValues }: Options): string {
  const parts = ['adder emit', name];
  if (takes.includes('bundle') && bundle !== undefined) parts.push(`--bundle ${bundle}`);
  if (withValues) parts.push('--with-values');
  if (takes.includes('resolution') && stage !== undefined) parts.push(`--stage ${stage}`);
  if (takes.includes('side') && side === 'server') parts.push('--side server');
  if (as !== 'text') parts.push(`--as ${as}`);
  return parts.join(' ');
}
