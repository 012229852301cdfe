import type { Bundle } from '../core/contract/contract.js';
import { type LaunchProject, launchFiles, mergeLaunch, type Start } from '../core/emit/launch.js';
import { isRunDirectory, type RunConfiguration, runConfigurations } from '../core/emit/run-configurations.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { describeFileError, type Files } from '../host/files.js';
import { type Project, packageFolder } from './open.js';
import { scriptsOf } from './tool-configs.js';

/**
 * Merges run configurations into an editor's directory.
 * @param folder absolute
 * @param onlyCheck writes nothing
 * @returns whether anything was, or would be, written
 */
export async function mergeLaunchInto(project: Project, folder: string, onlyCheck: boolean): Promise<boolean> {
  const { contract, root, files } = project;
  const { join } = files.path;
  const starts = new Map([...contract.bundles.values()].map((bundle) => [bundle.name, startOf(project, bundle)]));
  const isInstalled = files.exists(join(root, 'node_modules', 'adder'));
  const of: LaunchProject = { starts, program: isInstalled ? 'npx adder' : 'adder' };
  const texts = isRunDirectory(folder) ? runConfigurations(contract, of) : mergedFiles(project, of, folder);
  const changed = texts.filter(({ name, text }) => textOf(files, join(folder, name)) !== text);
  if (!onlyCheck) for (const { name, text } of changed) files.write(join(folder, name), text, { root });
  return changed.length > 0;
}

function mergedFiles({ contract, files }: Project, of: LaunchProject, folder: string): RunConfiguration[] {
  const [launch, tasks] = [launchFiles.launch, launchFiles.tasks].map((name) =>
    textOf(files, files.path.join(folder, name)),
  );
  const texts = mergeLaunch(contract, of, {
    ...(launch !== undefined && { launch }),
    ...(tasks !== undefined && { tasks }),
  });
  return (['launch', 'tasks'] as const).map((one) => ({ name: launchFiles[one], text: texts[one] }));
}

/** @throws Failure if something is there that cannot be read: what is written would replace it */
function textOf(files: Files, path: string): string | undefined {
  if (!files.exists(path)) return undefined;
  try {
    return files.readRegular(path, limits.manifestBytes.value).toString();
  } catch (error) {
    const remedy = 'move the file away, or merge by hand what `adder emit launch` prints';
    throw new Failure(`${path} ${describeFileError(error)}`, remedy, EXIT.unread);
  }
}

/** How a bundle is started while it is worked on: as its package's scripts say. */
function startOf(project: Project, { code }: Bundle): Start {
  const { files, root } = project;
  const from = code[0]?.replace(/[*?{[].*$/, '') || '.';
  const dart = folderWith(project, from, 'pubspec.yaml');
  if (dart !== undefined) return { folder: dart };
  const folder = packageFolder(project, from);
  const text = files
    .readIfPossible(files.path.join(root, folder, 'package.json'), limits.manifestBytes.value)
    ?.toString();
  const scripts = text === undefined ? {} : scriptsOf(text);
  const script = ['dev', 'start', 'serve'].find((name) => name in scripts);
  return { folder, ...(script && { command: `npm run ${script}` }) };
}

function folderWith({ files, root }: Project, from: string, name: string): string | undefined {
  for (let folder = from; ; folder = files.path.posix.dirname(folder)) {
    if (files.exists(files.path.join(root, folder, name))) return folder;
    if (folder === '.' || folder === '/') return undefined;
  }
}
