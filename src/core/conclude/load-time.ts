import type { RawFinding } from '../findings/finding.js';
import { type SiteFacts, shownUrl } from '../probe/site.js';
import type { Conclusion } from './conclusion.js';

/**
 * Values that the app reads when it loads. Reported once, with the remedy that fits: another stage's value in the values file
 * needs no rebuild.
 */
export const loadTimeValues: Conclusion = {
  explains: ({ code, place, variable }, { loadTime, site }) =>
    code === 'stage/foreign-value' &&
    loadTime.some(
      (one) =>
        one.variable === variable && (one.place?.path === place?.path || isFilledAtStart(one, place?.path ?? '', site)),
    ),
  findings: ({ loadTime }) => loadTime,
};

/** Tells whether a server filled a file with the value when it started: every page that it renders has the value too. */
function isFilledAtStart({ variant }: RawFinding, path: string, site: SiteFacts | undefined): boolean {
  return variant === 'started' && (site?.startFiles.some((url) => shownUrl(url) === path) ?? false);
}
