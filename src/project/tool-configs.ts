import { posix } from 'node:path';
import { commandFiles } from '../core/build/command-files.js';
import type { Bundle } from '../core/contract/contract.js';
import { beside } from '../core/evaluate/beside.js';
import { limits } from '../core/limits/index.js';
import { jsonIn } from '../core/text/json.js';
import { buildSettings, isConfigOf, isConfigOfTool, toolchainOf } from '../core/toolchains/index.js';
import { type BuildSettings, mergedSettings } from '../core/toolchains/settings.js';
import { withSlashes } from '../host/files.js';
import type { Rooted } from '../host/state.js';
import { packageFolder } from './open.js';

/** A configuration or build script. Its path is relative to the root, with slashes. */
export interface ToolConfig {
  path: string;
  text: string;
}

/** The configurations of a bundle's build: those of tools in its package, and what its build names, also through scripts. */
export function toolConfigs(project: Rooted, bundle: Bundle, command?: readonly string[]): ToolConfig[] {
  const { folder, text, commands } = commandsOf(project, bundle, command);
  const { files, root } = project;
  const { configIn = [] } = toolchainOf(bundle).detect;
  // A tool's own directory is in the package, or in the directory of its code.
  const own = bundle.code.map((path) => files.path.posix.relative(withSlashes(folder, files.path), path));
  const folders = ['.', ...configIn, ...own.flatMap((code) => configIn.map((name) => `${code}/${name}`))];
  const beside = folders.flatMap((inner) =>
    files
      .namesIn(files.path.join(root, folder, inner))
      .map((name) => files.path.posix.join(inner, name))
      .filter((path) => isConfigOfTool(path) && isScript(path)),
  );
  const named = commands.flatMap(({ scripts }) => scripts);
  return filesAt(project, folder, [...beside, ...named], text);
}

/** The shell scripts of a bundle's build: those that its commands name, and the scripts of package.json that they run. */
export function shellScripts(project: Rooted, bundle: Bundle, command?: readonly string[]): ToolConfig[] {
  const { folder, text, commands, manifest } = commandsOf(project, bundle, command);
  const lines = commands.flatMap(({ lines }) => lines);
  const path = withSlashes(project.files.path.join(folder, 'package.json'), project.files.path);
  const named = commands.flatMap(({ shell }) => shell);
  return [
    // Only the lines that the build runs, in their places.
    {
      path,
      text: manifest.replace(/"((?:[^"\\\n]|\\.)*)"/g, (all, inner) =>
        lines.includes(inner) ? all : ' '.repeat(all.length),
      ),
    },
    ...filesAt(project, folder, named, text),
  ];
}

/** The lines that a command runs: its own, and those of the scripts that it names. */
export function linesOfCommand(project: Rooted, bundle: Bundle, command: readonly string[]): string[] {
  return commandsOf(project, bundle, command).commands.flatMap(({ lines }) => lines);
}

function commandsOf(project: Rooted, bundle: Bundle, command: readonly string[] = []) {
  const { files, root } = project;
  const folder = packageFolder(project, bundle.code[0] ?? '.');
  const text = (path: string) => files.readIfPossible(files.path.join(root, path))?.toString();
  const manifest = text(files.path.join(folder, 'package.json')) ?? '';
  const scripts = scriptsOf(manifest);
  const usual = ['build', 'dev', 'start', 'serve'].map((name) => scripts[name] ?? '');
  const started = command.length > 0 ? [command.join(' ')] : [[bundle.build ?? ''].flat().join(' '), ...usual];
  return { folder, text, manifest, commands: started.map((one) => commandFiles(one, scripts)) };
}

function filesAt(
  { files }: Rooted,
  folder: string,
  names: readonly string[],
  read: (path: string) => string | undefined,
): ToolConfig[] {
  return [...new Set(names)].flatMap((name) => {
    const path = withSlashes(files.path.join(folder, name), files.path);
    const text = read(path);
    return text === undefined ? [] : [{ path, text }];
  });
}

function isScript(name: string): boolean {
  return /\.[cm]?[jt]s$/.test(name);
}

/** The scripts of a package manifest, by name. @param manifest its text; a damaged one has none */
export function scriptsOf(manifest: string): Record<string, string> {
  const { scripts } = (jsonIn(manifest) ?? {}) as { scripts?: Record<string, unknown> };
  return Object.fromEntries(
    Object.entries(scripts ?? {}).filter((one): one is [string, string] => typeof one[1] === 'string'),
  );
}

/** The settings of a bundle's build: those of its configurations, and of the project's own files that these import. */
export function bundleSettings(
  project: Rooted,
  bundle: Bundle,
  configs: readonly ToolConfig[],
  names: Iterable<string>,
): BuildSettings {
  const { files, root } = project;
  const modules = {
    get: (path: string) => {
      const bytes = files.readIfPossible(files.path.join(root, path), limits.sourceFileBytes.value);
      return bytes && { text: bytes.toString() };
    },
  };
  const how = {
    folder: packageFolder(project, bundle.code[0] ?? '.'),
    names,
    load: (from: string, specifier: string) => beside(modules, from, specifier),
  };
  const [given, usual] = commandsOf(project, bundle).commands;
  const settings = mergedSettings(configs.map(({ path, text }) => buildSettings(path, text, how, bundle.toolchain)));
  const site = settings.root ?? siteOf(bundle, configs, how.folder);
  return { ...settings, ...(site !== undefined && { root: site }), lines: (bundle.build ? given : usual)?.lines ?? [] };
}

/** The directory that a tool works in if its configuration is in a directory of its own there, relative to the package. */
function siteOf(bundle: Bundle, configs: readonly ToolConfig[], folder: string): string | undefined {
  const { detect } = toolchainOf(bundle);
  const own = configs.find(({ path }) => detect.configIn !== undefined && isConfigOf({ detect }, path));
  return own && (posix.relative(folder, posix.dirname(posix.dirname(own.path))) || '.');
}

/** Tells whether a configuration or build script of a bundle has the Adder plugin; one in its package may be called by hand. */
export function hasPlugin(project: Rooted, bundle: Bundle, configs: readonly ToolConfig[]): boolean {
  const { files, root } = project;
  const folder = files.path.join(root, packageFolder(project, bundle.code[0] ?? '.'));
  const beside = files
    .namesIn(folder)
    .filter(isScript)
    .map((name) => files.path.join(folder, name));
  const others = beside.map((path) => files.readIfPossible(path)?.toString() ?? '');
  return [...configs.map(({ text }) => text), ...others].some((text) => /["']adder\/\w+["']/.test(text));
}

/**
 * Everything that configurations inline one by one: names, and reads such as `process.env.NAME` where only these are
 * replaced. Undefined if only running them would tell: they compute their define options from what is not known, import files
 * of the project that cannot be found, or have a plugin that may define names.
 */
export function inlinedNames(settings: BuildSettings): ReadonlySet<string> | undefined {
  const { inlined, defined, unknown, imports, calls } = settings;
  if (unknown.length > 0 || imports.some((one) => one.startsWith('.') || /env/i.test(one))) return undefined;
  if ([...calls].some((one) => /^[A-Z].*?env|^Env/i.test(one) && one !== 'EnvironmentPlugin')) return undefined;
  const ofDefine = new Set(defined.map((read) => read.slice(read.lastIndexOf('.') + 1)));
  return new Set([...inlined.filter((one) => !ofDefine.has(one)), ...defined]);
}
