import { table } from '../text/table.js';
import { angular } from './angular.js';
import { astro } from './astro.js';
import { dart } from './dart.js';
import { docusaurus } from './docusaurus.js';
import { electronVite } from './electron-vite.js';
import { esbuild } from './esbuild.js';
import { gatsby } from './gatsby.js';
import { metro } from './metro.js';
import { next } from './next.js';
import { nuxt } from './nuxt.js';
import { other } from './other.js';
import { parcel } from './parcel.js';
import { qwik } from './qwik.js';
import { reactRouter } from './react-router.js';
import { reactScripts } from './react-scripts.js';
import { readFrom } from './read-from.js';
import { rolldown } from './rolldown.js';
import { rollup } from './rollup.js';
import { rsbuild } from './rsbuild.js';
import { rspack } from './rspack.js';
import { type BuildSettings, joinedKeys, type SettingsHow, settingsOf } from './settings.js';
import { solidStart } from './solid-start.js';
import { stencil } from './stencil.js';
import { sveltekit } from './sveltekit.js';
import { tanstackStart } from './tanstack-start.js';
import type { Toolchain } from './toolchain.js';
import { vite } from './vite.js';
import { vitepress } from './vitepress.js';
import { vueCli } from './vue-cli.js';
import { webpack } from './webpack.js';
import { wxt } from './wxt.js';

/** One line per tool. A framework comes before the bundler that it uses, because the first match is detected. */
const all: readonly Toolchain[] = [
  next,
  nuxt,
  sveltekit,
  astro,
  gatsby,
  reactRouter,
  docusaurus,
  qwik,
  tanstackStart,
  solidStart,
  angular,
  metro,
  reactScripts,
  vueCli,
  stencil,
  wxt,
  electronVite,
  vite,
  vitepress,
  rsbuild,
  rspack,
  webpack,
  parcel,
  rollup,
  rolldown,
  esbuild,
  dart,
  other,
];

/** Every toolchain by its name, in the order of detection. */
export const toolchains: Readonly<Record<string, Toolchain>> = table(
  Object.fromEntries(all.map((one) => [one.name, one])),
);

/** Tells whether a file is a configuration of a tool, by its path. */
export function isConfigOf({ detect: { config, configIn } }: Pick<Toolchain, 'detect'>, path: string): boolean {
  const end = path.lastIndexOf('/');
  const isThere = configIn?.some((folder) => `/${path.slice(0, Math.max(end, 0))}`.endsWith(`/${folder}`)) ?? true;
  return isThere && config?.test(path.slice(end + 1)) === true;
}

/** Tells whether a file is the configuration of a build tool, by its path. */
export function isConfigOfTool(path: string): boolean {
  return all.some((tool) => isConfigOf(tool, path));
}

/**
 * The settings of a configuration file, by the keys of the tools whose file it is by its name. Others may be of any tool.
 * @param toolchain of the build that names the file
 */
export function buildSettings(path: string, text: string, how?: SettingsHow, toolchain?: string): BuildSettings {
  const byName = all.filter((tool) => isConfigOf(tool, path));
  const own = byName.length > 0 ? byName : all.filter((one) => toolchain === undefined || one.name === toolchain);
  const { exported, ...keys } = joinedKeys(own.flatMap(({ settings }) => settings ?? []));
  // A script that a build runs exports no configuration.
  return settingsOf(path, text, byName.length > 0 && exported ? { ...keys, exported } : keys, how);
}

/** Objects of values that packages export, with the package that code imports them from. */
export const importedObjects: ReadonlyMap<string, string> = new Map(
  all.flatMap(({ reads }) => reads.flatMap(({ from, importedFrom }) => (importedFrom ? [[from, importedFrom]] : []))),
);

/** Modules that a tool makes, whose exports are values of the environment, with the function that looks a name up. */
export const valueModules: ReadonlyMap<string, { lookup?: string }> = new Map(
  all
    .flatMap(({ reads }) => reads)
    .filter(({ from }) => readFrom(from)?.kind === 'module')
    .map(({ from, lookup }) => [from, lookup === undefined ? {} : { lookup }]),
);

/** Tells whether a read is of the machine that the installed app runs on, which no build replaces. */
export function isReadOfMachine(bundle: { toolchain: string }, path: string, object: string): boolean {
  return object === 'process.env' && toolchainOf(bundle).nodeCode?.test(path) === true;
}

/** Tells whether all names are compiled in by their names alone, as constants of the language. */
export function isCompiledIn(bundle: { toolchain: string }): boolean {
  return toolchainOf(bundle).reads.some(({ from }) => readFrom(from)?.kind === 'compiled');
}

/** The toolchain of a bundle. The contract's schema admits only known names. */
export function toolchainOf({ toolchain }: { toolchain: string }): Toolchain {
  return toolchains[toolchain] ?? other;
}

/** Tells whether an app has a server after its release, by the settings of its build. */
export function hasServer({ server }: Toolchain, { mode, imports, lines }: BuildSettings): boolean {
  if (!server || server.notIn?.includes(mode ?? '') || lines.some((line) => server.notAfter?.test(line))) return false;
  if (server.notWith?.some((name) => imports.includes(name))) return false;
  if (server.onlyWith?.some((name) => imports.includes(name)) === false) return false;
  if (server.alsoWith?.some((name) => imports.includes(name))) return true;
  return server.onlyIn === undefined || server.onlyIn.includes(mode ?? '');
}
