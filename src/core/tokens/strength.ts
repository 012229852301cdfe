import { shapeOf } from './shapes.js';

/** A secret grants access; a setting (a host, a port, a path, a plain word) does not. */
export type Strength = 'secret' | 'setting';

const wordSet = (words: string): ReadonlySet<string> => new Set(words.split(/\s+/));

/** Words in a name that mark its value as a secret, for variables of reach build or server. */
const secretWords = wordSet(
  'SECRET SECRETS PASS PASSWORD PASSWD PASSPHRASE PASSCODE PWD PIN PRIVATE CREDENTIAL CREDENTIALS SIGNING SALT AUTH TOKEN KEY APIKEY DSN COOKIE SEED HMAC',
);
/** Words that also name settings, as in SESSION_COOKIE=connect.sid: plain words are no secret under these alone. */
const looseWords =
  /^(?!.*(SECRET|PASS|PWD|PIN|PRIVATE|CREDENTIAL|SIGNING|TOKEN|KEY|DSN|HMAC)).*(COOKIE|AUTH|SEED|SALT)/;
/** Last words of a name that mark it as a setting, even if it contains a secret word. */
const settingWords = wordSet(
  `PUBLIC PUBLISHABLE ANON URL URI HOST PORT PATH FILE DIR NAME ENABLED TTL LENGTH SIZE ALGORITHM ISSUER AUDIENCE EXPIRES
  EXPIRY TIMEOUT HEADER PROVIDER DOMAIN REGION VERSION MODE PREFIX SUFFIX SAMESITE TYPE STRATEGY METHOD SCHEME ROUNDS
  LIFETIME AGE SCOPE SCOPES GRANT REALM ROLE ROLES STORE DRIVER LEVEL FORMAT ENCODING LABEL TITLE EMAIL USER USERNAME
  LOCALE ZONE BASE`,
);

/**
 * Tells whether a value of reach build or server is a secret, by its own text first and then by its variable's name.
 * @param name the variable's name
 */
export function strengthOf(name: string, value: string): Strength {
  const text = value.trim();
  if (isIdentifier(name, text)) return 'setting';
  if (isSecretByText(text)) return 'secret';
  if (!namesHiddenValue(name) || isSettingByText(text)) return 'setting';
  return looseWords.test(inWords(name)) && /^[a-z]+([._-][a-z]+)*$/i.test(text) ? 'setting' : 'secret';
}

/** Last words of the name of a commit, a build or a release, and of an identifier. */
const revisionWords = wordSet(
  'SHA SHA1 SHA256 COMMIT REVISION REV HASH DIGEST CHECKSUM BUILD RELEASE VERSION ID UUID GUID',
);

/** A commit id, digest or UUID looks random, but is no secret under a name that says so. */
function isIdentifier(name: string, text: string): boolean {
  if (!revisionWords.has(lastWord(inWords(name))) || namesHiddenValue(name)) return false;
  return /^([0-9a-f]{7,64}|[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12})$/i.test(text);
}

/** `authToken` as AUTH_TOKEN. */
function inWords(name: string): string {
  return name.replace(/([a-z0-9])([A-Z])/g, '$1_$2').toUpperCase();
}

function lastWord(upper: string): string {
  return upper.slice(upper.lastIndexOf('_') + 1);
}

/** Tells whether a name in capitals ends as the name of a setting does. */
function namesSetting(upper: string): boolean {
  return settingWords.has(lastWord(upper)) || /(^|_)(CLIENT|KEY)_ID$/.test(upper);
}

/** Tells whether a name says that its value is a secret. A number may follow a word, as in API_KEY2. */
export function namesHiddenValue(name: string): boolean {
  const upper = inWords(name);
  return upper.split('_').some((word) => secretWords.has(word.replace(/\d.*/, ''))) && !namesSetting(upper);
}

/** Words that mark a name as a secret's wherever they are in it. */
const plainSecretWords = wordSet(
  'SECRET SECRETS PASS PASSWORD PASSWD PASSPHRASE PASSCODE PWD PRIVATE CREDENTIAL CREDENTIALS SIGNING TOKEN TOKENS KEY KEYS APIKEY DSN HMAC',
);

/** The word of a name that may mark a secret; undefined if there is none, or if the name says that anybody may know it. */
export function secretWordIn(name: string): string | undefined {
  const words = inWords(name)
    .split('_')
    .map((word) => word.replace(/\d.*/, ''));
  if (words.some((word) => /^(PUBLIC|PUBLISHABLE|ANON)$/.test(word))) return undefined;
  const found = words.find((word) => plainSecretWords.has(word));
  return found ?? (namesHiddenValue(name) ? words.find((word) => secretWords.has(word)) : undefined);
}

/** Forms whose values grant no access. */
const formsOfSettings: ReadonlySet<string> = new Set(
  'flag integer number port date host email origin choice'.split(' '),
);

/** Tells whether an unknown value of a build or server variable may be a secret, by its name and form. */
export function mayHoldSecret(name: string, form: string): boolean {
  if (formsOfSettings.has(form)) return false;
  // The URL of a database has a password more often than not.
  const upper = inWords(name);
  return namesHiddenValue(name) || /(^|_)(URL|URI)$/.test(upper) || !namesSetting(upper);
}

/** Token shapes, keys, credentials in a URL, and random-looking strings. */
export function isSecretByText(text: string): boolean {
  if (shapeOf(text)?.kind === 'secret') return true;
  if (/-----BEGIN [A-Z ]*PRIVATE KEY/.test(text)) return true;
  if (hasCredentials(text)) return true;
  return tokenRuns(text).some(looksRandom);
}

/** Tells whether a URL in a text has a password (RFC 3986, 3.2.1). */
function hasCredentials(text: string): boolean {
  for (let at = text.indexOf('://'); at >= 0; at = text.indexOf('://', at + 3)) {
    password.lastIndex = at + 3;
    if (password.test(text)) return true;
  }
  return false;
}

/** Sticky, so that each character is read once and untrusted text takes linear time. */
const password = /[^/?#@\s:]*:[^/?#@\s]+@/y;

/** The longest pieces of a text without separators that words and paths have. */
function tokenRuns(text: string): string[] {
  // A URL's host and path are settings, so they are checked piece by piece.
  return text.split(/[\s"'`,;:/?#@&()[\]{}<>.|\\]+/).filter(({ length }) => length >= 16);
}

/**
 * Tells whether a run of characters looks random: long hexadecimal, or letters and digits that alternate often. Words joined by
 * dashes or in camel case alternate rarely.
 */
export function looksRandom(run: string): boolean {
  if (/^[0-9a-f]{20,}$/i.test(run)) return /\d/.test(run) && /[a-f]/i.test(run) && new Set(run).size >= 6;
  const letters = run.replace(/[-_+=]/g, '');
  if (letters.length < 16 || new Set(letters).size < 8) return false;
  let changes = 0;
  for (let i = 1; i < letters.length; i++) if (kindOf(letters[i]) !== kindOf(letters[i - 1])) changes++;
  return changes >= letters.length / 4 && /\d/.test(letters);
}

function kindOf(character = ''): 'digit' | 'upper' | 'lower' {
  if (character >= '0' && character <= '9') return 'digit';
  return character >= 'A' && character <= 'Z' ? 'upper' : 'lower';
}

/** URLs without credentials, hosts, addresses, paths, flags, versions and locales. */
function isSettingByText(text: string): boolean {
  return (
    /^[a-z][a-z0-9+.-]*:\/\/[^@\s]*$/i.test(text) ||
    /^(true|false|yes|no|on|off|null|undefined|none|\d{1,3})$/i.test(text) ||
    /^\S+@[\w-]+(\.[\w-]+)+$/.test(text) ||
    /^\.{0,2}\/[\w./-]*$/.test(text) ||
    /^v?\d+(\.\d+){1,3}$/.test(text) ||
    /^[a-z]{2}([-_][A-Z]{2})?$/.test(text)
  );
}
