import type { Toolchain } from './toolchain.js';

/** Names that no project declares: a tool, a host or the machine sets them. */
interface KnownNames {
  /** Build tools replace these in code, or set them for the build. */
  tools: readonly string[];
  /** Every process has these from its machine. */
  machine: readonly string[];
  /** Pipelines and hosts set these. */
  pipelines: readonly string[];
}

/** `*` stands for the rest of a name. */
export const knownNames: KnownNames = {
  tools: [
    ...[
      'NODE_ENV',
      'LEGACY',
      'STORYBOOK',
      'VITEST',
      'JEST_WORKER_ID',
      'ADDER_STAGE',
      'ADDER_BUNDLE',
      'ANALYZE',
      'BROWSERSLIST*',
    ],
  ],
  machine: [
    ...['PATH', 'HOME', 'PWD', 'USER', 'SHELL', 'TERM', 'TZ', 'LANG', 'HOSTNAME', 'TMPDIR', 'TEMP', 'TMP'],
    ...['NO_COLOR', 'FORCE_COLOR', 'DEBUG', 'NODE_OPTIONS', 'NODE_PATH', 'npm_*'],
  ],
  pipelines: [
    ...[
      'CI',
      'CI_*',
      'GITHUB_*',
      'GITLAB_*',
      'CIRCLE_*',
      'TRAVIS',
      'TRAVIS_*',
      'BITBUCKET_*',
      'BUILDKITE',
      'BUILDKITE_*',
    ],
    ...['TF_BUILD', 'BUILD_SOURCEVERSION', 'BUILD_BUILDNUMBER', 'JENKINS_URL', 'GIT_COMMIT', 'GIT_BRANCH'],
    ...['PORT', 'HOST', 'VERCEL', 'VERCEL_*', 'NETLIFY', 'COMMIT_REF', 'DEPLOY_URL', 'DEPLOY_PRIME_URL', 'CF_PAGES*'],
    ...['RENDER', 'RENDER_*', 'RAILWAY_*', 'FLY_*', 'DYNO', 'HEROKU_*', 'K_SERVICE', 'K_REVISION', 'WEBSITE_*'],
  ],
};

/** Set by build tools in all code that they build. */
const isCommonToolName = namesIn(knownNames.tools);

/** Set by a bundle's tool in the code that it builds. */
export function isToolName(name: string, { sets }: Pick<Toolchain, 'sets'>): boolean {
  return isCommonToolName(name) || sets?.includes(name) === true;
}

/** Set by pipelines and hosts. */
export const isPipelineName = namesIn(knownNames.pipelines);

/** Set by a tool, the machine or the pipeline, so not a variable of the project. */
export const isForeignName = namesIn([...knownNames.tools, ...knownNames.machine, ...knownNames.pipelines]);

/** Matches names, which may start or end with `*`. @param flags of the regular expression */
export function namesIn(patterns: readonly string[], flags = ''): (name: string) => boolean {
  const alternatives = patterns.map((one) => one.replace(/[()]/g, '\\$&').replace('*', '\\w+'));
  const expression = new RegExp(`^(${alternatives.join('|')})$`, flags);
  return (name) => expression.test(name);
}
