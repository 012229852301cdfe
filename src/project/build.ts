import { blockers, childEnvironment, givenValues, readName } from '../core/build/environment.js';
import { toolFileFindings, toolFiles } from '../core/build/tool-files.js';
import type { Bundle, Stage } from '../core/contract/contract.js';
import { rulesOf } from '../core/contract/rules.js';
import { defines, definesPath } from '../core/emit/defines.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import type { Finding } from '../core/findings/finding.js';
import { judge, summarize } from '../core/findings/judge.js';
import type { Owner } from '../core/inspect/plan.js';
import { ArtifactSearch } from '../core/inspect/search.js';
import { type MaskPlan, planMask } from '../core/mask/plan.js';
import { TextMask } from '../core/mask/text-mask.js';
import { needlesFor } from '../core/needles/index.js';
import { weakness } from '../core/needles/weak.js';
import { fingerprint, type HeldPlace, makeReceipt } from '../core/receipt/receipt.js';
import type { GivenValue } from '../core/receipt/staleness.js';
import type { FindingsReport } from '../core/report/documents.js';
import { REPORT_VERSION } from '../core/report/version.js';
import { noFacts } from '../core/resolve/env-findings.js';
import type { ReadLayer } from '../core/resolve/layer.js';
import { readEnvFileLayer } from '../core/resolve/layers.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { PAGE_FILE } from '../core/runtime/runtime.js';
import { matcherFor } from '../core/search/matcher-for.js';
import { reveal } from '../core/secrets/secret.js';
import type { ChildCommand, ChildResult } from '../host/child.js';
import { FileArtifact } from '../host/file-artifact.js';
import { type Files, withSlashes } from '../host/files.js';
import { ShownPaths } from '../host/shown-paths.js';
import { assertStateIsUsable, ensureKey, readUses, storeReceipt } from '../host/state.js';
import { expandPaths, findFiles } from '../host/walk.js';
import { today, type World } from '../host/world.js';
import { VERSION } from '../version.js';
import { BundleOutput } from './bundle-output.js';
import { chooseBundle, type Project, packageFolder, stageOf } from './open.js';
import { StageResolver } from './resolve.js';

export interface BuildRequest {
  stage: string;
  bundle?: string | undefined;
}

/** A build that may start: its values are valid. */
export interface PreparedBuild {
  stage: Stage;
  bundle: Bundle | undefined;
  given: ReadonlyMap<string, GivenValue>;
  resolution: Resolution;
  /** The env files that the bundle's tool loads itself. */
  readByTool: readonly string[];
  /** What its output is masked with. */
  mask: MaskPlan;
  /** What is to be said about the values; a report with errors refuses the build. */
  report: FindingsReport;
  refused: boolean;
}

/** How a build ended, and what was written down about it. */
export interface BuildOutcome extends ChildResult {
  receiptPath?: string;
  /** Why there is no receipt. */
  withoutReceipt?: string;
  files?: number;
}

/**
 * Resolves the stage and checks the values of the bundle.
 * @throws Failure where the stage or bundle is not known, or a layer cannot be read
 */
export function prepareBuild(project: Project, request: BuildRequest, world: World): PreparedBuild {
  const { contract } = project;
  const stage = stageOf(project, request.stage);
  const bundle = chooseBundle(project, request.bundle);
  const { asked: resolution, all: resolutions } = new StageResolver(project, world).for(stage);
  const given = givenValues(contract, bundle, resolution);
  const files = bundle ? readToolFiles(project, bundle, stage) : [];
  const brought = bundle ? toolFileFindings({ contract, bundle, stage, given, files }) : [];
  const { findings } = judge([...resolution.findings, ...brought], rulesOf(contract), today(world), []);
  const inTheWay = blockers(contract, bundle, findings);
  const refused = inTheWay.length > 0;
  const said = refused
    ? inTheWay
    : findings.filter((one) => concernsBuild(one) && (given.has(one.variable ?? '') || one.bundle !== undefined));
  return {
    stage,
    bundle,
    given,
    resolution,
    readByTool: files.flatMap(({ path }) => path ?? []),
    mask: planMask(contract, resolution, resolutions),
    report: {
      report: REPORT_VERSION,
      kind: 'findings',
      command: 'with',
      stage: stage.name,
      findings: said,
      summary: summarize(said),
    },
    refused,
  };
}

/** The env files beside the bundle's code that its tool loads itself; none if the plugin turns that off. */
function readToolFiles(project: Project, bundle: Bundle, stage: Stage): ReadLayer[] {
  const { files, root } = project;
  const { join } = files.path;
  const folder = packageFolder(project, bundle.code[0] ?? '.');
  if (hasPlugin(files, join(root, folder))) return [];
  return toolFiles(bundle, stage.buildAs ?? 'production').flatMap((name) => {
    const path = withSlashes(join(folder, name), files.path);
    const bytes = files.readIfPossible(join(root, path));
    return bytes ? [readEnvFileLayer(path, path, bytes, noFacts)] : [];
  });
}

function hasPlugin(files: Files, folder: string): boolean {
  return files
    .namesIn(folder)
    .some(
      (name) =>
        /\.config\.[cm]?[jt]s$/.test(name) &&
        /["']adder\/\w+["']/.test(files.readIfPossible(files.path.join(folder, name))?.toString() ?? ''),
    );
}

/** How other programs read the files is no concern of a build that gets its values from Adder. */
function concernsBuild({ code, level }: Finding): boolean {
  return level !== 'note' && code !== 'value/ambiguous';
}

/** A command as it may be shown and kept: a value among its words is masked. */
export function shownCommand({ mask }: Pick<PreparedBuild, 'mask'>, command: readonly string[]): string[] {
  const secrets = new TextMask(matcherFor(mask.needles));
  return command.map((word) => secrets.mask(word));
}

/** Runs the command, and after a build that succeeded writes the receipt. */
export async function runBuild(
  project: Project,
  prepared: PreparedBuild,
  command: readonly string[],
  world: World,
  how: Pick<ChildCommand, 'stop' | 'output'> = {},
): Promise<BuildOutcome> {
  const { stage, bundle, given, mask } = prepared;
  const [program = '', ...args] = await filledIn(project, prepared, command);
  if (program === '') throw new Failure('the command is empty', 'write a command after --, such as: -- npm run build');
  // Report before the build what would prevent the receipt.
  if (bundle && bundle.output.length > 0) assertStateIsUsable(project, bundle.name);
  const started = Date.now();
  const before = await stampsOf(project, bundle);
  const env = childEnvironment(world.env, project.contract, stage, given, bundle);
  const result = await world.processes.run({ command: program, args, env, cwd: world.cwd, mask, ...how }, world);
  if (result.failedToStart) {
    throw new Failure(
      `the command "${shownCommand(prepared, [program])}" ${result.failedToStart}`,
      result.code === COMMAND_NOT_FOUND ? 'check its name and PATH' : 'check the command',
      result.code,
    );
  }
  if (result.code !== EXIT.fine) return { ...result, withoutReceipt: 'the command failed' };
  try {
    return { ...result, ...(await recordBuild(project, prepared, command, { started, before }, world)) };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    throw new Failure(
      `the build succeeded, but its receipt was not written: ${error.message}`,
      error.remedy,
      error.exitCode,
    );
  }
}

/** As shells have it. */
const COMMAND_NOT_FOUND = 127;

/** Stands in a command for the path of a file with the bundle's public values, as `adder emit defines` writes it. */
const DEFINES = '{defines}';
const STAGE = '{stage}';

async function filledIn(
  project: Project,
  { bundle, resolution }: PreparedBuild,
  command: readonly string[],
): Promise<string[]> {
  const { contract, root, files } = project;
  const words = command.map((word) => word.replaceAll(STAGE, resolution.stage.name));
  if (!bundle || !words.some((word) => word.includes(DEFINES))) return words;
  const path = files.path.join(root, definesPath(bundle.name, resolution.stage.name));
  ensureKey(project);
  files.write(path, defines.emit({ contract, bundle, resolution, withBuild: false, call: '' }), { root });
  return words.map((word) => word.replaceAll(DEFINES, path));
}

/** Without the file of a stage's values: it may be written within the build, and is another one for each stage. */
async function outputFiles(project: Project, bundle: Bundle): Promise<string[]> {
  const output = new BundleOutput(project, bundle);
  const { files, root } = project;
  return findFiles(files, await expandPaths(files, bundle.output, root)).files.filter(
    (path) => !PAGE_FILE.test(files.path.basename(path)) && output.audienceOf(path) !== 'cache',
  );
}

/** What tells whether a command wrote a file; no program sets the time of the last change of a file's entry at will. */
function stampOf(files: Files, path: string): string {
  const stats = files.stat(path);
  return stats ? `${stats.ctimeMs} ${stats.size}` : '';
}

async function stampsOf(project: Project, bundle: Bundle | undefined): Promise<Map<string, string>> {
  if (!bundle || bundle.output.length === 0) return new Map();
  return new Map((await outputFiles(project, bundle)).map((path) => [path, stampOf(project.files, path)]));
}

async function recordBuild(
  project: Project,
  { stage, bundle, given, mask }: PreparedBuild,
  command: readonly string[],
  { started, before }: { started: number; before: ReadonlyMap<string, string> },
  world: World,
) {
  if (!bundle) return { withoutReceipt: 'the contract has no bundle' };
  if (bundle.output.length === 0) return { withoutReceipt: `${bundle.name} has no output in the contract` };
  const { root } = project;
  const files = await outputFiles(project, bundle);
  if (files.length === 0) return { withoutReceipt: `${bundle.output.join(', ')} has no files` };
  const untouched = files.filter((path) => before.get(path) === stampOf(project.files, path));
  if (files.length === before.size && files.length === untouched.length)
    return { withoutReceipt: `the command wrote nothing to ${bundle.output.join(', ')}` };
  const key = ensureKey(project);
  const paths = ShownPaths.hiding(project.files, root, mask.needles);
  // Clocks of files are coarse.
  const uses = readUses(project, bundle.name, started - 1000);
  const places = await heldPlaces(files, given, stage, paths);
  const receipt = makeReceipt({
    bundle: bundle.name,
    stage: stage.name,
    builtAt: world.now().toISOString(),
    adder: VERSION,
    command: shownCommand({ mask }, command),
    values: [...given.values()].map(({ variable, value, from }) => ({
      name: variable.name,
      reach: variable.reach,
      readAs: readName(bundle, variable),
      fingerprint: fingerprint(key, variable.name, value),
      ...(from && {
        from: { layer: from.layer, ...(from.path && { path: from.path }), ...(from.line && { line: from.line }) },
      }),
      places: places.get(variable.name) ?? [],
      ...(uses && Object.hasOwn(uses, variable.name) && { modules: uses[variable.name] as string[] }),
    })),
    ...(untouched.length > 0 && { untouched: untouched.map((path) => paths.of(path)) }),
    digests: new Map(files.map((path) => [paths.of(path), project.files.digest(path)])),
  });
  return {
    receiptPath: project.files.shown(storeReceipt(project, receipt), root),
    files: files.length - untouched.length,
  };
}

/** Where the artifacts hold the public values that were given. */
async function heldPlaces(
  files: readonly string[],
  given: ReadonlyMap<string, GivenValue>,
  stage: Stage,
  paths: ShownPaths,
): Promise<Map<string, HeldPlace[]>> {
  const publicValues = [...given.values()].filter(
    ({ variable, value }) => variable.reach === 'public' && !weakness(reveal(value)),
  );
  const needles = needlesFor(
    publicValues.map(({ variable, value }) => {
      const owner: Owner = { role: 'present', variable: variable.name, reach: 'public', stage: stage.name };
      return { owner, value: reveal(value) };
    }),
  );
  const search = new ArtifactSearch({ needles, fragments: [], notSearched: [], masked: [] });
  const places = new Map<string, HeldPlace[]>();
  for (const file of files) {
    const artifact = new FileArtifact(file, 'browser', paths);
    for (const { owner, start, end } of await search.presentIn(artifact)) {
      const place = { path: artifact.name, offset: start, length: end - start };
      places.set(owner.variable, [...(places.get(owner.variable) ?? []), place]);
    }
  }
  return places;
}
