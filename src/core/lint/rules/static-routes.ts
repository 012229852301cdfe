import { scriptLanguage } from '../../files/languages.js';
import { within } from '../../files/within.js';
import { finding } from '../../findings/finding.js';
import { parseSyntax } from '../../syntax/parse.js';
import { joinWords } from '../../text/nearest.js';
import { hasServer, toolchainOf } from '../../toolchains/index.js';
import type { BundleCode, LintContext, LintFinding, SourceText } from '../model.js';

/**
 * Finds files that answer requests in an app that ships as static files: after the release nothing runs them. A build may write the
 * answers to GET into files, so only other methods count.
 */
export function staticRouteRules(context: LintContext): LintFinding[] {
  return context.bundles.flatMap((code) => {
    const { bundle } = code;
    const tool = toolchainOf(bundle);
    const settings = context.settings(bundle);
    if (!tool.server?.routes || bundle.runs === 'server' || hasServer(tool, settings)) return [];
    return routesOf(context, code, tool.server.routes).flatMap((file) => {
      const methods = methodsIn(file);
      if (methods.length === 0) return [];
      const about = { methods: joinWords(methods), bundle: bundle.name };
      return [
        finding('code/no-server', 'route', about, { bundle: bundle.name, place: { path: file.path, inside: [] } }),
      ];
    });
  });
}

function routesOf({ files }: LintContext, { bundle }: BundleCode, routes: RegExp): SourceText[] {
  const inCode = within([...bundle.code, ...bundle.serverCode]);
  return [...files.values()].filter(({ path }) => inCode(path) && routes.test(path));
}

/** The requests that a file answers, as its exports say. */
function methodsIn({ path, text }: SourceText): string[] {
  const language = scriptLanguage(path);
  if (!language) return [];
  const { staticExports } = parseSyntax(text, language).module;
  const names = staticExports.flatMap(({ entries }) =>
    entries.map(({ exportName }) => (exportName.kind === 'Default' ? 'default' : (exportName.name ?? ''))),
  );
  // Handlers in such a directory answer every method.
  if (/(^|\/)pages\/api\//.test(path) && names.includes('default')) return ['API requests'];
  // Some frameworks have the method in the name of the file.
  const [, ofName] = /\.(post|put|patch|delete)\.[cm]?[jt]s$/.exec(path) ?? [];
  if (ofName !== undefined && names.includes('default')) return [`${ofName.toUpperCase()} requests`];
  const methods = names.filter((name) => /^(POST|PUT|PATCH|DELETE|ALL)$/.test(name)).map((name) => `${name} requests`);
  return [...methods, ...(names.includes('actions') ? ['form actions'] : [])];
}
