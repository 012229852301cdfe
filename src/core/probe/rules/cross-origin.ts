import { finding } from '../../findings/finding.js';
import { isThere, type ResourceKind } from '../resource.js';
import { type SiteRule, shownUrl, siteFinding } from '../site.js';

const words: Readonly<Partial<Record<ResourceKind, string>>> = { script: 'script', font: 'font', style: 'style sheet' };

/** Modules, fonts and files with `crossorigin` on another host, without the header that lets the page use them (Fetch, 3.2). */
export const crossOrigin: SiteRule = (site) => {
  const { origin } = new URL(site.url);
  return site.resources.flatMap((resource) => {
    const { url, isCors, kind, headers } = resource;
    const { origin: own, host } = new URL(url);
    if (!isCors || own === origin || !isThere(resource)) return [];
    const allowed = headers['access-control-allow-origin']?.trim();
    if (allowed === '*' || allowed === origin) return [];
    const about = { kind: words[kind] ?? 'file', host, origin, allowsOther: allowed !== undefined };
    return [siteFinding(site, shownUrl(url), finding('serve/cross-origin', 'header', about))];
  });
};
