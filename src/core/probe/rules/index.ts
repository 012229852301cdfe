import type { SiteRule } from '../site.js';
import { keptFiles } from './caching.js';
import { crossOrigin } from './cross-origin.js';
import { missingFiles } from './missing.js';
import { wrongTypes } from './types.js';

/** The rules over a site's answers, in the order of their findings. */
export const siteRules: readonly SiteRule[] = [missingFiles, wrongTypes, crossOrigin, keptFiles];
