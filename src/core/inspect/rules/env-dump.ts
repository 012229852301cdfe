import { finding } from '../../findings/finding.js';
import { type ArtifactRule, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are variables which only a build's environment has. */
const BUILD_ENVIRONMENT = 'build-environment';

const marks = [
  'npm_lifecycle_event',
  'npm_config_user_agent',
  'npm_package_json',
  'npm_execpath"',
  'USERPROFILE"',
  'GITHUB_ACTIONS"',
  'GITHUB_WORKSPACE',
  'HOSTNAME":"',
  '"LOGNAME":"',
  // A build with `adder with` has few other names.
  '"ADDER_BUNDLE":"',
];

/** Keys of an object that is the environment; a script that reads them has no value after the name. */
const environmentKey =
  /["']?\b(npm_(?:lifecycle_event|lifecycle_script|config_[a-z_]+|package_[a-z_]+|execpath|node_execpath|command)|PATH|HOME|PWD|OLDPWD|USER|LOGNAME|SHELL|SHLVL|TERM|LANG|HOSTNAME|EDITOR|USERPROFILE|APPDATA|LOCALAPPDATA|SYSTEMROOT|COMPUTERNAME|USERNAME|GITHUB_[A-Z_]+|RUNNER_[A-Z_]+|ADDER_(?:STAGE|BUNDLE)|CI)["']?\s*:\s*["']/g;

/** Programs that were compiled for the web bring a made-up environment. */
const madeUp = /\{[^{}]*web_user[^{}]*\}/g;

const FEWEST_KEYS = 4;
const REACH = 8 * 1024;

/** The environment of the build as an object: some define option or plugin was given all of it. */
export const envDumps: ArtifactRule = {
  codes: ['leak/env-dump'],
  marks: ({ unknownSecrets }) => (unknownSecrets ? marksFor(BUILD_ENVIRONMENT, marks) : []),
  async check(hits, { content, inspected, describe }) {
    const [first] = hits;
    if (!first || inspected.audience === 'cache') return [];
    const text = Buffer.from(content.read(Math.max(0, first.start - REACH), first.end + REACH)).toString('latin1');
    // A string of JSON in a script has its quotes escaped.
    const names = new Set(
      [...text.replaceAll('\\', '').replace(madeUp, '').matchAll(environmentKey)].map(([, name = '']) => name),
    );
    if (names.size < FEWEST_KEYS) return [];
    const [described] = await describe([{ start: first.start, end: first.end }]);
    const { excerpt: _, ...where } = described ?? { place: { ...content.where } };
    const more = {
      ...(inspected.audience === 'server' && { level: 'warning' as const }),
      ...subject(inspected),
      ...where,
    };
    return [finding('leak/env-dump', 'object', { names: [...names] }, more)];
  },
};
