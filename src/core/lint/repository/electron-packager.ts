import type { RepositoryFacts } from './facts.js';

/** A package with one of these is an app, which nobody publishes on npm. */
export const packagers: readonly string[] = ['@electron-forge/cli', '@electron/packager', 'electron-packager'];

/** Plugins that let only what they build into the app. */
const narrowing: readonly string[] = ['@electron-forge/plugin-vite', '@electron-forge/plugin-webpack'];

const configs = ['js', 'cjs', 'mjs', 'ts'].map((extension) => `forge.config.${extension}`);

/**
 * The file with the settings of Electron Packager, if it packs every file of the package: that is its default (`ignore` in
 * its documentation; read in version 19), and so the default of Electron Forge. With `ignore` anything is possible.
 * @param folder of the package, with its slash
 * @param manifest the text of its `package.json`
 */
export function packsEverything(
  { text }: Pick<RepositoryFacts, 'text'>,
  folder: string,
  manifest: string,
  dependencies: readonly string[],
): string | undefined {
  if (!packagers.some((name) => dependencies.includes(name)) || narrowing.some((name) => dependencies.includes(name)))
    return undefined;
  const config = configs.map((name) => folder + name).find((path) => text(path) !== undefined);
  const settings = config === undefined ? manifest : (text(config) ?? '') + manifest;
  return /\bignore\b/.test(settings) ? undefined : (config ?? `${folder}package.json`);
}
