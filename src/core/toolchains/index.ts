import { table } from '../text/table.js';
import { angular } from './angular.js';
import { astro } from './astro.js';
import { dart } from './dart.js';
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
import { rolldown } from './rolldown.js';
import { rollup } from './rollup.js';
import { rsbuild } from './rsbuild.js';
import { rspack } from './rspack.js';
import { solidStart } from './solid-start.js';
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
  qwik,
  tanstackStart,
  solidStart,
  angular,
  metro,
  reactScripts,
  vueCli,
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

/** Whether a file is the configuration of a build tool. @param name without directories */
export function isConfigOfTool(name: string): boolean {
  return all.some(({ detect }) => detect.config?.test(name));
}

/** Whether a read is of the machine that the installed app runs on, which no build replaces. */
export function isReadOfMachine(bundle: { toolchain: string }, path: string, object: string): boolean {
  return object === 'process.env' && toolchainOf(bundle).nodeCode?.test(path) === true;
}

/** The toolchain of a bundle. The contract's schema admits only known names. */
export function toolchainOf({ toolchain }: { toolchain: string }): Toolchain {
  return toolchains[toolchain] ?? other;
}
