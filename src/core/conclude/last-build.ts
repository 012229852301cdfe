import { stalenessFindings } from '../receipt/staleness.js';
import type { Conclusion } from './conclusion.js';
import { locator } from './located.js';

/** Compares a whole output with the receipt of its last build. */
export const lastBuild: Conclusion = {
  findings(output, { stage }) {
    const { build, isWhole, files, present } = output;
    if (!build || !isWhole) return [];
    const own = new Map(files.filter(({ inside }) => inside.length === 0).map((file) => [file.path, file]));
    const isUnchanged = ({ name, sha256 }: (typeof build.files)[number]) => own.get(name)?.sha256.includes(sha256);
    const now = {
      unchanged: new Set(build.files.filter(isUnchanged).map(({ name }) => name)),
      present: new Set(own.keys()),
      seen: new Set(present),
    };
    return stalenessFindings(stage, build, now, locator(output, build, own));
  },
};
