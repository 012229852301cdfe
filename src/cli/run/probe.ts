import type { ServedSite } from '../../core/contract/contract.js';
import { rulesOf } from '../../core/contract/rules.js';
import { openAccess } from '../../core/contract/site-access.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { findingsReport } from '../../core/report/findings.js';
import { hostOf, isPrivateHost } from '../../host/addresses.js';
import { today, type World } from '../../host/world.js';
import { chooseBundle, openProject, type Project, withReceipts } from '../../project/open.js';
import { probe } from '../../project/probe.js';
import { requestedAccess } from '../../project/site-access.js';
import type { ProbeCall } from '../commands/probe.js';
import type { OptionValues } from '../options.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [given = ''], options, world }: ProbeCall): Promise<number> {
  const project = withReceipts(openProject(world, options.contract), options.receipts, world);
  const { depth, header: headers, rate: perSecond, browser, build } = options;
  const served = given === '' ? servedSite(project, options, world) : { url: siteUrl(given), also: [], ...openAccess };
  const request = {
    url: served.url,
    access: requestedAccess(
      served,
      { ...options, headers: options['site-header'], cookies: options.cookie },
      project,
      world,
    ),
    depth,
    also: [...served.also, ...options.also],
    headers,
    perSecond,
    browser,
    build,
    assetHosts: options['asset-host'],
  };
  const {
    stage,
    served: facts,
    isStopped,
    ...result
  } = await probe(project, { ...request, stage: options.stage, bundle: options.bundle }, world);
  const of = { command: 'probe', stage };
  const report = { ...findingsReport(of, [result], rulesOf(project.contract), today(world)), served: facts };
  const code = await printReport(report, options, world, { project });
  return isStopped ? EXIT.interrupted : code;
}

/** @throws Failure if the contract does not say where the bundle is served */
function servedSite(
  project: Project,
  { bundle: named, stage }: Partial<OptionValues<'bundle' | 'stage'>>,
  { cwd }: World,
): ServedSite {
  const bundle = chooseBundle(project, named, cwd);
  const site = stage === undefined ? undefined : bundle?.served[stage];
  if (site !== undefined) return site;
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
