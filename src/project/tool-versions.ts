import type { Bundle } from '../core/contract/contract.js';
import { limits } from '../core/limits/index.js';
import { toolchainOf } from '../core/toolchains/index.js';
import { type Project, packageFolder } from './open.js';

/** The versions of Node.js and of the packages by which a bundle's tool is detected, as far as they are installed. */
export function toolVersions(project: Project, bundle: Bundle): Record<string, string> {
  const { files, root } = project;
  const from = files.path.join(root, packageFolder(project, bundle.code[0] ?? '.'));
  const installed = toolchainOf(bundle).detect.packages.flatMap((name) => {
    const version = installedVersion(project, from, name);
    return version === undefined ? [] : [[name, version] as const];
  });
  return { node: process.versions.node, ...Object.fromEntries(installed) };
}

/** The version of a package, as Node.js finds it: in the nearest `node_modules` upward. */
function installedVersion({ files }: Project, from: string, name: string): string | undefined {
  const { dirname, join } = files.path;
  for (let folder = from; ; folder = dirname(folder)) {
    const text = files.readIfPossible(join(folder, 'node_modules', name, 'package.json'), limits.manifestBytes.value);
    if (text) return versionIn(text.toString());
    if (folder === dirname(folder)) return undefined;
  }
}

function versionIn(manifest: string): string | undefined {
  try {
    const { version } = JSON.parse(manifest) as { version?: unknown };
    return typeof version === 'string' ? version : undefined;
  } catch {
    return undefined;
  }
}
