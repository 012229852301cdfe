import type { RawFinding } from '../../findings/finding.js';
import { durationText, hasDigest, lifetimeOf } from '../caching.js';
import { isPage, isThere, type Resource } from '../resource.js';
import { type Site, type SiteRule, shownUrl, siteFinding } from '../site.js';

/** A page that is kept this long delays a deployment; a script or style sheet, whose page may be new already, breaks the app. */
const [MOST_PAGE_SECONDS, MOST_FILE_SECONDS] = [600, 600];

/** Files under a fixed name that browsers, or a service worker, may keep after a deployment. */
export const keptFiles: SiteRule = (site) =>
  site.resources
    .filter((resource) => isThere(resource) && isOfSite(resource))
    .flatMap((resource) => [...ofValues(site, resource), ...ofFile(site, resource), ...ofWorkers(site, resource)]);

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
  if (site.valueFiles.has(url)) return [];
  // Servers of frameworks say this of names that change with the content, in ways that names alone do not show.
  if (!isOfPage && /\bimmutable\b/i.test(headers.get('cache-control') ?? '')) return [];
  const lifetime = lifetimeOf(headers);
  if (!lifetime || lifetime.seconds <= (isOfPage ? MOST_PAGE_SECONDS : MOST_FILE_SECONDS)) return [];
  const what = isOfPage
    ? 'this page, and with it the old build,'
    : 'this file, whose name does not change with its content,';
  return [
    siteFinding(site, 'serve/long-cache', shownUrl(url), {
      message: `browsers may keep ${what} for ${durationText(lifetime.seconds)} (${lifetime.header})`,
      remedy: isOfPage
        ? 'send `cache-control: no-cache` for pages'
        : 'send `cache-control: no-cache` for it, or let the build put a digest into its name',
    }),
  ];
}

function ofValues(site: Site, { url, headers }: Resource): RawFinding[] {
  if (!site.valueFiles.has(url) || hasDigest(new URL(url).pathname)) return [];
  const control = headers.get('cache-control') ?? '';
  if (/\bno-(cache|store)\b|\bmax-age\s*=\s*0\b/i.test(control)) return [];
  const lifetime = lifetimeOf(headers);
  const how = lifetime
    ? `for ${durationText(lifetime.seconds)} (${lifetime.header})`
    : 'as long as they choose: no header says how long';
  return [
    siteFinding(site, 'serve/cached-runtime-file', shownUrl(url), {
      message: `browsers may keep these load-time values ${how}`,
      remedy: `send \`cache-control: no-cache\` for this file, or use a name with a digest: adder emit runtime --stage ${site.stage} --bundle ${site.bundle} --into DIST`,
    }),
  ];
}

function ofWorkers(site: Site, { url }: Resource): RawFinding[] {
  if (!site.valueFiles.has(url) || hasDigest(new URL(url).pathname)) return [];
  return [...site.workers]
    .filter(([, names]) => names.includes(url))
    .map(([worker]) =>
      siteFinding(site, 'serve/kept-by-worker', shownUrl(worker), {
        message: `this service worker keeps ${shownUrl(url)}: browsers get old load-time values from it`,
        remedy: 'leave the values file out of the list of files that the service worker keeps',
      }),
    );
}
