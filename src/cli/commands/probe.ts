import { type Call, defineCommand } from '../command.js';
import { reportOptions } from '../options.js';

const options = [
  ...reportOptions,
  'stage',
  'bundle',
  'receipts',
  'build',
  'depth',
  'also',
  'header',
  'site-header',
  'cookie',
  'resolve',
  'ca',
  'asset-host',
  'browser',
  'rate',
  'allow-incomplete',
  'color',
  'debug',
] as const;

/** The call of this command. */
export type ProbeCall = Call<(typeof options)[number]>;

export const probeSite = defineCommand({
  name: 'probe',
  positionals: [{ name: 'URL', help: 'The first page of the site (default: `served` of the bundle in the contract)' }],
  about:
    'Reads a served site: its page, everything that the page loads, and pages that it links to. Inspects all of it as `adder inspect` does, tells which build is served, and checks load-time values, caching, assets on other hosts, and paths that must not answer.',
  options,
  examples: [
    ['adder probe https://shop.saltmarsh.example', 'the site, against the newest build'],
    ['adder probe https://shop.saltmarsh.example --also /api/config', 'and an answer of its API'],
    ["adder probe https://preview.saltmarsh.example --cookie 'session={PREVIEW_SESSION}'", 'a site behind a login'],
    ['adder probe https://shop.saltmarsh.example --build previous', 'after a rollback'],
    ['adder probe http://localhost:4173 --stage staging', 'a site on this machine'],
  ],
  load: async () => (await import('../run/probe.js')).run,
});
