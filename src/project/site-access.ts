import { isIP } from 'node:net';
import { rootCertificates } from 'node:tls';
import { fillTemplate, isCredential, placeholdersIn } from '../core/contract/hosts.js';
import type { SiteAccess } from '../core/contract/site-access.js';
import { Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { reveal } from '../core/secrets/secret.js';
import { describeFileError } from '../host/files.js';
import type { HttpSettings } from '../host/http.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';

/**
 * Headers with the values of the variables that they name: of the stage, or else of the environment.
 * @param asker the option or the key of the contract that has them @throws Failure if a variable has no value
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

/** Where connections go, and which certificates they trust. @throws Failure if the file with certificates cannot be read */
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
