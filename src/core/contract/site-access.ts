import { isCredential, placeholdersIn } from './hosts.js';

/** Credentials and connection settings for a site. Headers contain placeholders such as `{SITE_LOGIN}` for their secrets. */
export interface SiteAccess {
  /** Headers for the site's own origin. */
  headers: Readonly<Record<string, string>>;
  /** IP address to connect to, by host name; overrides DNS. */
  resolve: Readonly<Record<string, string>>;
  /** File with additional trusted certificates (PEM), relative to the contract. */
  ca?: string | undefined;
}

/** Settings for a site that anybody can read. */
export const openAccess: SiteAccess = { headers: {}, resolve: {} };

export function isOpen({ headers, resolve, ca }: SiteAccess): boolean {
  return ca === undefined && Object.keys({ ...headers, ...resolve }).length === 0;
}

/** Header names that usually carry a credential. */
const secretHeader = /auth|cookie|token|key|secret|session|password|credential/i;

/** Tells whether a header that usually carries a credential has no placeholder for it. */
export function isSecretInPlain(name: string, template: string): boolean {
  return secretHeader.test(name) && !placeholdersIn(template).some(isCredential);
}

/** Adds cookies to the Cookie header (RFC 6265, 5.4). */
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

/** Recognises a login page by the path of its URL. */
export function isLogin(url: string): boolean {
  return /(^|[/_-])(log-?in|sign-?in|sso|auth|oauth2?|authorize)([/_.-]|$)/i.test(new URL(url).pathname);
}
