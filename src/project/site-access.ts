import { isIP } from 'node:net';
import { rootCertificates } from 'node:tls';
import { fillTemplate, isCredential, placeholdersIn } from '../core/contract/hosts.js';
import { isSecretInPlain, parseResolve, type SiteAccess, withCookies } from '../core/contract/site-access.js';
import { Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { parseHeader } from '../core/probe/also.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { describeFileError } from '../host/files.js';
import type { HttpSettings } from '../host/http.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';

/** Access settings of the command line, as its words. */
export interface AccessOptions {
  headers: readonly string[];
  cookies: readonly string[];
  resolve: readonly string[];
  ca?: string | undefined;
}

/** Adds settings of the command line to those of the contract. @throws Failure for a value of the wrong form, or with a secret */
export function requestedAccess(
  declared: SiteAccess,
  { headers, cookies, resolve, ca }: AccessOptions,
  { files, root }: Pick<Project, 'files' | 'root'>,
  { cwd }: Pick<World, 'cwd'>,
): SiteAccess {
  const named = headersIn(headers, '--site-header');
  if (cookies.some((one) => !/^[^=;\s]+=[^;]*$/.test(one)))
    throw new Failure('--cookie is not of the form NAME=VALUE', "example: --cookie 'session={SITE_SESSION}'");
  refuseSecrets(withCookies(named, cookies));
  return {
    headers: withCookies({ ...declared.headers, ...named }, cookies),
    resolve: { ...declared.resolve, ...Object.fromEntries(resolve.map(resolveIn)) },
    ca: ca === undefined ? declared.ca : files.path.relative(root, files.path.resolve(cwd, ca)),
  };
}

/** Parses headers by their names. @param option the option that has them @throws Failure unless each is of the form `Name: value` */
export function headersIn(texts: readonly string[], option: string): Record<string, string> {
  const pairs = texts.map((text) => {
    const header = parseHeader(text);
    if (header) return header;
    throw new Failure(
      `${option} is not of the form "Name: value"`,
      `example: ${option} "Authorization: Bearer {API_TOKEN}"`,
    );
  });
  return Object.fromEntries(pairs);
}

function refuseSecrets(headers: Readonly<Record<string, string>>): void {
  const [plain] = Object.entries(headers).find(([name, value]) => isSecretInPlain(name, value)) ?? [];
  if (plain === undefined) return;
  const right = plain === 'Cookie' ? "--cookie 'session={SITE_SESSION}'" : `--site-header '${plain}: {SITE_LOGIN}'`;
  throw new Failure(
    `the header ${plain} names no variable, and the command line is no place for a secret`,
    `write it as ${right}, and set that variable`,
  );
}

function resolveIn(text: string): [host: string, address: string] {
  const pair = parseResolve(text);
  if (pair) return pair;
  throw new Failure(
    '--resolve is not of the form HOST:ADDRESS',
    'example: --resolve shop.saltmarsh.example:203.0.113.7',
  );
}

/**
 * Replaces placeholders in headers with values from the stage or the environment.
 * @param asker the option or contract key that has the headers, for messages @throws Failure if a variable has no value
 */
export function filledHeaders(
  headers: Readonly<Record<string, string>>,
  asker: string,
  { resolution, world }: { resolution: Resolution; world: World },
): Record<string, string> {
  const textOf = (name: string) => {
    const own = resolution.values.get(name)?.value;
    return own ? reveal(own) : world.env[name];
  };
  const names = Object.values(headers).flatMap(placeholdersIn).filter(isCredential);
  const missing = names.find((name) => !textOf(name));
  if (missing !== undefined)
    throw new Failure(`${missing} has no value, and ${asker} needs it`, 'set it in the environment');
  world.outlet.protect(names.flatMap((name) => textOf(name) ?? []));
  const filled = Object.entries(headers).map(([name, template]) => [name, fillTemplate(template, textOf)] as const);
  // RFC 9110, 5.5: a line break would begin another header.
  for (const [name, value] of filled)
    if (/[\r\n\0]/.test(value)) throw new Failure(`the value of the header ${name} has a line break`, 'remove it');
  return Object.fromEntries(filled);
}

/** Checks the address overrides and reads the extra certificates. @throws Failure if one of them is invalid */
export function connections(
  { resolve, ca }: SiteAccess,
  { files, root }: Pick<Project, 'files' | 'root'>,
  { env }: Pick<World, 'env'>,
): Pick<HttpSettings, 'resolve' | 'ca'> {
  for (const [host, address] of Object.entries(resolve))
    if (isIP(address) === 0) throw new Failure(`${address} of ${host} is not an IP address`, 'example: 203.0.113.7');
  const hasProxy = ['http_proxy', 'https_proxy'].some((name) => env[name] ?? env[name.toUpperCase()]);
  if (hasProxy && Object.keys(resolve).length > 0)
    throw new Failure('a proxy looks up the names of hosts itself', 'add the host to NO_PROXY, or leave --resolve out');
  if (ca === undefined) return { resolve };
  const text = textOfFile(files, files.path.resolve(root, ca), ca);
  if (!text.includes('-----BEGIN CERTIFICATE-----'))
    throw new Failure(`${ca} has no certificate`, 'name a file of certificates in PEM form');
  return { resolve, ca: [...rootCertificates, text] };
}

function textOfFile(files: Project['files'], path: string, shown: string): string {
  try {
    return files.readRegular(path, limits.pageBytes.value).toString();
  } catch (error) {
    throw new Failure(`${shown} ${describeFileError(error)}`, 'name a file of certificates in PEM form');
  }
}
