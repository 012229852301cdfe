import { otherConfiguration } from '../core/build/built-configuration.js';
import { kindOfCommand } from '../core/build/command.js';
import { modeIn, shellReads } from '../core/build/command-files.js';
import { buildErrors, canStopBuild, environmentNames, givenValues } from '../core/build/environment.js';
import { envFileOptions, loadedFileFindings } from '../core/build/loaded-files.js';
import { toolFileFindings, toolFiles } from '../core/build/tool-files.js';
import type { Bundle, Stage } from '../core/contract/contract.js';
import { belongsTo } from '../core/contract/names.js';
import { rulesOf } from '../core/contract/rules.js';
import type { Origin } from '../core/evaluate/value.js';
import { lastName } from '../core/files/directories.js';
import type { CheckResult } from '../core/findings/check.js';
import { finding, type JudgedFinding, type RawFinding } from '../core/findings/finding.js';
import { judge, summarize } from '../core/findings/judge.js';
import { fallsBack, stageChoices, unsetFallbacks } from '../core/lint/rules/stage-switch.js';
import { type MaskPlan, planMask } from '../core/mask/plan.js';
import type { GivenValue } from '../core/receipt/serves-both.js';
import type { FindingsReport } from '../core/report/documents.js';
import { REPORT_VERSION } from '../core/report/version.js';
import { worded } from '../core/report/worded.js';
import { noFacts } from '../core/resolve/env-findings.js';
import type { ReadLayer } from '../core/resolve/layer.js';
import { readEnvFileLayer } from '../core/resolve/layers.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { textPlaces } from '../core/text/positions.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { isForeignName, isPipelineName } from '../core/toolchains/known-names.js';
import type { BuildSettings } from '../core/toolchains/settings.js';
import type { WorkspaceApplication } from '../core/toolchains/toolchain.js';
import { withSlashes } from '../host/files.js';
import { today, type World } from '../host/world.js';
import type { Check } from './check.js';
import { chooseBundle, type Project, packageFolder, projectFor, stageOf } from './open.js';
import { otherScopes, StageResolver } from './resolve.js';
import { bundleSettings, hasPlugin, linesOfCommand, shellScripts, toolConfigs } from './tool-configs.js';

export interface BuildRequest {
  stage: string;
  bundle?: string | undefined;
  /** The words of the command; the bundle's own one if absent. */
  command?: readonly string[] | undefined;
}

/** The values of a build, and what is wrong with them. */
export interface BuildCheck extends CheckResult {
  stage: Stage;
  bundle: Bundle | undefined;
  given: ReadonlyMap<string, GivenValue>;
  resolution: Resolution;
  /** The env files that the bundle's tool loads itself. */
  readByTool: readonly string[];
  /** Needles that mask the build's output. */
  mask: MaskPlan;
}

/** A build that may start, or is refused. */
export interface PreparedBuild extends BuildCheck {
  /** Problems of the values. With an error, the build is refused. */
  report: FindingsReport;
  refused: boolean;
}

/** Checks the values that a build gets, and the env files that its tool loads itself. */
export const checkBuild: Check<BuildRequest, BuildCheck> = (whole, request, world) => {
  const chosen = chooseBundle(whole, request.bundle, world.cwd);
  const command = request.command ?? chosen?.build;
  const bundle = chosen && withServerPart(whole, chosen, command ?? []);
  const project = projectFor(whole, bundle);
  const { contract } = project;
  const stage = stageOf(project, request.stage);
  const { asked: resolution, all: resolutions } = new StageResolver(project, world).for(stage);
  const given = givenValues(contract, bundle, resolution);
  const configured = bundle && configurationOf(project, bundle, command);
  const files = bundle && configured ? toolLayers(project, bundle, stage, configured) : [];
  const ofTool = bundle ? toolFileFindings({ contract, bundle, stage, given, files }) : [];
  const stops = canStopBuild(contract, bundle);
  return {
    stage,
    bundle,
    given,
    resolution,
    readByTool: files.flatMap(({ path }) => path ?? []),
    mask: planMask(contract, resolution, [...resolutions, ...otherScopes(whole, bundle, world)]),
    findings: [
      ...resolution.findings,
      ...ofTool,
      ...(bundle && configured
        ? configurationFindings(project, bundle, stage, { given, command, configured }, world)
        : []),
    ].filter((one) => stops(one) || one.bundle !== undefined),
    groups: [],
  };
};

/** One process of a framework serves its pages and runs its server part, so it needs the values of both. */
function withServerPart(project: Project, bundle: Bundle, command: readonly string[]): Bundle {
  if (bundle.runs === 'server' || kindOfCommand(command) === 'build') return bundle;
  const folderOf = ({ code }: Bundle) => packageFolder(project, code[0] ?? '.');
  const serverPart = [...project.contract.bundles.values()].find(
    (one) => one.runs === 'server' && one.toolchain === bundle.toolchain && folderOf(one) === folderOf(bundle),
  );
  return serverPart && bundle.toolchain !== 'other' ? { ...bundle, serverPart } : bundle;
}

/** Checks a build, and decides whether it may start. */
export function prepareBuild(project: Project, request: BuildRequest, world: World): PreparedBuild {
  const { contract } = project;
  const check = checkBuild(project, request, world);
  const { stage, bundle, given } = check;
  const { findings } = judge(check.findings, rulesOf(contract), today(world), check.groups);
  const starts = bundle?.build === undefined || (request.command ?? bundle.build).join(' ') !== bundle.build.join(' ');
  const errors = buildErrors(contract, bundle, findings, starts);
  const refused = errors.length > 0;
  const reported = refused
    ? errors
    : findings.filter((one) => concernsBuild(one) && (given.has(one.variable ?? '') || one.bundle !== undefined));
  return {
    ...check,
    report: {
      report: REPORT_VERSION,
      kind: 'findings',
      command: 'with',
      stage: stage.name,
      findings: reported.map((one) => worded(one)),
      summary: summarize(reported),
    },
    refused,
  };
}

/**
 * Finds what the bundle's build configuration reads and does not get: names that are set here and withheld, and the name of a
 * stage, for which it takes another stage.
 */
function configurationFindings(
  project: Project,
  bundle: Bundle,
  stage: Stage,
  {
    given,
    command,
    configured: { settings },
  }: Pick<BuildCheck, 'given'> & Pick<BuildRequest, 'command'> & { configured: Configured },
  world: World,
): RawFinding[] {
  const { contract } = project;
  const { withheld } = environmentNames(world.env, contract, stage, given, bundle);
  const isMissing = (name: string) =>
    withheld.includes(name) && !contract.variables.has(name) && (isPipelineName(name) || !isForeignName(name));
  const at = ({ path, start }: Origin) => {
    const text = project.files.readIfPossible(project.files.path.join(project.root, path))?.toString() ?? '';
    return { bundle: bundle.name, place: { path, inside: [], ...textPlaces(text)(start) } };
  };
  const shell = shellScripts(project, bundle, command);
  const inShell = shell.flatMap(({ path, text }) =>
    [...shellReads(text)].map(([name, start]) => [name, { path, start, end: start }] as const),
  );
  const reads = new Map([...inShell, ...settings.reads]);
  const withheldNames = [...reads].filter(([name]) => isMissing(name));
  // A framework's configuration may name what its server reads later.
  const ofServer = bundle.serverPart ? [] : [...reads].filter(([name]) => isOfServer(contract, bundle, name));
  const falling = unsetFallbacks(settings).filter((one) =>
    fallsBack(one, contract, bundle, stage, given.has(one.name)),
  );
  const inCommand = envFileOptions((command ?? []).join(' ')).map((file) => ({ file, by: command?.[0] ?? '' }));
  const inScripts = shell.flatMap(({ path, text }) =>
    envFileOptions(text).map((file) => ({ file, at: { path, start: text.indexOf(file), end: 0 } })),
  );
  const inFiles = [...settings.loads, ...inScripts].map(({ file, at: origin }) => ({
    file,
    by: lastName(origin.path),
    place: at(origin).place,
  }));
  const files = [...inFiles, ...inCommand].flatMap(({ file, ...by }) => {
    const layer = layerBeside(project, bundle, file);
    return layer ? [{ layer, ...by }] : [];
  });
  return [
    ...workspaceFindings(project, bundle, stage, command),
    ...loadedFileFindings({ contract, bundle, stage, given, files }),
    ...withheldNames.map(([name, origin]) =>
      finding('value/withheld', 'name', { path: lastName(origin.path), name }, at(origin)),
    ),
    ...ofServer.map(([name, origin]) =>
      finding('value/withheld', 'server', { path: lastName(origin.path), variable: name }, at(origin)),
    ),
    ...falling.map(({ name, text, at: origin }) =>
      finding('code/fallback', 'stage', { name, text, stages: [stage.name] }, at(origin)),
    ),
  ];
}

/** A command that builds the configuration of another stage, in a workspace whose configurations exchange files of values. */
function workspaceFindings(
  project: Project,
  bundle: Bundle,
  stage: Stage,
  command: readonly string[] | undefined,
): RawFinding[] {
  const { workspace } = toolchainOf(bundle);
  const { files, root, contract } = project;
  const folder = packageFolder(project, bundle.code[0] ?? '.');
  const text = workspace && files.readIfPossible(files.path.join(root, folder, workspace.file))?.toString();
  if (!workspace || text === undefined || !command) return [];
  const isBuilt = ({ output }: WorkspaceApplication) => bundle.output.some((one) => one.endsWith(output));
  const all = workspace.applications(text);
  const application = all.find(isBuilt) ?? (all.length === 1 ? all[0] : undefined);
  if (!application) return [];
  const lines = linesOfCommand(project, bundle, command);
  return otherConfiguration({ contract, stage: stage.name, bundle: bundle.name, lines, workspace, application });
}

/** Tells whether a name is a variable that only servers get. */
function isOfServer({ variables }: Project['contract'], bundle: Bundle, name: string): boolean {
  const variable = variables.get(name);
  return variable?.reach === 'server' && !belongsTo(bundle, variable);
}

/** An env file below the directory where the bundle's build runs; undefined if there is none. */
function layerBeside({ files, root }: Project, bundle: Bundle, ...parts: readonly string[]): ReadLayer | undefined {
  const { join } = files.path;
  const path = withSlashes(join(packageFolder({ files, root }, bundle.code[0] ?? '.'), ...parts), files.path);
  const bytes = files.readIfPossible(join(root, path));
  return bytes && readEnvFileLayer(path, path, bytes, noFacts);
}

/** The configuration of a bundle's build, read once. */
interface Configured {
  settings: BuildSettings;
  /** True if the plugin turns the loading of env files off. */
  isPlugged: boolean;
  /** The mode that the command names. */
  mode: string | undefined;
}

function configurationOf(project: Project, bundle: Bundle, command: readonly string[] | undefined): Configured {
  const configs = toolConfigs(project, bundle, command);
  return {
    settings: bundleSettings(project, bundle, configs, project.contract.variables.keys()),
    isPlugged: hasPlugin(project, bundle, configs),
    mode: command && command.length > 0 ? modeIn(linesOfCommand(project, bundle, command)) : undefined,
  };
}

/** Names by which a build chooses its stage. */
export function choicesOf(project: Project, bundle: Bundle, command: readonly string[]): Set<string> {
  return stageChoices(configurationOf(project, bundle, command).settings, project.contract);
}

/** The env files that the bundle's tool loads itself. */
export function readToolFiles(project: Project, bundle: Bundle, stage: Stage, command: readonly string[]): ReadLayer[] {
  return toolLayers(project, bundle, stage, configurationOf(project, bundle, command));
}

/** The same; none if settings or the plugin turn that off. */
function toolLayers(project: Project, bundle: Bundle, stage: Stage, { settings, isPlugged, mode }: Configured) {
  const { root = '', envFolder = '' } = settings;
  if (isPlugged || envFolder === false) return [];
  return toolFiles(bundle, mode ?? stage.buildAs ?? 'production').flatMap(
    (name) => layerBeside(project, bundle, root, envFolder, name) ?? [],
  );
}

/** How other programs read the files is no concern of a build that gets its values from Adder. */
function concernsBuild({ code, level }: JudgedFinding): boolean {
  return level !== 'note' && code !== 'value/ambiguous';
}
