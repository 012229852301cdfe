import type { ServedSite } from '../../core/contract/contract.js';
import { rulesOf } from '../../core/contract/rules.js';
import {
  isSecretInPlain,
  openAccess,
  parseResolve,
  type SiteAccess,
  withCookies,
} from '../../core/contract/site-access.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import { findingsReport } from '../../core/report/findings.js';
import { hostOf, isPrivateHost } from '../../host/addresses.js';
import { today, type World } from '../../host/world.js';
import { chooseBundle, openProject, type Project } from '../../project/open.js';
import { probe } from '../../project/probe.js';
import { headerIn } from '../../project/site-answers.js';
import type { ProbeCall } from '../commands/probe.js';
import type { OptionValues } from '../options.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words: [given = ''], options, world }: ProbeCall): Promise<number> {
  const project = openProject(world, options.contract);
  const { depth, also, header: headers, rate: perSecond, browser } = options;
  const served = given === '' ? servedSite(project, options, world) : { url: siteUrl(given), ...openAccess };
  const request = {
    url: served.url,
    access: withOptions(served, options, project, world),
    depth,
    also,
    headers,
    perSecond,
    browser,
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

/** The access that the contract gives, and that of the command line. @throws Failure for an option that is not of its form */
function withOptions(
  { headers, resolve, ca: declared }: SiteAccess,
  { 'site-header': more, cookie, resolve: addresses, ca }: OptionValues<'site-header' | 'cookie' | 'resolve' | 'ca'>,
  { files, root }: Project,
  { cwd }: World,
): SiteAccess {
  const named = Object.fromEntries(more.map((text) => headerIn(text, '--site-header')));
  const wrong = cookie.find((one) => !/^[^=;\s]+=[^;]*$/.test(one));
  if (wrong !== undefined)
    throw new Failure('--cookie is not of the form NAME=VALUE', "example: --cookie 'session={SITE_SESSION}'");
  const plain = Object.entries(withCookies(named, cookie)).find(([name, value]) => isSecretInPlain(name, value));
  if (plain)
    throw new Failure(
      `the header ${plain[0]} names no variable, and the command line is no place for a secret`,
      `write it as ${plain[0] === 'Cookie' ? "--cookie 'session={SITE_SESSION}'" : `--site-header '${plain[0]}: {SITE_LOGIN}'`}, and set that variable`,
    );
  const pairs = addresses.map((text) => {
    const pair = parseResolve(text);
    if (pair) return pair;
    throw new Failure(
      '--resolve is not of the form HOST:ADDRESS',
      'example: --resolve shop.saltmarsh.example:203.0.113.7',
    );
  });
  return {
    headers: withCookies({ ...headers, ...named }, cookie),
    resolve: { ...resolve, ...Object.fromEntries(pairs) },
    ca: ca === undefined ? declared : files.path.relative(root, files.path.resolve(cwd, ca)),
  };
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
