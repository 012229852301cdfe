import type { RawFinding } from '../findings/finding.js';
import type { Resource } from './resource.js';

/** A site after its files were fetched. */
export interface Site {
  /** The URL of the first page, after redirects. */
  url: string;
  stage: string;
  bundle: string;
  /** Everything that was asked for, in the order of the answers. */
  resources: readonly Resource[];
  /** URLs of scripts with load-time values. */
  valueFiles: ReadonlySet<string>;
  /** Service workers, each with the URLs that it names. */
  workers: ReadonlyMap<string, readonly string[]>;
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
