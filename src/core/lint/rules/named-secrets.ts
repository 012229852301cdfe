import { sideOfPath } from '../../files/side.js';
import { finding } from '../../findings/finding.js';
import { textPlaces } from '../../text/positions.js';
import { shapeOf } from '../../tokens/shapes.js';
import { isSecretByText, secretWordIn } from '../../tokens/strength.js';
import type { LintContext, LintFinding } from '../model.js';
import { TextSearch } from '../text-search.js';

/**
 * A name that gets a string, in any language with such literals: `const partnerSecret = '…'`, `static let apiKey: String = "…"`,
 * `"token": "…"`, `PARTNER_KEY: &str = "…"`.
 */
const assigned =
  /(?<![\w$])["']?([A-Za-z_$][\w$-]*)["']?\s*(?::\s*[&\w<>?[\]' ]{1,40})?\s*[:=]\s*(?:r|b|const\s+)?(["'`])((?:(?!\2)[^\\\n]){16,512})\2/g;

/**
 * Finds random texts under a name that says secret. Names are gone after compiling and minifying, so an artifact cannot tell; a known
 * value, or one with a token's shape, is found by other rules, in artifacts too.
 */
export function namedSecretRules(context: LintContext): LintFinding[] {
  const known = new TextSearch(context.contract, context.stages);
  const texts = [...[...context.files.values()].map(({ path, text }) => [path, text] as const), ...context.native];
  return texts.flatMap(([path, text]) => {
    if (sideOfPath(path) === 'test') return [];
    const found = [...text.matchAll(assigned)].filter(({ 1: name = '', 3: value = '' }) => isSecret(name, value));
    if (found.length === 0) return [];
    const hits = known.hits(text);
    const places = textPlaces(text);
    return found.flatMap(({ 0: all, 1: name = '', 3: value = '', index }): LintFinding[] => {
      const start = index + all.lastIndexOf(value);
      if (hits.some((hit) => hit.start < start + value.length && hit.end > start)) return [];
      // The line contains the value, so it is not shown.
      const place = { path, inside: [], ...places(index + all.indexOf(name)) };
      return [finding('code/secret-in-code', 'named', { name }, { place, level: 'warning' })];
    });
  });
}

function isSecret(name: string, value: string): boolean {
  return !/\s/.test(value) && secretWordIn(name) !== undefined && shapeOf(value) === undefined && isSecretByText(value);
}
