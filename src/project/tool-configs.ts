import type { ConfiguredNames } from '../core/lint/model.js';
import { buildSettings, isConfigOfTool } from '../core/toolchains/index.js';
import { mergedSettings } from '../core/toolchains/settings.js';
import type { Files } from '../host/files.js';

/** A configuration file of a build tool. `name` has no directory. */
export interface ToolConfig {
  name: string;
  text: string;
}

/** Names of code that configurations give values. */
export function configuredNames(configs: readonly ToolConfig[]): ConfiguredNames {
  const { inlined, renamed } = mergedSettings(configs.map(({ name, text }) => buildSettings(name, text)));
  return { listed: new Set(inlined), renamed };
}

/** Configuration files of build tools, in JavaScript or TypeScript, in a directory. */
export function toolConfigs(files: Files, folder: string): ToolConfig[] {
  return files.namesIn(folder).flatMap((name) => {
    if (!isConfigOfTool(name) || !/\.[cm]?[jt]s$/.test(name)) return [];
    const text = files.readIfPossible(files.path.join(folder, name))?.toString();
    return text === undefined ? [] : [{ name, text }];
  });
}

/** Tells whether a configuration or build script in a directory has the Adder plugin. */
export function hasPlugin(files: Files, folder: string): boolean {
  return files
    .namesIn(folder)
    .some(
      (name) =>
        /\.[cm]?[jt]s$/.test(name) &&
        /["']adder\/\w+["']/.test(files.readIfPossible(files.path.join(folder, name))?.toString() ?? ''),
    );
}

/**
 * Everything that configurations inline one by one: names, and reads such as `process.env.NAME` where only these are
 * replaced. Undefined if only running them would tell: they compute their define options, import other files of the
 * project, or have a plugin that may define names.
 */
export function inlinedNames(configs: readonly ToolConfig[]): ReadonlySet<string> | undefined {
  if (configs.length === 0) return undefined;
  const names: string[] = [];
  for (const { name, text } of configs) {
    const { inlined, defined, unknown, imports } = buildSettings(name, text);
    if (unknown.length > 0 || imports.some((one) => one.startsWith('.') || /env/i.test(one))) return undefined;
    if (/\bnew\s+(?![\w.]*EnvironmentPlugin\b)[\w.]*env\w*\s*\(|\bmerge\s*\(/i.test(text)) return undefined;
    const ofDefine = new Set(defined.map((read) => read.slice(read.lastIndexOf('.') + 1)));
    names.push(...inlined.filter((one) => !ofDefine.has(one)), ...defined);
  }
  return new Set(names);
}
