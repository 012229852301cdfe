import { isCredential, placeholdersIn } from './hosts.js';

/** How a site that is not open lets somebody in. Secrets are named in braces, `{SITE_LOGIN}`, and filled in when it is asked. */
export interface SiteAccess {
  /** Headers for the site's own origin. */
  headers: Readonly<Record<string, string>>;
  /** Host to the address that is asked in the place of the one that a name service gives. */
  resolve: Readonly<Record<string, string>>;
  /** A file with further certificates that are trusted (PEM), relative to the contract. */
  ca?: string | undefined;
}

/** The access to a site that is open to everybody. */
export const openAccess: SiteAccess = { headers: {}, resolve: {} };

export function isOpen({ headers, resolve, ca }: SiteAccess): boolean {
  return ca === undefined && Object.keys({ ...headers, ...resolve }).length === 0;
}

/** Names of headers that let somebody in. */
const secretHeader = /auth|cookie|token|key|secret|session|password|credential/i;

/** Tells whether a header has a secret as such, which shells and version control would keep. */
export function isSecretInPlain(name: string, template: string): boolean {
  return secretHeader.test(name) && !placeholdersIn(template).some(isCredential);
}

/** Headers with cookies beside one another, as a browser sends them (RFC 6265, 5.4). */
export function withCookies(
  headers: Readonly<Record<string, string>>,
  cookies: readonly string[],
): Record<string, string> {
  const own = Object.entries(headers).find(([name]) => name.toLowerCase() === 'cookie');
  const others = Object.fromEntries(Object.entries(headers).filter(([name]) => name !== own?.[0]));
  const all = [...(own ? [own[1]] : []), ...cookies];
  return all.length === 0 ? others : { ...others, Cookie: all.join('; ') };
}

/** Parses `HOST:ADDRESS`; an IPv6 address may be in brackets. */
export function parseResolve(text: string): [host: string, address: string] | undefined {
  const [, host, address] = /^([A-Za-z0-9.-]+):\[?([0-9A-Fa-f.:]+)\]?$/.exec(text) ?? [];
  return host === undefined || address === undefined ? undefined : [host.toLowerCase(), address];
}

/** A page of a login, by its path: an answer with one says nothing of the site that was asked for. */
export function isLogin(url: string): boolean {
  return /(^|[/_-])(log-?in|sign-?in|sso|auth|oauth2?|authorize)([/_.-]|$)/i.test(new URL(url).pathname);
}
