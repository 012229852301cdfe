import * as apps from './projects-apps.js';
import * as others from './projects-others.js';
import * as sites from './projects-sites.js';
import type { Stranger } from './stranger.js';

/** Every project, by the name of its directory. */
export const byFolder: Readonly<Record<string, Stranger>> = { ...sites, ...apps, ...others };

export const strangers: readonly Stranger[] = Object.values(byFolder);
