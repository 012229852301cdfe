import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import {
  createUnplugin,
  type UnpluginContext,
  type UnpluginContextMeta,
  type UnpluginInstance,
  type UnpluginOptions,
} from 'unplugin';
import { VALUES_MODULE } from '../core/emit/values-module.js';
import { isSource } from '../core/files/languages.js';
import type { InlineProblem } from '../core/inline/inline.js';
import { Bundling } from './bundling.js';
import type { AdderOptions, Session } from './session.js';
import { viteHooks } from './vite-hooks.js';

const RESOLVED = '\0adder-values';

/**
 * The plugin, once for every bundler: it replaces reads of the bundle's names by their values, stops the build if a build or
 * server value would come into it, and provides the values as a module. The bundler's own loading of env files is turned off.
 */
export const adder: UnpluginInstance<AdderOptions | undefined> = createUnplugin((options, meta) =>
  pluginOf(new Bundling(options ?? {}), meta),
);

/** The plugin once more for the workers of a build, which Vite bundles with plugins of their own. */
const inWorkers = createUnplugin(pluginOf);

function pluginOf(bundling: Bundling, { framework }: UnpluginContextMeta): UnpluginOptions {
  // Vite replaces reads in packages without a trace, so they are marked. Other bundlers leave them in the output.
  const exclude = framework === 'vite' ? [] : inPackage;
  return {
    name: 'adder',
    enforce: 'pre',
    buildStart() {
      // A watch build starts again after a change, with the current values.
      bundling.problem = bundling.refresh();
    },
    writeBundle: () => bundling.record(),
    resolveId: { filter: { id: /^adder\/values$/ }, handler: (id) => (id === VALUES_MODULE ? RESOLVED : null) },
    load: {
      filter: { id: /^\0adder-values$/ },
      handler(id) {
        if (id !== RESOLVED) return null;
        watch(this, bundling.session);
        stopIfWrong(this, bundling);
        return bundling.session.values();
      },
    },
    transform: {
      // Some frameworks run loaders on resources without a path, which a bundler's loader must not get.
      filter: { id: { include: sourcePath, exclude }, ...(bundling.readPattern && { code: bundling.readPattern }) },
      handler(text, id) {
        if (inPackage.test(id))
          return bundling.markPackage(id.replace(/[?#].*$/, ''), text, (message) => this.warn(message));
        return isOwnCode(id) ? replaceReads(this, bundling, text, id) : null;
      },
    },
    vite: viteHooks(bundling, () => inWorkers.vite(bundling)),
    rollup: { generateBundle: (_, bundle) => bundling.checkChunks(bundle) },
    rolldown: { generateBundle: (_, bundle) => bundling.checkChunks(bundle) },
    webpack: (compiler) => configure(bundling, compiler as unknown as Compiler),
    rspack: (compiler) => configure(bundling, compiler as unknown as Compiler),
    esbuild: {
      config(build) {
        bundling.root = build.absWorkingDir ?? bundling.root;
        bundling.isServer = build.platform === 'node';
        bundling.needsMaps = Boolean(build.sourcemap);
        // The only list of what a build wrote.
        build.metafile = true;
      },
      setup: (build) => build.onEnd(({ metafile, outputFiles }) => checkOutputs(bundling, metafile, outputFiles)),
    },
  };
}

const inPackage = /[\\/]node_modules[\\/]/;

const sourcePath = /\.([cm]?[jt]sx?|vue|svelte|astro)([?#]|$)/;

/** Members that webpack's and Rspack's compilers share. */
interface Compiler {
  context: string;
  options: { target?: unknown; devtool?: unknown; mode?: unknown; watch?: unknown };
  hooks: { thisCompilation: { tap(name: string, handle: (compilation: Compilation) => void): void } };
}

interface Compilation {
  errors: unknown[];
  hooks: {
    processAssets: { tap(at: { name: string; stage: number }, handle: (assets: Assets) => void): void };
  };
}

type Assets = Readonly<Record<string, { source(): string | Buffer }>>;

/** After every other step that changes assets. */
const LAST_STAGE = 5000;

function checkAssets(bundling: Bundling, { hooks, errors }: Compilation): void {
  hooks.processAssets.tap({ name: 'adder', stage: LAST_STAGE }, (assets) => {
    if (bundling.isServer) return;
    const scripts = Object.entries(assets).filter(([path]) => /\.[cm]?js$/.test(path));
    const chunks = scripts.map(([path, asset]) => [path, { type: 'chunk', code: String(asset.source()) }] as const);
    try {
      bundling.checkChunks(Object.fromEntries(chunks));
    } catch (error) {
      errors.push(error);
    }
  });
}

/** Files that esbuild wrote, or returned without writing. */
function checkOutputs(
  bundling: Bundling,
  metafile: { outputs: Readonly<Record<string, unknown>> } | undefined,
  returned: readonly { path: string; text: string }[] = [],
): { errors: { text: string }[] } {
  if (bundling.isServer) return { errors: [] };
  const inMemory = new Map(returned.map(({ path, text }) => [path, text]));
  const scripts = Object.keys(metafile?.outputs ?? {}).filter((path) => /\.[cm]?js$/.test(path));
  const chunks = scripts.map((path) => {
    const absolute = resolve(bundling.root, path);
    return [path, { type: 'chunk', code: inMemory.get(absolute) ?? readFileSync(absolute, 'utf8') }] as const;
  });
  try {
    bundling.checkChunks(Object.fromEntries(chunks));
    return { errors: [] };
  } catch (error) {
    return { errors: [{ text: error instanceof Error ? error.message : String(error) }] };
  }
}

function configure(bundling: Bundling, { context, options, hooks }: Compiler): void {
  hooks.thisCompilation.tap('adder', (compilation) => checkAssets(bundling, compilation));
  bundling.root = context;
  bundling.isServer = targetsServer(options.target);
  bundling.isDevelopment = options.mode === 'development' && Boolean(options.watch ?? process.env.WEBPACK_SERVE);
  bundling.needsMaps = options.devtool !== false;
}

async function replaceReads(
  context: UnpluginContext & { addWatchFile(path: string): void },
  bundling: Bundling,
  text: string,
  id: string,
) {
  const { session, isServer, needsMaps } = bundling;
  const path = id.replace(/[?#].*$/, '');
  const { inlined, problems, used } = session.module(partPath(id, path, text), text, isServer);
  if (used.length > 0) {
    watch(context, session);
    stopIfWrong(context, bundling);
  }
  await reportProblems(context, session, path, problems);
  return inlined ? { code: inlined.code, map: needsMaps ? inlined.map() : null } : null;
}

/** A module fails, and not the whole build, because a build that fails earlier watches no file. */
function stopIfWrong(context: Pick<UnpluginContext, 'error'>, { problem }: Bundling): void {
  if (problem !== undefined) context.error(`adder: ${problem}`);
}

/** A module that contains values is built again when one of their files changes. */
function watch(context: { addWatchFile(path: string): void }, { watched }: Session): void {
  for (const path of watched) context.addWatchFile(path);
}

function isOwnCode(id: string): boolean {
  const path = id.replace(/[?#].*$/, '');
  return !id.startsWith('\0') && isSource(path) && !/\.html?$/.test(path);
}

/**
 * The path whose ending tells the language of a module's text. A component comes whole, as markup, or as its script, which
 * its own plugin requests by a query (`App.vue?vue&type=script&lang.ts`). Astro separates server and browser parts itself.
 */
function partPath(id: string, path: string, text: string): string {
  if (!/\.(vue|svelte|astro)$/.test(path)) return path;
  const isWhole = !/[?&](vue|svelte)\b/.test(id) || /^\s*</.test(text);
  if (isWhole && !path.endsWith('.astro')) return path;
  return /[?&]lang\.?=?tsx?\b|lang\.ts/.test(id) ? `${path}.ts` : `${path}.js`;
}

function targetsServer(target: unknown): boolean {
  const all = Array.isArray(target) ? target : [target];
  return all.some((one) => typeof one === 'string' && /^(async-)?node|^electron-main/.test(one));
}

async function reportProblems(
  context: UnpluginContext,
  session: Session,
  path: string,
  problems: readonly InlineProblem[],
): Promise<void> {
  for (const { message, line, column, stops } of problems) {
    const at = `${path}:${line}:${column}`;
    if (!stops) context.warn(`${at} ${message}`);
    else {
      const chain = await session.chainTo(path);
      context.error(`${at} ${message}${chain.length > 1 ? `: ${chain.join(' → ')}` : ''}`);
    }
  }
}

export type { AdderOptions };
