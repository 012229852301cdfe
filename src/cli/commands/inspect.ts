import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [
  ...reportOptions,
  'stage',
  'bundle',
  'contents',
  'shard',
  'caches',
  'packages',
  'allow-incomplete',
  'receipts',
  'threads',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type InspectCall = Call<(typeof options)[number]>;

export const inspectArtifacts = defineCommand({
  name: 'inspect',
  positionals: [{ name: 'PATHS', help: "Files, directories or globs (default: the bundles' outputs)" }],
  about:
    'Searches built files for build and server values in every encoding, for values of other stages, and for values that changed since the build. Archives, source maps and data: URIs are unpacked.',
  options,
  examples: [
    ['adder inspect', 'the outputs of all bundles, for the stage of the last build'],
    ['adder inspect --stage production web/dist', 'one directory, built by any tool'],
    ['adder inspect --caches', 'include build caches, which pipelines may store'],
    ['adder inspect --shard 2/8 --format json --save part-2.json', 'one of eight parts'],
    ['adder inspect --format json --save report.json', 'JSON in a file, the summary on the terminal'],
  ],
  load: async () => (await import('../run/inspect.js')).run,
});
