import { finding } from '../../findings/finding.js';
import { isPage, isThere, typeOf } from '../resource.js';
import { type SiteRule, shownUrl, siteFinding } from '../site.js';

/** JavaScript MIME types (MIME Sniffing, 4.6). */
const script = /^(text|application)\/(x-)?(java|ecma|j|live)script[\d.]*$/;

/** Scripts and style sheets with a type that browsers refuse (HTML, 8.1.4.2; CSSOM, 6.3). */
export const wrongTypes: SiteRule = (site) =>
  site.resources.flatMap((resource) => {
    const { kind, isGuess, isCors, url } = resource;
    if (isGuess || !isThere(resource) || (kind !== 'script' && kind !== 'style')) return [];
    const type = typeOf(resource);
    const isModule = kind === 'script' && isCors;
    const isRight =
      kind === 'script' ? script.test(type) || (!isModule && type === '') : type === 'text/css' || type === '';
    // Without `nosniff`, browsers run classic scripts of most types.
    if (isRight || (!isPage(resource) && !isModule && kind === 'script')) return [];
    const [what, right] = kind === 'script' ? ['script', 'text/javascript'] : ['style sheet', 'text/css'];
    const about = { kind: what, type, right };
    return [siteFinding(site, shownUrl(url), finding('serve/wrong-type', isPage(resource) ? 'page' : 'type', about))];
  });
