import { rulesOf } from '../core/contract/rules.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { findingsReport } from '../core/report/findings.js';
import { hostOf, isPrivateHost } from '../host/addresses.js';
import { today, type World } from '../host/world.js';
import { chooseBundle, openProject, type Project } from '../project/open.js';
import { probe } from '../project/probe.js';
import { defineCommand } from './command.js';
import { type OptionValues, reportOptions } from './options.js';
import { printReport } from './print.js';

export const probeSite = defineCommand({
  name: 'probe',
  positionals: [{ name: 'URL', help: 'The first page of the site (default: `served` of the bundle in the contract)' }],
  about:
    'Reads a served site: its page, everything that the page loads, and pages that it links to. Inspects all of it as `adder inspect` does, tells which build is served, and checks load-time values, caching, assets on other hosts, and paths that must not answer.',
  options: [
    ...reportOptions,
    'stage',
    'bundle',
    'depth',
    'also',
    'header',
    'asset-host',
    'browser',
    'rate',
    'allow-incomplete',
    'color',
    'debug',
  ],
  examples: [
    ['adder probe https://shop.saltmarsh.example', 'the site, against the newest build'],
    ['adder probe https://shop.saltmarsh.example --also /api/config', 'and an answer of its API'],
    ['adder probe http://localhost:4173 --stage staging', 'a site on this machine'],
  ],
  async run({ words: [given = ''], options, world }) {
    const project = openProject(world, options.contract);
    const { depth, also, header: headers, rate: perSecond, browser } = options;
    const request = {
      url: given === '' ? servedUrl(project, options, world) : siteUrl(given),
      depth,
      also,
      headers,
      perSecond,
      browser,
      assetHosts: options['asset-host'],
    };
    const { stage, served, isStopped, ...result } = await probe(
      project,
      { ...request, stage: options.stage, bundle: options.bundle },
      world,
    );
    const of = { command: 'probe', stage };
    const report = { ...findingsReport(of, [result], rulesOf(project.contract), today(world)), served };
    const code = await printReport(report, options, world, { project });
    return isStopped ? EXIT.interrupted : code;
  },
});

/** @throws Failure if the contract does not say where the bundle is served */
function servedUrl(
  project: Project,
  { bundle: named, stage }: Partial<OptionValues<'bundle' | 'stage'>>,
  { cwd }: World,
): string {
  const bundle = chooseBundle(project, named, cwd);
  const url = stage === undefined ? undefined : bundle?.served[stage];
  if (url !== undefined) return url;
  throw new Failure(
    stage === undefined
      ? 'adder probe needs a URL, or --stage'
      : `the contract has no URL of ${bundle?.name ?? 'a bundle'} for ${stage}`,
    `pass the URL, or add it to the bundle: \`served: { ${stage ?? 'production'}: https://shop.example/ }\``,
  );
}

/** @throws Failure for anything but a URL of the web */
function siteUrl(text: string): string {
  const url = parsedUrl(text);
  if (!url || !/^https?:$/.test(url.protocol))
    throw new Failure('this is not a URL of a site', 'example: adder probe https://shop.saltmarsh.example');
  if (url.username !== '' || url.password !== '')
    throw new Failure('the URL contains a user name or password', 'remove it: URLs are shown and logged');
  url.hash = '';
  return url.href;
}

/** Without a scheme, a host on this machine is asked without encryption, any other with it. */
function parsedUrl(text: string): URL | undefined {
  const hasScheme = /^[a-z][a-z0-9+.-]*:/i.test(text) && !/^[^/]*:\d+(\/|$)/.test(text);
  if (hasScheme) return URL.canParse(text) ? new URL(text) : undefined;
  if (!URL.canParse(`https://${text}`)) return undefined;
  const url = new URL(`https://${text}`);
  return isPrivateHost(hostOf(url)) ? new URL(`http://${text}`) : url;
}
