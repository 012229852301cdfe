import { finding } from '../../findings/finding.js';
import { isThere, type ResourceKind } from '../resource.js';
import { type SiteRule, shownUrl, siteFinding } from '../site.js';

/** Links to other pages and source maps are not loaded by browsers; an app works without icons. */
const levels: Readonly<Partial<Record<ResourceKind, 'error' | 'warning' | 'note'>>> = {
  script: 'error',
  style: 'error',
  font: 'warning',
  image: 'note',
  manifest: 'note',
};

/** Files that the site names and does not have. */
export const missingFiles: SiteRule = (site) =>
  site.resources.flatMap((resource) => {
    const level = levels[resource.kind];
    if (resource.isGuess || isThere(resource) || level === undefined || resource.from === undefined) return [];
    const about = { url: shownUrl(resource.url), status: resource.status };
    return [siteFinding(site, shownUrl(resource.from), finding('serve/missing-file', 'answer', about, { level }))];
  });
