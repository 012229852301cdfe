import { createUnplugin, type UnpluginContext, type UnpluginInstance } from 'unplugin';
import { VALUES_MODULE } from '../core/emit/values-module.js';
import { Failure } from '../core/findings/failure.js';
import type { InlineProblem } from '../core/inline/inline.js';
import { isSource } from '../core/reads/index.js';
import { type AdderOptions, Session } from './session.js';

const RESOLVED = '\0adder-values';

/**
 * The plugin, once for every bundler: it replaces the reads of the bundle's names by their values, stops the build where a
 * build or server value would come into it, and gives the values as a module. It is what decides: a bundler's own reading
 * of env files is switched off by the options that it has for that.
 */
export const adder: UnpluginInstance<AdderOptions | undefined> = createUnplugin((options: AdderOptions | undefined) => {
  let session: Session | undefined;
  let root = process.cwd();
  let isServer = false;
  /** False only where the bundler is known to make no source maps. */
  let needsMaps = true;
  const current = (): Session => {
    session ??= opened(options ?? {}, root);
    return session;
  };
  return {
    name: 'adder',
    enforce: 'pre',
    buildStart() {
      // A watch build starts again after a change, with the values as they are then.
      if (session) attempt(() => session?.refresh());
    },
    writeBundle() {
      session?.record();
    },
    resolveId: { filter: { id: /^adder\/values$/ }, handler: (id) => (id === VALUES_MODULE ? RESOLVED : null) },
    load: {
      filter: { id: /^\0adder-values$/ },
      handler(id) {
        if (id !== RESOLVED) return null;
        watch(this, current());
        return current().values();
      },
    },
    transform: {
      // Only a module with one of these words is handed over at all: the bundler looks for them itself.
      filter: { id: { exclude: /[\\/]node_modules[\\/]/ }, code: /\benv\b/ },
      async handler(text, id) {
        if (!isOwnCode(id)) return null;
        const path = id.replace(/[?#].*$/, '');
        const { inlined, problems, used } = current().module(pathOfPart(id, path), text, isServer);
        if (used.length > 0) watch(this, current());
        await reportProblems(this, current(), path, problems);
        return inlined ? { code: inlined.code, map: needsMaps ? inlined.map() : null } : null;
      },
    },
    vite: {
      config: () => ({ envDir: false, envPrefix: NO_PREFIX }),
      configResolved(config) {
        root = config.root;
        isServer = Boolean(config.build.ssr);
        needsMaps = config.command === 'serve' || Boolean(config.build.sourcemap);
      },
      transformIndexHtml: {
        order: 'pre',
        // A dev server has no output that the file of values could lie in: it serves the file itself.
        handler: (_, { server }) =>
          server && current().runtime()
            ? [{ tag: 'script', attrs: { src: `${server.config.base}${VALUES_PATH}` }, injectTo: 'head-prepend' }]
            : [],
      },
      configureServer(server) {
        server.middlewares.use((request, response, next) => {
          if (request.url?.replace(/\?.*$/, '') !== `/${VALUES_PATH}`) return next();
          response.setHeader('content-type', 'text/javascript; charset=utf-8');
          response.setHeader('cache-control', 'no-store');
          response.end(current().runtime() ?? '');
        });
        const watched = () => current().watched;
        server.watcher.add(watched());
        server.watcher.on('change', (path) => {
          if (!watched().includes(path)) return;
          const problem = attempt(() => current().refresh());
          if (problem) server.config.logger.error(`adder: ${problem}; keeping the old values`);
          else {
            server.moduleGraph.invalidateAll();
            server.ws.send({ type: 'full-reload' });
          }
        });
      },
    },
    webpack(compiler) {
      root = compiler.context;
      isServer = targetsServer(compiler.options.target);
      needsMaps = compiler.options.devtool !== false;
    },
    rspack(compiler) {
      root = compiler.context;
      isServer = targetsServer(compiler.options.target);
      needsMaps = compiler.options.devtool !== false;
    },
    esbuild: {
      config(build) {
        root = build.absWorkingDir ?? root;
        isServer = build.platform === 'node';
        needsMaps = Boolean(build.sourcemap);
      },
    },
  };
});

/** Where a dev server has the values that an app reads when it loads. */
const VALUES_PATH = 'adder-values.js';

/** A prefix that no name has, so the bundler itself exposes nothing. */
const NO_PREFIX = 'ADDER_EXPOSES_NOTHING_BY_PREFIX_';

function opened(options: AdderOptions, cwd: string): Session {
  try {
    return new Session(options, cwd);
  } catch (error) {
    throw error instanceof Failure ? new Error(`adder: ${error.message}\n  → ${error.remedy}`) : error;
  }
}

/** @returns the message of a failure, which holds no value */
function attempt(act: () => void): string | undefined {
  try {
    act();
    return undefined;
  } catch (error) {
    if (error instanceof Failure) return error.message;
    throw error;
  }
}

/** A module with values in it is made again when one of their files changes. */
function watch(context: { addWatchFile(path: string): void }, { watched }: Session): void {
  for (const path of watched) context.addWatchFile(path);
}

function isOwnCode(id: string): boolean {
  const path = id.replace(/[?#].*$/, '');
  return !id.startsWith('\0') && !/[\\/]node_modules[\\/]/.test(path) && isSource(path) && !/\.html?$/.test(path);
}

/** What a component's own plugin asks for as a part of it (`App.vue?vue&type=script&lang.ts`) is a script of that language. */
function pathOfPart(id: string, path: string): string {
  if (!/\.(vue|svelte|astro)$/.test(path)) return path;
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
