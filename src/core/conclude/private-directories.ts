import { lastName } from '../files/directories.js';
import { privateDirectory } from '../files/private-files.js';
import { privateFinding } from '../inspect/rules/private-file.js';
import type { Conclusion } from './conclusion.js';

/** Repositories are not searched, but must not ship. */
export const privateDirectories: Conclusion = {
  findings({ bundle, skipped }, { stage }) {
    if (bundle === undefined) return [];
    return skipped.flatMap((path) => {
      const found = privateDirectory(path);
      const place = { path, inside: [] };
      return found ? [privateFinding(found, lastName(path), place, { stage, audience: 'browser', bundle })] : [];
    });
  },
};
