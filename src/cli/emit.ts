import { type EmitKind, emitKinds } from '../core/emit/index.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { runtimeFile } from '../core/runtime/runtime.js';
import { escapeControls } from '../core/text/display.js';
import { suggest } from '../core/text/nearest.js';
import { today, type World } from '../host/world.js';
import { mergeLaunchInto } from '../project/launch.js';
import { neededBundle, openProject, type Project, stageOf } from '../project/open.js';
import { Resolver } from '../project/resolve.js';
import { assertInOrder, runtimeChanges, writeRuntime } from '../project/runtime.js';
import { defineCommand } from './command.js';
import { saveOutput } from './save.js';

export const emit = defineCommand({
  name: 'emit',
  words: 'KIND',
  arity: [0, 1],
  about: 'Writes a file for others, of one of these kinds:',
  kinds: emitKinds.map(({ name, summary }) => [name, summary] as const),
  meanings: {
    stage: 'The stage whose values or needs are meant',
    bundle: 'The bundle that the file is for; default: the only one of the contract',
    save: 'Write the file there, and print nothing',
  },
  options: [
    'contract',
    'stage',
    'bundle',
    'side',
    'with-values',
    'with-build',
    'as',
    'into',
    'save',
    'replace',
    'check',
    'color',
    'debug',
  ],
  examples: [
    ['adder emit types --save web/src/env.d.ts', 'the names of the only bundle, for the editor'],
    ['adder emit types --save web/src/env.d.ts --check', 'exit code 1 when the file is not up to date'],
    ['adder emit module --side server --save server/values.ts', 'accessors for the server'],
    ['adder emit module --with-values --stage staging --save src/values.staging.ts', 'for a builder that swaps files'],
    ['adder emit runtime --stage production --into web/dist', 'one build, the values of this stage'],
    ['adder emit launch --into .vscode', 'a stage is picked from a list in the editor'],
    ['adder emit needs --stage production --as env', 'what has to be set in pipeline and host'],
  ],
  async run({ words: [name], options, world }) {
    const kind = emitKinds.find((one) => one.name === name);
    if (!kind) {
      const known = emitKinds.map((one) => one.name);
      throw new Failure(
        name === undefined ? 'no kind was named' : `there is no kind "${name}"`,
        name === undefined ? `known: ${known.join(', ')}` : suggest(name, known),
      );
    }
    const forms = ['text', ...(kind.forms ?? [])];
    if (!forms.includes(options.as))
      throw new Failure(`${kind.name} is not written as ${options.as}`, `known for it: ${forms.join(', ')}`);
    if (options['with-values'] && (kind.name !== 'module' || options.side === 'server'))
      throw new Failure('--with-values is for the public module', 'adder emit module --with-values --stage STAGE');
    const project = openProject(world, options.contract);
    if (options.into !== undefined && kind.name === 'launch')
      return configure(project, options.into, options.check, world);
    const text = kind.emit({
      contract: project.contract,
      ...(kind.needs.includes('bundle') && { bundle: neededBundle(project, options.bundle) }),
      ...((kind.needs.includes('stage') || options['with-values']) && {
        resolution: resolutionFor(project, kind, options.stage, world),
      }),
      side: options.side,
      withValues: options['with-values'],
      withBuild: options['with-build'],
      as: options.as,
      call: callOf(kind, options),
    });
    if (options.into !== undefined) return deliver(project, kind, options, world);
    if (options.check) return check(options.save, text, world);
    if (options.save === undefined) world.stdout.pass(escapeControls(text));
    else {
      const { save, replace, 'with-build': isSecret } = options;
      saveOutput(text, { path: save, replace, isSecret, project }, world);
    }
    return EXIT.fine;
  },
});

/** Puts the runtime values of a stage into a build's output; with --check only says whether they are there. */
async function deliver(
  project: Project,
  kind: EmitKind,
  {
    into = '',
    stage,
    bundle: name,
    check,
  }: { into?: string | undefined; stage?: string | undefined; bundle?: string | undefined; check: boolean },
  world: World,
): Promise<number> {
  if (kind.name !== 'runtime')
    throw new Failure(
      `--into is for adder emit runtime and launch, not for ${kind.name}`,
      'write the file with --save',
    );
  const bundle = neededBundle(project, name);
  const resolution = resolutionFor(project, kind, stage, world);
  assertInOrder(project, bundle, resolution, today(world));
  const changes = runtimeChanges(
    world.files,
    world.files.path.resolve(world.cwd, into),
    runtimeFile(project.contract, bundle, resolution),
  );
  if (!check) writeRuntime(world.files, changes, project.root);
  const what = toldOf(changes.length > 0, check);
  world.stderr.write(`adder: the values of ${resolution.stage.name} in ${into} ${what}\n`);
  return check && changes.length > 0 ? EXIT.findings : EXIT.fine;
}

/** Merges run configurations into an editor's folder; with --check only says whether they are there. */
async function configure(project: Project, into: string, check: boolean, world: World): Promise<number> {
  const isNew = await mergeLaunchInto(project, world.files.path.resolve(world.cwd, into), check);
  world.stderr.write(`adder: the run configurations in ${into} ${toldOf(isNew, check)}\n`);
  return check && isNew ? EXIT.findings : EXIT.fine;
}

function toldOf(isNew: boolean, check: boolean): string {
  if (!isNew) return 'are in place';
  return check ? 'are not up to date; the same call without --check writes them' : 'are written';
}

function resolutionFor(project: Project, { name }: EmitKind, stage: string | undefined, world: World) {
  const stages = [...project.contract.stages.keys()].join('|');
  if (stage === undefined)
    throw new Failure(`${name} is made for a stage, and none was named`, `add --stage ${stages}`);
  return new Resolver(project, world).for(stageOf(project, stage)).asked;
}

/** Says whether a written file is up to date, and writes nothing. */
function check(path: string | undefined, text: string, world: World): number {
  if (path === undefined) throw new Failure('--check needs to know the file', 'name it with --save FILE');
  const file = world.files.path.resolve(world.cwd, path);
  const isSame = world.files.readIfPossible(file)?.toString() === text;
  world.stderr.write(
    isSame
      ? `adder: ${path} is up to date\n`
      : `adder: ${path} is not up to date; the same call without --check writes it\n`,
  );
  return isSame ? EXIT.fine : EXIT.findings;
}

function callOf(
  { name, needs }: EmitKind,
  {
    bundle,
    stage,
    side,
    as,
    'with-values': withValues,
  }: { bundle?: string | undefined; stage?: string | undefined; side: string; as: string; 'with-values': boolean },
): string {
  const parts = ['adder emit', name];
  if (needs.includes('bundle') && bundle !== undefined) parts.push(`--bundle ${bundle}`);
  if (withValues) parts.push('--with-values');
  if ((needs.includes('stage') || withValues) && stage !== undefined) parts.push(`--stage ${stage}`);
  if (name === 'module' && side === 'server') parts.push('--side server');
  if (as !== 'text') parts.push(`--as ${as}`);
  return parts.join(' ');
}
