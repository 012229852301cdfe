import { parse } from 'jsonc-parser';
import type { WorkspaceApplication } from './toolchain.js';

/** An application of an `angular.json`. Paths are relative to that file. */
export interface AngularApplication extends WorkspaceApplication {
  /** By configuration: a file, and the one that replaces it. */
  replacements: { configuration: string; replace: string; with: string }[];
}

interface Target {
  builder?: string;
  options?: Options;
  configurations?: Record<string, Options>;
}

interface Options {
  outputPath?: string | { base?: string; browser?: string };
  define?: Record<string, string>;
  fileReplacements?: { replace?: string; with?: string; src?: string; replaceWith?: string }[];
}

interface Project {
  projectType?: string;
  root?: string;
  sourceRoot?: string;
  architect?: { build?: Target };
  targets?: { build?: Target };
}

/** The applications of a workspace file, which may have comments. A damaged file has none. */
export function angularApplications(text: string): AngularApplication[] {
  const { projects } = (parse(text) ?? {}) as { projects?: Record<string, Project> };
  return Object.entries(projects ?? {}).flatMap(([name, project]) => {
    const target = (project.architect ?? project.targets)?.build;
    return project.projectType === 'library' || !target ? [] : [application(name, project, target)];
  });
}

function application(name: string, { root = '', sourceRoot }: Project, target: Target): AngularApplication {
  const { builder = '', options = {}, configurations = {} } = target;
  const named = [['', options] as const, ...Object.entries(configurations)];
  return {
    name,
    source: sourceRoot ?? (root === '' ? 'src' : `${root}/src`),
    output: outputOf(options.outputPath, name, /:application$/.test(builder)),
    defined: [...new Set(named.flatMap(([, { define }]) => Object.keys(define ?? {})))],
    replacements: named.flatMap(([configuration, { fileReplacements = [] }]) =>
      fileReplacements.flatMap((one) => {
        const [replace, by] = [one.replace ?? one.src, one.with ?? one.replaceWith];
        return replace && by ? [{ configuration, replace, with: by }] : [];
      }),
    ),
  };
}

/** The application builder puts pages into `browser` below the base; earlier builders, into the path itself. */
function outputOf(path: Options['outputPath'], name: string, hasBrowser: boolean): string {
  const base = (typeof path === 'string' ? path : path?.base) ?? `dist/${name}`;
  const browser = typeof path === 'object' ? (path.browser ?? 'browser') : 'browser';
  return hasBrowser && browser !== '' ? `${base}/${browser}` : base;
}
