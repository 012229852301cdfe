import type { Doubt } from '../findings/check.js';
import { siteRules } from '../probe/rules/index.js';
import { siteOf } from '../probe/site.js';
import { isOtherBuild, lackingFindings, oldValueFindings, versionFindings } from '../probe/version.js';
import { count } from '../text/display.js';
import { someWords } from '../text/nearest.js';
import { type Conclusion, MOST_NAMES } from './conclusion.js';

/** Compares a site's answers with the needs of browsers. */
export const siteAnswers: Conclusion = {
  findings: ({ site, bundle = '' }, { stage }) =>
    site ? siteRules.flatMap((rule) => rule(siteOf(site, stage, bundle))) : [],
  /** The output that was built may have everything, and the site not. */
  doubts({ site, bundle = '', isWhole }) {
    if (!site) return [];
    const calls = unsearchedCalls(site.calls, bundle);
    if (isWhole) return calls;
    const because = site.unread === undefined ? `not all of the site of ${bundle} could be read` : notRead(bundle);
    return [...calls, { question: 'allThere', bundle, because, remedy: SEE_LIST }];
  },
};

const SEE_LIST = 'see the list of what could not be checked';

function notRead(bundle: string): string {
  return `the site of ${bundle} could not be read`;
}

/** Answers of an API that nobody searched: the server may put a secret into one. */
function unsearchedCalls(calls: readonly string[], bundle: string): Doubt[] {
  const paths = calls.map((url) => new URL(url).pathname);
  if (paths.length === 0) return [];
  const because = `the code of ${bundle} asks the site for ${someWords(paths, MOST_NAMES)}, and ${paths.length === 1 ? 'this answer was' : 'these answers were'} not searched`;
  return [{ question: 'nothingLeaked', bundle, because, remedy: `pass --also ${paths[0]}, or --browser` }];
}

/** Which build a site serves, by the digests in receipts. */
export const servedBuild: Conclusion = {
  findings({ site, bundle = '' }, { stage }) {
    if (!site) return [];
    const about = siteOf(site, stage, bundle);
    return [...versionFindings(about), ...lackingFindings(about), ...oldValueFindings(about)];
  },
  doubts({ site, bundle = '' }, { stage }) {
    if (!site) return [];
    const { builds, unknown, receipts } = site.served;
    const doubt = (because: string, remedy: string) => [{ question: 'current' as const, bundle, because, remedy }];
    if (site.unread !== undefined) return doubt(notRead(bundle), SEE_LIST);
    if (builds.length === 0)
      return doubt(
        receipts === 0
          ? `${bundle} has no receipt on this machine`
          : 'no receipt describes the files that the site serves',
        `build with \`adder with ${stage} --bundle ${bundle}\` on this machine, and deploy that build`,
      );
    if (site.served.isOfOtherKey && unknown.length === 0)
      return doubt(
        `the receipt of this build was written with a key that this machine lacks, so its values cannot be compared with those of ${stage}`,
        'probe where it was built, or give this machine the same .adder/key',
      );
    if (unknown.length === 0) return [];
    return doubt(
      `${count(unknown.length, 'file')} of the site ${unknown.length === 1 ? 'is' : 'are'} of no build that a receipt describes`,
      'see `served` in the JSON report, or inspect the output before it is deployed',
    );
  },
  asks({ site, bundle = '', isWhole }, { stage }) {
    if (!site) return [];
    const isRight = isWhole && !isOtherBuild(siteOf(site, stage, bundle));
    return [
      ...(site.served.builds.length > 0 ? (['current'] as const) : []),
      ...(isRight ? (['allThere'] as const) : []),
    ];
  },
};
