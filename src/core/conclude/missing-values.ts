import { finding } from '../findings/finding.js';
import { siteOf } from '../probe/site.js';
import { isOtherBuild } from '../probe/version.js';
import { someWords } from '../text/nearest.js';
import { type Conclusion, MOST_NAMES } from './conclusion.js';
import type { OutputFacts } from './facts.js';

/** Public values that the code reads, and that nothing of a whole output contains. */
export const missingValues: Conclusion = {
  findings(output, { stage }, found) {
    const { bundle = '', uncached, reads, site } = output;
    // The values of another build, or of a script that was not deployed, are not on the site, and other findings say why.
    if (site && (isOtherBuild(siteOf(site, stage, bundle)) || site.served.lacks.length > 0)) return [];
    const own = found.filter((one) => one.bundle === bundle);
    // The list of changes since the served build reports this value.
    const changed = site?.served.since.flatMap(({ changes }) => changes) ?? [];
    const reported = new Set([...own, ...heldAtBuild(output), ...changed].map(({ variable }) => variable));
    return unseen(output).flatMap(({ variable, leavesTrace }) => {
      const read = reads.find((one) => one.variable === variable);
      if (!leavesTrace || !read || reported.has(variable)) return [];
      const wasGiven = !site && isGiven(output, variable);
      const about = { variable, stage, bundle, wasGiven, ...(!site && { uncached }) };
      return [finding('stale/missing-value', site ? 'on-site' : 'in-output', about, { place: read.place })];
    });
  },
  /** Without a receipt, a value that leaves no trace may be an old one. */
  doubts(output, { stage }) {
    const { bundle, reads, build, site } = output;
    if (bundle === undefined || build || site) return [];
    const names = unseen(output).flatMap(({ variable, leavesTrace }) =>
      !leavesTrace && reads.some((read) => read.variable === variable) ? [variable] : [],
    );
    if (names.length === 0) return [];
    return [
      {
        question: 'current',
        bundle,
        because: `${bundle} has no receipt, and a build may leave no trace of ${someWords(names, MOST_NAMES)}`,
        remedy: `build it with \`adder with ${stage} --bundle ${bundle}\`, which writes a receipt`,
      },
    ];
  },
  asks: ({ isWhole, site }) => (isWhole && !site ? ['allThere', 'current'] : []),
};

function unseen({ isWhole, expected, present }: OutputFacts): OutputFacts['expected'] {
  return isWhole ? expected.filter(({ variable }) => !present.includes(variable)) : [];
}

/** Tells whether the last build of the output had the value of today and put it nowhere. */
function isGiven({ build }: OutputFacts, variable: string): boolean {
  const built = build?.servesStage ? build.values.find((one) => one.variable === variable) : undefined;
  return built?.relation === 'same' && built.places.length === 0;
}

/** Values that the output contained after its build: their absence is reported by the receipt. */
function heldAtBuild({ build }: OutputFacts): { variable: string }[] {
  return build?.values.filter(({ places }) => places.length > 0) ?? [];
}
