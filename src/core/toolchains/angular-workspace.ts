import { parse } from 'jsonc-parser';
import type { WorkspaceApplication } from './toolchain.js';

interface Target {
  builder?: string;
  options?: Options;
  configurations?: Record<string, Options>;
  defaultConfiguration?: string;
}

interface Options {
  outputPath?: string | { base?: string; browser?: string };
  define?: Record<string, string>;
  /** `project:target:configuration` of a dev server; the second name is of earlier versions. */
  buildTarget?: string;
  browserTarget?: string;
  fileReplacements?: { replace?: string; with?: string; src?: string; replaceWith?: string }[];
}

interface Targets {
  build?: Target;
  serve?: Target;
}

interface Project {
  projectType?: string;
  root?: string;
  sourceRoot?: string;
  architect?: Targets;
  targets?: Targets;
}

/** The applications of a workspace file, which may have comments. A damaged file has none. */
export function angularApplications(text: string): WorkspaceApplication[] {
  const { projects } = (parse(text) ?? {}) as { projects?: Record<string, Project> };
  return Object.entries(projects ?? {}).flatMap(([name, project]) => {
    const { build, serve } = project.architect ?? project.targets ?? {};
    return project.projectType === 'library' || !build
      ? []
      : [{ ...application(name, project, build), serves: servesOf(serve ?? {}, build) }];
  });
}

/** The configurations that a dev server builds. */
function servesOf(
  { options, configurations = {}, defaultConfiguration }: Target,
  build: Target,
): WorkspaceApplication['serves'] {
  const builtBy = (...all: (Options | undefined)[]) =>
    all.flatMap((one) => (one?.buildTarget ?? one?.browserTarget)?.split(':')[2] ?? [])[0];
  const named = Object.entries(configurations).flatMap(([configuration, own]) => {
    const builds = builtBy(own);
    return builds === undefined ? [] : [{ configuration, builds }];
  });
  const usual = builtBy(configurations[defaultConfiguration ?? ''], options) ?? build.defaultConfiguration;
  return [...named, ...(usual === undefined ? [] : [{ configuration: '', builds: usual }])];
}

function application(
  name: string,
  { root = '', sourceRoot }: Project,
  target: Target,
): Omit<WorkspaceApplication, 'serves'> {
  const { builder = '', options = {}, configurations = {}, defaultConfiguration } = target;
  const named = [['', options] as const, ...Object.entries(configurations)];
  return {
    name,
    source: sourceRoot ?? (root === '' ? 'src' : `${root}/src`),
    output: outputOf(options.outputPath, name, /:application$/.test(builder)),
    defined: [...new Set(named.flatMap(([, { define }]) => Object.keys(define ?? {})))],
    configurations: Object.keys(configurations),
    usual: defaultConfiguration,
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
