import type { UnpluginInstance, UnpluginOptions } from 'unplugin';
import type { Bundling } from './bundling.js';

type ViteHooks = NonNullable<UnpluginOptions['vite']>;
type DevServer = Parameters<Extract<NonNullable<ViteHooks['configureServer']>, (...args: never) => unknown>>[0];

/** Where a dev server serves the values that an app reads when it loads. */
const VALUES_PATH = 'adder-values.js';

/** A prefix that no name has, so that the bundler itself exposes nothing. */
const NO_PREFIX = 'ADDER_EXPOSES_NOTHING_BY_PREFIX_';

type Plugins = ReturnType<UnpluginInstance<unknown>['vite']>;

/**
 * The hooks that only Vite has: its own env files are turned off, workers get the plugin, and the dev server serves and
 * reloads values.
 * @param forWorkers the plugin for the workers of a build
 */
export function viteHooks(bundling: Bundling, forWorkers: () => Plugins): ViteHooks {
  return {
    config: ({ worker }) => ({
      envDir: false,
      envPrefix: NO_PREFIX,
      worker: {
        plugins: () => {
          const own = worker?.plugins?.() ?? [];
          return hasAdder(own) ? own : [...own, forWorkers() as never];
        },
      },
    }),
    configResolved(config) {
      bundling.root = config.root;
      bundling.isServer = Boolean(config.build.ssr);
      bundling.isDevelopment = config.command === 'serve';
      bundling.needsMaps = config.command === 'serve' || Boolean(config.build.sourcemap);
    },
    generateBundle(_, bundle) {
      if (!bundling.isServer) bundling.checkChunks(bundle);
    },
    transformIndexHtml: {
      order: 'pre',
      handler: (html, { server, filename }) => {
        const page = bundling.session.page(filename, html);
        for (const { message, line, column, stops } of page.problems) {
          const text = `adder: ${filename}:${line}:${column} ${message}`;
          if (stops) throw new Error(text);
          console.warn(text);
        }
        // A dev server has no output that could contain the values file, so it serves the file itself.
        const src = server && bundling.session.runtime() ? `${server.config.base}${VALUES_PATH}` : undefined;
        return { html: page.html, tags: src ? [{ tag: 'script', attrs: { src }, injectTo: 'head-prepend' }] : [] };
      },
    },
    configureServer(server) {
      serveValues(server, bundling);
      reloadOnChange(server, bundling);
    },
  };
}

function hasAdder(plugins: readonly unknown[]): boolean {
  return plugins.flat(5).some((one) => (one as { name?: string } | undefined)?.name === 'adder');
}

function serveValues(server: DevServer, bundling: Bundling): void {
  server.middlewares.use((request, response, next) => {
    if (request.url?.replace(/\?.*$/, '') !== `/${VALUES_PATH}`) return next();
    response.setHeader('content-type', 'text/javascript; charset=utf-8');
    response.setHeader('cache-control', 'no-store');
    response.end(bundling.session.runtime() ?? '');
  });
}

/** A change of a layer or of the contract reloads the page with the new values. */
function reloadOnChange(server: DevServer, bundling: Bundling): void {
  const watched = () => bundling.session.watched;
  server.watcher.add(watched());
  server.watcher.on('change', (path) => {
    if (!watched().includes(path)) return;
    const problem = bundling.refresh();
    if (problem) {
      server.config.logger.error(`adder: ${problem}; keeping the old values`);
      return;
    }
    server.moduleGraph.invalidateAll();
    server.ws.send({ type: 'full-reload' });
  });
}
