/** What a token of a public service looks like, as the service's own documentation gives it. */
export interface TokenShape {
  /** In words that go behind "the shape of". */
  name: string;
  /** A secret one must be known to nobody; a publishable one is made to stand in pages and apps. */
  kind: 'secret' | 'publishable';
  pattern: RegExp;
}

/** One line a shape. Patterns match the whole value. */
export const tokenShapes: readonly TokenShape[] = [
  { name: 'a private key', kind: 'secret', pattern: /^\s*-----BEGIN ([A-Z]+ )?PRIVATE KEY-----[\s\S]*$/ },
  { name: 'a payment service secret key', kind: 'secret', pattern: /^(sk|rk)_(live|test)_[A-Za-z0-9]{16,}$/ },
  { name: 'a payment service publishable key', kind: 'publishable', pattern: /^pk_(live|test)_[A-Za-z0-9]{16,}$/ },
  { name: 'a payment service webhook secret', kind: 'secret', pattern: /^whsec_[A-Za-z0-9+/=]{16,}$/ },
  {
    name: 'a code host access token',
    kind: 'secret',
    pattern: /^(gh[pousr]_[A-Za-z0-9]{36,}|github_pat_\w{60,}|glpat-[\w-]{20,})$/,
  },
  { name: 'a package registry token', kind: 'secret', pattern: /^npm_[A-Za-z0-9]{36}$/ },
  { name: 'a cloud access key id', kind: 'secret', pattern: /^(AKIA|ASIA)[A-Z2-7]{16}$/ },
  { name: 'a cloud browser key', kind: 'publishable', pattern: /^AIza[\w-]{35}$/ },
  { name: 'a chat service token', kind: 'secret', pattern: /^xox[abeoprs]-[\w-]{10,}$/ },
  { name: 'a mail service key', kind: 'secret', pattern: /^SG\.[\w-]{20,}\.[\w-]{30,}$/ },
  { name: 'a map service secret token', kind: 'secret', pattern: /^sk\.eyJ[\w-]+\.[\w-]+$/ },
  { name: 'a map service public token', kind: 'publishable', pattern: /^pk\.eyJ[\w-]+\.[\w-]+$/ },
  { name: 'a model service key', kind: 'secret', pattern: /^sk-(proj-|ant-)?[\w-]{32,}$/ },
];

export function shapeOf(value: string): TokenShape | undefined {
  // An address is none of them, and most values are addresses.
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
