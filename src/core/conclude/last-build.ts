import type { Doubt } from '../findings/check.js';
import type { BuildFacts } from '../receipt/build-facts.js';
import { stalenessFindings } from '../receipt/staleness.js';
import { someWords } from '../text/nearest.js';
import { type Conclusion, MOST_NAMES } from './conclusion.js';
import { locator } from './located.js';

/** Compares a whole output with the receipt of its last build. */
export const lastBuild: Conclusion = {
  findings(output, { stage }) {
    const { build, isWhole, files, present } = output;
    if (!build || !isWhole || isUndecided(build)) return [];
    const own = new Map(files.filter(({ inside }) => inside.length === 0).map((file) => [file.path, file]));
    const isUnchanged = ({ name, sha256 }: (typeof build.files)[number]) => own.get(name)?.sha256.includes(sha256);
    const now = {
      unchanged: new Set(build.files.filter(isUnchanged).map(({ name }) => name)),
      present: new Set(own.keys()),
      seen: new Set(present),
    };
    return stalenessFindings(stage, build, now, locator(output, build, own));
  },
  doubts({ build, isWhole }, { stage }) {
    if (!build || !isWhole) return [];
    if (build.isOfOtherKey) return [ofOtherKey(build, stage)];
    if (!build.servesStage) return [];
    const names = build.values.flatMap(({ variable, relation }) => (relation === 'unknown' ? [variable] : []));
    if (names.length === 0) return [];
    const [had, they, them] = names.length === 1 ? ['value', 'is', 'it'] : ['values', 'are', 'them'];
    return [
      {
        question: 'current',
        bundle: build.bundle,
        because: `the ${had} of ${someWords(names, MOST_NAMES)} in the build of ${build.bundle} ${they} of an environment that this shell lacks`,
        remedy: `set ${them} here as the build had ${them}, or inspect where it was built`,
      },
    ];
  },
};

/** A build for another stage may have equal values; only the key tells. */
export function isUndecided({ isOfOtherKey, servesStage }: BuildFacts): boolean {
  return isOfOtherKey === true && !servesStage;
}

/** Files of the build are known, and its values are not. */
function ofOtherKey({ bundle, receipt, stage: builtFor }: BuildFacts, stage: string): Doubt {
  return {
    question: 'current',
    bundle,
    because: `${receipt} was written with a key that this machine lacks, so the values of this build for ${builtFor} cannot be compared with those of ${stage}`,
    remedy: 'inspect where it was built, or give this machine the same .adder/key',
  };
}
