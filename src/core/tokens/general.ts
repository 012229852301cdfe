import { publishable, secret, type TokenShape } from './shape.js';

const schemes =
  'postgres postgresql mysql mariadb mongodb mongodb+srv redis rediss amqp amqps mssql sqlserver clickhouse ftp sftp smtp smtps ldap ldaps';
const connection = /^[a-z]+(?:\+srv)?:\/\/[^\s:@/"'`<>\\]{0,100}:[^\s:@/"'`<>\\]{1,200}@[\w.-]{3,200}$/;

/** Secrets of no particular service. One entry per shape. */
export const generalShapes: readonly TokenShape[] = [
  secret('a private key', '-----BEGIN', /^\s*-----BEGIN ([A-Z]+ )*PRIVATE KEY( BLOCK)?-----[\s\S]*$/, {
    endOf: endOfKey,
  }),
  secret('a private key', 'AGE-SECRET-KEY-1', /^AGE-SECRET-KEY-1[0-9A-Z]{58}$/),
  secret(
    'a connection string with a password',
    schemes
      .split(' ')
      .map((one) => `${one}://`)
      .join(' '),
    connection,
    {
      accepts: hasRealPassword,
    },
  ),
  secret(
    'a URL with a password',
    'https:// http://',
    /^https?:\/\/[^\s:@/"'`<>\\]{1,100}:[^\s:@/"'`<>\\]{1,200}@[\w.-]{3,200}$/,
    {
      accepts: hasRealPassword,
    },
  ),
  publishable('an error tracker address', 'https://', /^https:\/\/[0-9a-f]{32}@[\w.-]{3,200}\/\d+$/),
  secret('a signed web token', 'eyJ', /^eyJ[\w-]{10,2000}\.eyJ[\w-]{10,4000}\.[\w-]{16,2000}$/, {
    accepts: isSigned,
    details: headerOf,
  }),
];

/** The end of a private key (RFC 7468); undefined for its header alone, which parsers of keys contain. */
function endOfKey(text: string, start: number): number | undefined {
  const end = text.indexOf('-----END', start);
  if (end < 0) return undefined;
  const body = text.slice(start, end).replace(/-----BEGIN[A-Z ]+-----|[\s\\nr"'`+,]/g, '');
  return body.length > SHORTEST_KEY ? end + '-----END'.length : undefined;
}

const SHORTEST_KEY = 100;

const placeholders =
  /^(?:x+|\*+|\.+|pass(?:word|wd)?|pwd|secret|user(?:name)?|root|admin|postgres|guest|test|example|changeme|my[\w-]*|your[\w-]*|some[\w-]*|token)\d{0,3}$/i;

/** Examples in documentation have a placeholder for the password, or a host that cannot exist. */
function hasRealPassword(url: string): boolean {
  const [, password = '', host = ''] = /:\/\/[^:]*:([^@]*)@(.*)$/.exec(url) ?? [];
  const isExample =
    /(^|\.)(localhost|example(\.(com|net|org))?|host(name)?|server|domain(\.com)?)$|^(127\.|0\.0\.0\.0|::1)/i;
  return password.length >= 3 && !placeholders.test(password) && !/[${}<>%]/.test(password) && !isExample.test(host);
}

/** The header of a signed web token names its algorithm (RFC 7519, 5; RFC 7515, 4.1.1). */
function isSigned(token: string): boolean {
  const header = partOf(token, 0);
  const payload = partOf(token, 1);
  if (typeof header?.alg !== 'string' || header.alg === 'none' || payload === undefined) return false;
  // The key of a backend for anonymous users is made for pages, and some tokens are examples of the standard and its libraries.
  return payload.role !== 'anon' && payload.sub !== '1234567890' && payload.iss !== 'joe';
}

/** Its algorithm and, as a day, when it expires (RFC 7519, 4.1.4): these grant no access. */
function headerOf(token: string): string[] {
  const alg = partOf(token, 0)?.alg;
  const exp = partOf(token, 1)?.exp;
  const isTime = typeof exp === 'number' && exp > 0 && exp < 1e11;
  return [
    ...(typeof alg === 'string' && /^[\w-]{2,12}$/.test(alg) ? [alg] : []),
    ...(isTime ? [`expires ${new Date(exp * 1000).toISOString().slice(0, 10)}`] : []),
  ];
}

/** A part of a signed web token, decoded. */
export function partOf(token: string, index: number): Record<string, unknown> | undefined {
  try {
    const part: unknown = JSON.parse(Buffer.from(token.split('.')[index] ?? '', 'base64url').toString());
    return typeof part === 'object' && part !== null ? (part as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}
