import { finding, type RawFinding } from '../../findings/finding.js';
import { durationText, hasDigest, type Lifetime, lifetimeOf } from '../caching.js';
import { isPage, isThere, type Resource } from '../resource.js';
import { type Site, type SiteRule, shownUrl, siteFinding } from '../site.js';

/** A page that is kept this long delays a deployment; a script or style sheet, whose page may be new already, breaks the app. */
const [MOST_PAGE_SECONDS, MOST_FILE_SECONDS] = [600, 600];

/** Files under a fixed name that browsers, or a service worker, may keep after a deployment. */
export const keptFiles: SiteRule = (site) =>
  site.resources
    .filter((resource) => isThere(resource) && isOfSite(resource))
    .flatMap((resource) => [...ofValues(site, resource), ...ofFile(site, resource), ...ofWorkers(site, resource)])
    .concat(ofPages(site));

/** A file that was a guess counts if it is there; a page only if another one links to it. */
function isOfSite(resource: Resource): boolean {
  const { kind, isGuess, from } = resource;
  if (kind === 'answer') return false;
  return !isGuess || (kind === 'page' ? from !== undefined : !isPage(resource));
}

function ofFile(site: Site, resource: Resource): RawFinding[] {
  const { url, kind, headers } = resource;
  const isOfPage = isPage(resource) && kind === 'page';
  if (!isOfPage && (!['script', 'style'].includes(kind) || hasDigest(new URL(url).pathname))) return [];
  if (site.valueFiles.includes(url)) return [];
  // Servers of frameworks say this of names that change with the content, in ways that names alone do not show.
  if (!isOfPage && /\bimmutable\b/i.test(headers['cache-control'] ?? '')) return [];
  const lifetime = lifetimeOf(headers);
  if (!lifetime || lifetime.seconds <= (isOfPage ? MOST_PAGE_SECONDS : MOST_FILE_SECONDS)) return [];
  return [siteFinding(site, shownUrl(url), finding('serve/long-cache', isOfPage ? 'page' : 'file', keptFor(lifetime)))];
}

function ofValues(site: Site, { url, headers }: Resource): RawFinding[] {
  if (!site.valueFiles.includes(url) || hasDigest(new URL(url).pathname)) return [];
  const control = headers['cache-control'] ?? '';
  if (/\bno-(cache|store)\b|\bmax-age\s*=\s*0\b/i.test(control)) return [];
  const lifetime = lifetimeOf(headers);
  const about = { kept: lifetime && keptFor(lifetime), stage: site.stage, bundle: site.bundle };
  return [siteFinding(site, shownUrl(url), finding('serve/cached-runtime-file', 'header', about))];
}

function keptFor({ seconds, header }: Lifetime): { duration: string; header: string } {
  return { duration: durationText(seconds), header };
}

/** Service workers that answer the start page, from their own copy. */
function ofPages(site: Site): RawFinding[] {
  return site.workers
    .filter(({ keepsPage }) => keepsPage)
    .map(({ url }) => siteFinding(site, shownUrl(url), finding('serve/kept-by-worker', 'page', {}, { level: 'note' })));
}

function ofWorkers(site: Site, { url }: Resource): RawFinding[] {
  if (!site.valueFiles.includes(url) || hasDigest(new URL(url).pathname)) return [];
  return site.workers
    .filter(({ names }) => names.includes(url))
    .map(({ url: worker }) =>
      siteFinding(site, shownUrl(worker), finding('serve/kept-by-worker', 'values', { url: shownUrl(url) })),
    );
}
