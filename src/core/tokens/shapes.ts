/** The form of a public service's tokens, as the service documents it. */
export interface TokenShape {
  /** A noun phrase with its article: "a package registry token". */
  name: string;
  /** A secret one must stay unknown; a publishable one is made for pages and apps. */
  kind: 'secret' | 'publishable';
  /** Every token starts with one of these. Text is searched for them first, because nearly no text has any. */
  marks: readonly string[];
  /** Matches a whole token. */
  pattern: RegExp;
  /** The end of a token that starts at an offset; without it, a run of token characters. */
  endOf?(text: string, start: number): number | undefined;
}

/** One line per shape. */
export const tokenShapes: readonly TokenShape[] = [
  {
    name: 'a private key',
    kind: 'secret',
    marks: ['-----BEGIN '],
    pattern: /^\s*-----BEGIN ([A-Z]+ )?PRIVATE KEY-----[\s\S]*$/,
    endOf: endOfKey,
  },
  {
    name: 'a payment service secret key',
    kind: 'secret',
    marks: ['sk_live_', 'sk_test_', 'rk_live_', 'rk_test_'],
    pattern: /^(sk|rk)_(live|test)_[A-Za-z0-9]{16,}$/,
  },
  {
    name: 'a payment service publishable key',
    kind: 'publishable',
    marks: ['pk_live_', 'pk_test_'],
    pattern: /^pk_(live|test)_[A-Za-z0-9]{16,}$/,
  },
  {
    name: 'a payment service webhook secret',
    kind: 'secret',
    marks: ['whsec_'],
    pattern: /^whsec_[A-Za-z0-9+/=]{16,}$/,
  },
  {
    name: 'a code host access token',
    kind: 'secret',
    marks: ['ghp_', 'gho_', 'ghu_', 'ghs_', 'ghr_', 'github_pat_', 'glpat-'],
    pattern: /^(gh[pousr]_[A-Za-z0-9]{36,}|github_pat_\w{60,}|glpat-[\w-]{20,})$/,
  },
  { name: 'a package registry token', kind: 'secret', marks: ['npm_'], pattern: /^npm_[A-Za-z0-9]{36}$/ },
  { name: 'a cloud access key id', kind: 'secret', marks: ['AKIA', 'ASIA'], pattern: /^(AKIA|ASIA)[A-Z2-7]{16}$/ },
  { name: 'a cloud browser key', kind: 'publishable', marks: ['AIza'], pattern: /^AIza[\w-]{35}$/ },
  {
    name: 'a chat service token',
    kind: 'secret',
    marks: ['xoxa-', 'xoxb-', 'xoxe-', 'xoxo-', 'xoxp-', 'xoxr-', 'xoxs-'],
    pattern: /^xox[abeoprs]-[\w-]{10,}$/,
  },
  { name: 'a mail service key', kind: 'secret', marks: ['SG.'], pattern: /^SG\.[\w-]{20,}\.[\w-]{30,}$/ },
  { name: 'a map service secret token', kind: 'secret', marks: ['sk.eyJ'], pattern: /^sk\.eyJ[\w-]+\.[\w-]+$/ },
  { name: 'a map service public token', kind: 'publishable', marks: ['pk.eyJ'], pattern: /^pk\.eyJ[\w-]+\.[\w-]+$/ },
  { name: 'a model service key', kind: 'secret', marks: ['sk-'], pattern: /^sk-(proj-|ant-)?[\w-]{32,}$/ },
];

/** The shape of a whole value. */
export function shapeOf(value: string): TokenShape | undefined {
  // Most values are URLs, and no token is one.
  if (value.startsWith('http')) return undefined;
  return tokenShapes.find(({ pattern }) => pattern.test(value));
}

/** Words that name a secret; `KEY` and `TOKEN` alone do not, as many of them are made to be public. */
const secretWords =
  /(^|_)(SECRET|SECRETS|PASSWORD|PASSWD|PASSPHRASE|PRIVATE|CREDENTIALS?|SIGNING|SERVICE_ROLE|ADMIN_KEY|DATABASE_URL|CONNECTION_STRING|ENCRYPTION_KEY)(_|$)/;
const publicWords = /(^|_)(PUBLIC|PUBLISHABLE|ANON|CLIENT_ID)(_|$)/;

/** Whether a variable's name is a secret's. */
export function namesSecret(name: string): boolean {
  const upper = name.toUpperCase();
  return secretWords.test(upper) && !publicWords.test(upper);
}

/** The end of a private key (RFC 7468); undefined for its header alone, which parsers of keys contain. */
function endOfKey(text: string, start: number): number | undefined {
  const end = text.indexOf('-----END', start);
  if (end < 0) return undefined;
  const body = text.slice(start, end).replace(/-----BEGIN[A-Z ]+-----|[\s\\nr"'`+,]/g, '');
  return body.length > SHORTEST_KEY ? end + '-----END'.length : undefined;
}

const SHORTEST_KEY = 100;
