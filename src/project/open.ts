import type { Bundle, Contract, Stage } from '../core/contract/contract.js';
import { parseContract } from '../core/contract/parse.js';
import { contractFor, hasOwnLayers } from '../core/contract/scopes.js';
import { Failure, FindingsFailure } from '../core/findings/failure.js';
import { keyFrom } from '../core/history/keys.js';
import { limits } from '../core/limits/index.js';
import { echoed, suggest } from '../core/text/nearest.js';
import { describeFileError, type Files } from '../host/files.js';
import { fitsInTime } from '../host/pattern.js';
import type { Rooted } from '../host/state.js';
import { assertOwnState } from '../host/state-folder.js';
import type { World } from '../host/world.js';
import { readReceipts, type SharedReceipts } from './receipts.js';

export const CONTRACT_NAME = 'adder.yaml';

/** A contract with the directory that its paths are relative to. */
export interface Project {
  contract: Contract;
  /** The contract's directory, absolute. */
  root: string;
  contractPath: string;
  /** The file system that it is on. */
  files: Files;
  /** The key that the environment gives. */
  givenKey?: Uint8Array;
  /** Receipts of builds on other machines, if the user named some. */
  receipts?: SharedReceipts;
}

/** Adds receipts of other machines to a project. @param folder path as the user wrote it @throws Failure if the folder has no receipt */
export function withReceipts(project: Project, folder: string | undefined, { cwd }: Pick<World, 'cwd'>): Project {
  if (folder === undefined) return project;
  const { files } = project;
  return { ...project, receipts: readReceipts(files, files.path.resolve(cwd, folder), folder) };
}

/**
 * @param cwd where the search for adder.yaml starts, upward
 * @param given the path from --contract, relative to cwd
 * @throws Failure if there is no contract, FindingsFailure if it has mistakes
 */
export function openProject({ cwd, files, env }: Pick<World, 'cwd' | 'files' | 'env'>, given?: string): Project {
  const contractPath = given === undefined ? findContract(files, cwd) : files.path.resolve(cwd, given);
  const root = files.path.dirname(contractPath);
  assertOwnState(root);
  const { contract, findings } = parseContract(
    readContract(files, contractPath),
    files.shown(contractPath, root),
    fitsInTime,
  );
  if (!contract) throw new FindingsFailure('the contract is invalid', findings);
  return { contract, root, contractPath, files, ...givenKey(env) };
}

/** The variable that gives a pipeline the project's key. */
export const KEY_VARIABLE = 'ADDER_KEY';

function givenKey(env: World['env']): Pick<Project, 'givenKey'> {
  const text = env[KEY_VARIABLE];
  if (text === undefined || text.trim() === '') return {};
  const key = keyFrom(text);
  if (key) return { givenKey: key };
  throw new Failure(
    `${KEY_VARIABLE} is no key of Adder: it has ${text.length} characters, and a key is 64 hexadecimal digits`,
    `store the output of \`adder key --print\` in ${KEY_VARIABLE}`,
  );
}

function findContract(files: Files, cwd: string): string {
  const { dirname, join } = files.path;
  for (let folder = cwd; ; folder = dirname(folder)) {
    const path = join(folder, CONTRACT_NAME);
    if (files.exists(path)) return path;
    if (folder === dirname(folder)) break;
  }
  throw new Failure(
    `no ${CONTRACT_NAME} in ${cwd} or its parent directories`,
    `run \`adder draft\` to create one from this project, or pass --contract FILE`,
  );
}

function readContract(files: Files, path: string): string {
  try {
    return files.readRegular(path, limits.contractBytes.value).toString();
  } catch (error) {
    const why = describeFileError(error);
    throw new Failure(`the contract ${path} ${why}`, 'pass another one with --contract FILE');
  }
}

/** @throws Failure with the nearest names for a stage that the contract does not have */
export function stageOf({ contract }: Project, name: string): Stage {
  return known('stage', name, contract.stages);
}

/** @throws Failure with the nearest names for a bundle that the contract does not have */
export function bundleOf({ contract }: Project, name: string): Bundle {
  return known('bundle', name, contract.bundles);
}

/**
 * The bundle that was named, or the only one that does not run on a server, or the one whose package the working directory
 * is in, or none.
 * @param cwd the working directory, absolute
 * @throws Failure if several are left, or the contract lacks the one that was named
 */
export function chooseBundle(project: Project, named: string | undefined, cwd: string): Bundle | undefined {
  if (named !== undefined) return bundleOf(project, named);
  const bundles = [...project.contract.bundles.values()];
  if (bundles.length <= 1) return bundles[0];
  const only = theOnly(bundles) ?? theOnly(bundles.filter((bundle) => isInPackage(project, bundle, cwd)));
  if (only) return only;
  const names = bundles.map((bundle) => bundle.name).join('|');
  throw new Failure(`the contract has ${bundles.length} bundles`, `choose one: --bundle ${names}`);
}

/** The server part of a framework's app is built together with its pages. */
function theOnly(bundles: readonly Bundle[]): Bundle | undefined {
  const [first, ...others] = bundles.length > 1 ? bundles.filter(({ runs }) => runs !== 'server') : bundles;
  return others.length === 0 ? first : undefined;
}

/** Tells whether a directory is in the package of a bundle's code, and that is not the whole project. */
function isInPackage({ files, root }: Project, { code }: Bundle, directory: string): boolean {
  const folder = packageFolder({ files, root }, code[0] ?? '.');
  return folder !== '.' && files.isBelow(directory, files.path.join(root, folder));
}

/** The project as one bundle's build sees it: with the layers of the bundle. */
export function projectFor(project: Project, bundle: Bundle | undefined): Project {
  return { ...project, contract: contractFor(project.contract, bundle) };
}

/**
 * The project with the layers of the bundle that was named, or that {@link chooseBundle} finds if bundles have their own.
 * @throws Failure if several are left, or the contract lacks the one that was named
 */
export function scopedProject(project: Project, named: string | undefined, cwd: string): Project {
  if (named !== undefined) return projectFor(project, bundleOf(project, named));
  const isDivided = [...project.contract.bundles.values()].some(hasOwnLayers);
  return isDivided ? projectFor(project, chooseBundle(project, undefined, cwd)) : project;
}

/** @throws Failure if {@link chooseBundle} does, and where the contract has none */
export function neededBundle(project: Project, named: string | undefined, cwd: string): Bundle {
  const bundle = chooseBundle(project, named, cwd);
  if (!bundle) throw new Failure('the contract has no bundle', 'add a bundle with its toolchain under `bundles`');
  return bundle;
}

/** The contract and a stage's files, as absolute paths: a change of one may mean other values. */
export function valueFilesOf({ contractPath, root, files }: Project, { layers }: Stage): string[] {
  const { join } = files.path;
  return [contractPath, ...layers.flatMap((layer) => (layer.kind === 'file' ? [join(root, layer.name)] : []))];
}

/**
 * The nearest directory with a package manifest, upward from a file or directory; the root if there is none.
 * @param from relative to the root, with `/`, as the result is
 */
export function packageFolder({ files, root }: Rooted, from: string): string {
  const { dirname } = files.path.posix;
  for (let folder = from; ; folder = dirname(folder)) {
    if (files.exists(files.path.join(root, folder, 'package.json')) || folder === '.' || folder === '/') return folder;
  }
}

/** @throws Failure with the nearest names for a variable that the contract does not have */
export function variableOf({ contract }: Project, name: string) {
  return known('variable', name, contract.variables);
}

function known<T>(kind: string, name: string, all: ReadonlyMap<string, T>): T {
  const found = all.get(name);
  if (found) return found;
  const given = echoed(name, all.keys());
  throw new Failure(
    given ? `the contract has no ${kind} ${given}` : `the contract has no such ${kind}`,
    suggest(name, all.keys()),
  );
}
