import type { Bundle } from '../core/contract/contract.js';
import { launchFiles, mergeLaunch, type Start } from '../core/emit/launch.js';
import { limits } from '../core/limits/index.js';
import { type Project, packageFolder } from './open.js';

/**
 * Merges run configurations into an editor's directory.
 * @param folder absolute
 * @param onlyCheck writes nothing
 * @returns whether anything was, or would be, written
 */
export async function mergeLaunchInto(project: Project, folder: string, onlyCheck: boolean): Promise<boolean> {
  const { contract, root, files } = project;
  const { join } = files.path;
  const textOf = (path: string) => files.readIfPossible(path, limits.manifestBytes.value)?.toString();
  const starts = new Map([...contract.bundles.values()].map((bundle) => [bundle.name, startOf(project, bundle)]));
  const paths = { launch: join(folder, launchFiles.launch), tasks: join(folder, launchFiles.tasks) };
  const there = {
    launch: textOf(paths.launch),
    tasks: textOf(paths.tasks),
  };
  const texts = mergeLaunch(contract, starts, {
    ...(there.launch !== undefined && { launch: there.launch }),
    ...(there.tasks !== undefined && { tasks: there.tasks }),
  });
  const changed = (['launch', 'tasks'] as const).filter((one) => texts[one] !== there[one]);
  if (!onlyCheck) for (const one of changed) files.write(paths[one], texts[one], { root });
  return changed.length > 0;
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
  const scripts = text === undefined ? {} : scriptsIn(text);
  const script = ['dev', 'start', 'serve'].find((name) => name in scripts);
  return { folder, ...(script && { command: `npm run ${script}` }) };
}

function folderWith({ files, root }: Project, from: string, name: string): string | undefined {
  for (let folder = from; ; folder = files.path.posix.dirname(folder)) {
    if (files.exists(files.path.join(root, folder, name))) return folder;
    if (folder === '.' || folder === '/') return undefined;
  }
}

function scriptsIn(text: string): Record<string, unknown> {
  try {
    return JSON.parse(text).scripts ?? {};
  } catch {
    return {};
  }
}
