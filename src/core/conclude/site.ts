import { siteRules } from '../probe/rules/index.js';
import { siteOf } from '../probe/site.js';
import { isOtherBuild, oldValueFindings, versionFindings } from '../probe/version.js';
import { count } from '../text/display.js';
import type { Conclusion } from './conclusion.js';

/** Compares a site's answers with the needs of browsers. */
export const siteAnswers: Conclusion = {
  findings: ({ site, bundle = '' }, { stage }) =>
    site ? siteRules.flatMap((rule) => rule(siteOf(site, stage, bundle))) : [],
  /** The output that was built may have everything, and the site not. */
  doubts({ site, bundle = '', isWhole }) {
    if (!site || isWhole) return [];
    const because = `not all of the site of ${bundle} could be read`;
    return [{ question: 'allThere', bundle, because, remedy: 'see the list of what could not be checked' }];
  },
};

/** Which build a site serves, by the digests in receipts. */
export const servedBuild: Conclusion = {
  findings({ site, bundle = '' }, { stage }) {
    if (!site) return [];
    const about = siteOf(site, stage, bundle);
    return [...versionFindings(about), ...oldValueFindings(about)];
  },
  doubts({ site, bundle = '' }, { stage }) {
    if (!site) return [];
    const { builds, unknown, receipts } = site.served;
    const doubt = (because: string, remedy: string) => [{ question: 'current' as const, bundle, because, remedy }];
    if (builds.length === 0)
      return doubt(
        receipts === 0
          ? `${bundle} has no receipt on this machine`
          : 'no receipt describes the files that the site serves',
        `build with \`adder with ${stage} --bundle ${bundle}\` on this machine, and deploy that build`,
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
