import { table } from '../text/table.js';

/** Why a directory is skipped. */
interface Skipped {
  /** Content of the directory, as a phrase after its name. */
  because: string;
  /** `inspect` skips it too, unless this option is given. Other directories can be artifacts. */
  option?: 'packages';
}

/**
 * Directories that a walk over the project's own files skips, by name. One line per directory.
 * Outputs and caches of the contract's bundles are known from the contract, and come on top.
 */
export const skippedDirectories: Readonly<Record<string, Skipped>> = table({
  node_modules: { because: 'contains installed packages', option: 'packages' },
  '.git': { because: 'is a repository', option: 'packages' },
  '.adder': { because: 'is the state of Adder' },
  '.next': { because: 'is build output' },
  '.nuxt': { because: 'is build output' },
  '.output': { because: 'is build output' },
  '.svelte-kit': { because: 'is build output' },
  'storybook-static': { because: 'is build output' },
  '.netlify': { because: 'is build output' },
  '.docusaurus': { because: 'is a cache' },
  '.angular': { because: 'is a cache' },
  '.parcel-cache': { because: 'is a cache' },
  '.turbo': { because: 'is a cache' },
  '.nx': { because: 'is a cache' },
  '.yarn': { because: 'contains installed packages' },
  'playwright-report': { because: 'is a test report' },
  '.dart_tool': { because: 'is a cache' },
  '.gradle': { because: 'is a cache' },
  Pods: { because: 'contains installed packages' },
  coverage: { because: 'is a test report' },
});

/** Names that are often build output, and sometimes source code. `draft` runs before a contract says which. */
export const usualOutputDirectories: readonly string[] = ['dist', 'build', 'out', 'vendor'];

/** The directory of a file, with its slash; empty at the top. @param path with `/` */
export function parentOf(path: string): string {
  return path.slice(0, path.lastIndexOf('/') + 1);
}

/** Tells whether a walk over the project's own files skips a directory. @param path with `/` */
export function isSkippedDirectory(path: string): boolean {
  return lastName(path) in skippedDirectories;
}

/** Tells whether a directory's name is one of {@link usualOutputDirectories}. @param path with `/` */
export function isUsualOutput(path: string): boolean {
  return usualOutputDirectories.includes(lastName(path));
}

/** Tells whether a file belongs to an installed package. @param path with `/` */
export function isInPackages(path: string): boolean {
  return /(^|\/)node_modules\//.test(path);
}

/** The last part of a path with `/`. */
export function lastName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
