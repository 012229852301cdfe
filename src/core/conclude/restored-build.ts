import { finding } from '../findings/finding.js';
import type { BuildFacts } from '../receipt/build-facts.js';
import { oncePer } from '../text/once.js';
import type { Conclusion } from './conclusion.js';
import type { OutputFacts } from './facts.js';

/** Codes of findings that a restored build explains. */
const ofOtherBuild = /^stale\/(past-value|missing-value)$/;

/** Detects an output that contains an earlier build: somebody or a deployment restored its files. */
export const restoredBuild: Conclusion = {
  explains: ({ code, variant, bundle }, output) =>
    bundle === output.bundle &&
    restored(output) !== undefined &&
    (ofOtherBuild.test(code) || (code === 'stale/receipt' && variant !== 'clock')),
  findings(output, { stage }) {
    const earlier = restored(output);
    const { build } = output;
    if (!earlier || !build) return [];
    const changed = earlier.values.filter(({ relation }) => /^(changed|withdrawn)$/.test(relation));
    const about = {
      ...{ rebuild: build.rebuild, bundle: build.bundle, builtAt: earlier.builtAt, last: build.builtAt },
      variables: changed.map(({ variable }) => variable),
    };
    const level = changed.length > 0 || earlier.added.length > 0 ? ('error' as const) : ('warning' as const);
    const place = { path: build.receipt, inside: [] };
    return [finding('stale/receipt', 'restored', about, { stage, bundle: build.bundle, place, level })];
  },
};

/** Finds the newest earlier build whose files all exist, in an output where files of the last build are missing or changed. */
const restored = oncePer(({ isWhole, build, earlier, files }: OutputFacts): BuildFacts | undefined => {
  if (!isWhole || !build?.servesStage) return undefined;
  const own = new Map(files.filter(({ inside }) => inside.length === 0).map((file) => [file.path, file.sha256]));
  const isThere = ({ name, sha256 }: BuildFacts['files'][number]) => own.get(name)?.includes(sha256) === true;
  if (build.files.every(isThere)) return undefined;
  return earlier.find((one) => one.servesStage && one.files.length > 0 && one.files.every(isThere));
});
