import type { Since } from '../findings/change.js';
import type { RawFinding } from '../findings/finding.js';
import type { Resource } from './resource.js';

/** Which builds a site serves, by the receipts of a bundle. Builds that explain most files come first. */
export interface ServedFacts {
  /** Number of receipts that the files were compared with. */
  receipts: number;
  builds: { bundle: string; stage: string; builtAt: string; urls: string[] }[];
  /** URLs of files that no receipt describes. */
  unknown: string[];
  /** The newest build that is right for the stage: of this stage, or of another one with the same inlined values. */
  newest?: { stage: string; builtAt: string };
  /** The build that should be there, if the user named one. */
  declared?: { stage: string; builtAt: string };
  /** True if the served build has the values that the newest one has. */
  hasAllValues?: true;
  /** True if its values cannot be compared here: the fingerprints of its receipt are of another machine's key. */
  isOfOtherKey?: true;
  /** Scripts of the served build that the site lacks, beside others that it has. */
  lacks: { url: string; status: number }[];
  /** Changes since the served build. */
  since: Since[];
}

/** Facts about a site, as plain data. */
export interface SiteFacts {
  /** The URL of the first page, after redirects. */
  url: string;
  /** Why the site could not be read at all, as a phrase after its URL. */
  unread?: string;
  /** Everything that was asked for, in the order of the answers. */
  resources: readonly Resource[];
  /** URLs of scripts with load-time values. */
  valueFiles: readonly string[];
  /** Service workers, each with the URLs that it names. */
  workers: readonly { url: string; names: readonly string[]; keepsPage?: true }[];
  /** URLs of pages and scripts that a framework's server fills with values when it starts. */
  startFiles: readonly string[];
  /** Requests of an API that the pages' code sends to the site, and whose answers were not searched. */
  calls: readonly string[];
  served: ServedFacts;
}

/** A site with the stage and the bundle that it should be of. */
export interface Site extends SiteFacts {
  stage: string;
  bundle: string;
}

/** A site while it is read. */
export type AskedSite = Pick<Site, 'url' | 'stage' | 'bundle' | 'resources'>;

export function siteOf(facts: SiteFacts, stage: string, bundle: string): Site {
  return { ...facts, stage, bundle };
}

/** One check of a site's answers. One file per rule, one line in rules/index.ts. */
export type SiteRule = (site: Site) => RawFinding[];

/** A finding about one URL. */
export function siteFinding(
  { stage, bundle }: Pick<Site, 'stage' | 'bundle'>,
  url: string,
  of: RawFinding,
): RawFinding {
  return { ...of, stage, bundle, place: { path: url, inside: [] } };
}

/** A URL as text of a finding: without its query, which may hold anything. */
export function shownUrl(url: string): string {
  const { origin, pathname } = new URL(url);
  return origin + pathname;
}
