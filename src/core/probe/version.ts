import { finding, type RawFinding } from '../findings/finding.js';
import type { Receipt } from '../receipt/receipt.js';
import { percentDecoded } from '../text/percent.js';
import { type Site, shownUrl, siteFinding } from './site.js';

/** A file of the site that some build wrote. */
export interface KnownFile {
  url: string;
  /** SHA-256 of the file, or of the page without its tag for load-time values. */
  sha256: string;
  /** A page that a server may render anew: another content says nothing. */
  mayDiffer?: true;
}

/** Which build a site serves. */
export interface ServedBuild {
  /** The build that most files are of; absent if no receipt describes any. */
  receipt?: Receipt;
  /** Files of builds, by the newest build that explains each. */
  builds: { receipt: Receipt; urls: string[] }[];
  /** Files that no receipt describes. */
  unknown: string[];
}

/**
 * Finds the builds that a site's files are of. A file that several builds wrote says nothing about which one is served, so builds
 * are chosen to be few: each time the one that explains most of the rest, the newest of equals.
 * @param receipts the newest first
 */
export function servedBuild(files: readonly KnownFile[], receipts: readonly Receipt[]): ServedBuild {
  const digests = receipts.map((receipt) => ({
    receipt,
    digests: new Set(receipt.subject.map(({ digest }) => digest.sha256)),
  }));
  const isKnown = ({ sha256 }: KnownFile) => digests.some((one) => one.digests.has(sha256));
  const unknown = files.filter((file) => !isKnown(file) && !file.mayDiffer).map(({ url }) => url);
  const builds: ServedBuild['builds'] = [];
  for (let left = files.filter(isKnown); left.length > 0; ) {
    const counted = digests.map((one) => ({ ...one, own: left.filter(({ sha256 }) => one.digests.has(sha256)) }));
    const best = counted.reduce((a, b) => (b.own.length > a.own.length ? b : a));
    builds.push({ receipt: best.receipt, urls: best.own.map(({ url }) => url) });
    left = left.filter((file) => !best.own.includes(file));
  }
  const [first] = builds;
  return { ...(first && { receipt: first.receipt }), builds, unknown };
}

/**
 * URLs of all files of a build that a site serves, by the files that were recognised: `out/assets/a.js` at `/app/assets/a.js` says
 * where everything below `out/` is.
 * @param known files of the site
 */
export function urlsOfBuild({ subject }: Receipt, known: readonly KnownFile[]): string[] {
  const byDigest = new Map(subject.map(({ name, digest }) => [digest.sha256, name]));
  const places = new Map<string, string>();
  for (const { url, sha256 } of known) {
    const name = byDigest.get(sha256);
    const place = name === undefined ? undefined : commonEnd(name, shownUrl(url));
    if (place) places.set(place.folder, place.base);
  }
  // The longest directory is the most exact one.
  const folders = [...places.keys()].sort((a, b) => b.length - a.length);
  const urls = subject.flatMap(({ name }) => {
    const folder = folders.find((one) => name.startsWith(one));
    if (folder === undefined) return [];
    return (places.get(folder) as string) + name.slice(folder.length).split('/').map(encodeURIComponent).join('/');
  });
  return [...new Set(urls)];
}

/** The directory and the base URL before the part that a path and a URL have in common; undefined if they have different names. */
function commonEnd(name: string, url: string): { folder: string; base: string } | undefined {
  const [parts, words] = [name.split('/'), url.split('/')];
  let same = 0;
  while (same < parts.length && parts.at(-1 - same) === percentDecoded(words.at(-1 - same) ?? '')) same++;
  if (same === 0) return undefined;
  const before = (all: readonly string[]) =>
    all
      .slice(0, all.length - same)
      .map((one) => `${one}/`)
      .join('');
  return { folder: before(parts), base: before(words) };
}

/** Tells whether an older build, another stage's build or several builds are served. */
export function versionFindings(site: Site): RawFinding[] {
  const { builds, newest } = site.served;
  const [first, ...others] = builds;
  if (!first) return [];
  const { stage, builtAt, bundle } = first;
  const url = shownUrl(site.url);
  if (stage !== site.stage && stage !== newest?.stage) {
    const about = { bundle, stage: site.stage, builtFor: stage, builtAt };
    return [siteFinding(site, url, finding('serve/out-of-date', 'other-stage', about))];
  }
  const findings: RawFinding[] = [];
  if (newest && newest.builtAt !== builtAt) {
    const about = { bundle, builtAt, newest: newest.builtAt };
    findings.push(siteFinding(site, url, finding('serve/out-of-date', 'older', about)));
  }
  for (const other of others) {
    const about = { urls: other.urls.map(shownUrl), otherBuiltAt: other.builtAt, builtAt };
    findings.push(siteFinding(site, about.urls[0] ?? url, finding('serve/mixed-builds', 'files', about)));
  }
  return findings;
}

/** Tells whether another build than the right one is served, wholly or in part: its values are not those of the stage. */
export function isOtherBuild(site: Site): boolean {
  return versionFindings(site).length > 0;
}

/** Values that no build has yet. Values of the newest build are part of the finding that the site is out of date. */
export function oldValueFindings(site: Site): RawFinding[] {
  return site.served.since.flatMap(({ changes, rebuild }) =>
    changes
      .filter(({ action }) => action === 'rebuild')
      .map(({ variable }) =>
        siteFinding(site, shownUrl(site.url), finding('stale/past-value', 'on-site', { variable, rebuild })),
      ),
  );
}
