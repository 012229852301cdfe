import { finding, type RawFinding } from '../findings/finding.js';
import type { Receipt } from '../receipt/receipt.js';
import { percentDecoded } from '../text/percent.js';
import { cacheStateOf } from './caching.js';
import { isPage, isThere, type Resource } from './resource.js';
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

/** A file of a build, and where a site has it. */
export interface BuiltFile {
  url: string;
  /** Absent if the receipt is of an earlier version. */
  bytes?: number;
}

/**
 * All files of a build that a site serves, located by the files that were recognised: `out/assets/a.js` at `/app/assets/a.js` says
 * where everything below `out/` is.
 * @param known files of the site
 */
export function urlsOfBuild({ subject }: Receipt, known: readonly KnownFile[]): BuiltFile[] {
  const byDigest = new Map(subject.map(({ name, digest }) => [digest.sha256, name]));
  const places = new Map<string, string>();
  for (const { url, sha256 } of known) {
    const name = byDigest.get(sha256);
    const place = name === undefined ? undefined : commonEnd(name, shownUrl(url));
    if (place) places.set(place.folder, place.base);
  }
  // The longest directory is the most exact one.
  const folders = [...places.keys()].sort((a, b) => b.length - a.length);
  const built = subject.flatMap(({ name, annotations }): BuiltFile[] => {
    const folder = folders.find((one) => name.startsWith(one));
    if (folder === undefined) return [];
    const path = name.slice(folder.length).split('/').map(encodeURIComponent).join('/');
    return [{ url: (places.get(folder) as string) + path, ...annotations }];
  });
  return [...new Map(built.map((one) => [one.url, one])).values()];
}

/**
 * The files of a build that a probe requests if it cannot request all: scripts, the smallest first, because most chunks are small and
 * any of them may contain a value; then the others.
 * @param files without those that a browser never loads, such as maps @param most maximum number of files
 */
export function filesToRequest(files: readonly BuiltFile[], most: number): { asked: BuiltFile[]; left: BuiltFile[] } {
  if (files.length <= most) return { asked: [...files], left: [] };
  const rank = ({ url, bytes = Number.MAX_SAFE_INTEGER }: BuiltFile): number =>
    /\.[cm]?js$/.test(url) ? bytes : Number.POSITIVE_INFINITY;
  const ranked = files
    .map((file, index) => ({ file, index, rank: rank(file) }))
    .sort((a, b) => (a.rank === b.rank ? a.index - b.index : a.rank - b.rank))
    .map(({ file }) => file);
  return { asked: ranked.slice(0, most), left: ranked.slice(most) };
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
  const right = site.served.declared ?? newest;
  if (stage !== site.stage && stage !== right?.stage) {
    // A build for another stage may have equal values; only the key tells.
    if (site.served.isOfOtherKey) return [];
    const about = { bundle, stage: site.stage, builtFor: stage, builtAt };
    return [siteFinding(site, url, finding('serve/out-of-date', 'other-stage', about))];
  }
  const findings: RawFinding[] = [];
  if (right && right.builtAt !== builtAt) {
    const about = { bundle, builtAt, ...cacheFacts(site, site.url) };
    const found = site.served.declared
      ? finding('serve/out-of-date', 'not-declared', { ...about, declared: right.builtAt })
      : finding('serve/out-of-date', 'older', {
          ...{ ...about, newest: right.builtAt },
          ...(site.served.hasAllValues && { hasAllValues: true }),
        });
    findings.push(siteFinding(site, url, found));
  }
  for (const other of others) {
    const { cache } = cacheFacts(site, other.urls[0] ?? url);
    const about = { urls: other.urls.map(shownUrl), otherBuiltAt: other.builtAt, builtAt, ...(cache && { cache }) };
    findings.push(siteFinding(site, about.urls[0] ?? url, finding('serve/mixed-builds', 'files', about)));
  }
  return findings;
}

/**
 * Scripts of a build that a site lacks, in directories from which it serves other scripts of it. An output may have other files that are
 * not deployed.
 * @param known files of the site @param resources answers, also those of missing files
 */
export function lackedScripts(
  receipt: Receipt | undefined,
  known: readonly KnownFile[],
  resources: readonly Resource[],
): { url: string; status: number }[] {
  if (!receipt) return [];
  const isScript = ({ url }: { url: string }) => /\.[cm]?js$/.test(shownUrl(url));
  const digests = new Set(receipt.subject.map(({ digest }) => digest.sha256));
  const folders = new Set(known.filter((one) => isScript(one) && digests.has(one.sha256)).map(folderOf));
  const built = new Set(
    urlsOfBuild(receipt, known)
      .filter(isScript)
      .map(({ url }) => url),
  );
  return resources.flatMap((one) => {
    const isMissing = [404, 410].includes(one.status) || (isThere(one) && isPage(one));
    return one.isGuess && isMissing && built.has(one.url) && folders.has(folderOf(one))
      ? [{ url: one.url, status: one.status }]
      : [];
  });
}

function folderOf({ url }: { url: string }): string {
  return new URL('.', url).href;
}

/** The header of an answer that tells whether a cache in front of the site gave it. */
function cacheFacts({ resources }: Site, url: string): { cache?: string; fromServer?: string } {
  const state = cacheStateOf(resources.find((one) => one.url === url)?.headers ?? {});
  if (!state) return {};
  return state.answered ? { cache: state.header } : { fromServer: state.header };
}

/** Scripts of the served build that the site lacks: code that is loaded later fails. */
export function lackingFindings(site: Site): RawFinding[] {
  const { lacks, builds } = site.served;
  const [[first], [lacking]] = [builds, lacks];
  if (!first || !lacking) return [];
  const { url, status } = lacking;
  const about = { urls: lacks.map((one) => shownUrl(one.url)), status, builtAt: first.builtAt };
  return [siteFinding(site, shownUrl(url), finding('serve/missing-file', 'of-build', about, { level: 'warning' }))];
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
