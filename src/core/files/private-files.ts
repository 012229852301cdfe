/** A kind of file that belongs to developers or servers, and to nobody who gets the artifact. */
export interface PrivateFile {
  /** A phrase with its article, such as `a private key`. */
  what: string;
  /** Matches a path with `/`. */
  path: RegExp;
  /** Pattern for the first bytes in Latin-1, if the name alone is not enough. */
  begins?: RegExp | readonly string[];
  /** Tells whether it grants access to something. */
  isSecret?: true;
}

/** DER: a sequence whose length takes two bytes (ITU-T X.690, 8.1). */
const der = ['0\x82'];
const pem = /-----BEGIN (?:[A-Z]+ )?PRIVATE KEY-----/;

/**
 * One line per kind. A file that a directory always has stands for the directory. Sources: RFC 7292 (PKCS #12), RFC 7468 (PEM), the
 * key store formats of Java, and the layouts of version control and editors.
 */
export const privateFiles: readonly PrivateFile[] = [
  {
    what: 'a Java key store',
    // Everybody has the key of debug builds.
    path: /(?<!\bdebug)\.(jks|keystore)$/i,
    begins: ['\xfe\xed\xfe\xed', '\xce\xce\xce\xce', ...der, '\0\0\0\x01', '\0\0\0\x02'],
    isSecret: true,
  },
  { what: 'a PKCS #12 key store', path: /\.(p12|pfx)$/i, begins: der, isSecret: true },
  { what: 'a private key', path: /\.(pem|key|p8|pkcs8)$/i, begins: pem, isSecret: true },
  { what: 'a private SSH key', path: /(^|\/)id_(rsa|dsa|ecdsa|ed25519)$/, isSecret: true },
  { what: 'a private key of PuTTY', path: /\.ppk$/i, begins: /^PuTTY-User-Key-File/, isSecret: true },
  { what: 'a password file of a web server', path: /(^|\/)\.htpasswd$/, isSecret: true },
  {
    what: 'the credentials of a package registry',
    path: /(^|\/)\.(npmrc|yarnrc|yarnrc\.yml|pypirc)$/,
    begins: /_authToken|_auth\b|npmAuthToken|password/,
    isSecret: true,
  },
  { what: 'the credentials of a network client', path: /(^|\/)\.(netrc|git-credentials)$/, isSecret: true },
  { what: 'a git repository', path: /(^|\/)\.git\/HEAD$/ },
  { what: 'a Subversion working copy', path: /(^|\/)\.svn\/(entries|wc\.db)$/ },
  { what: 'a Mercurial repository', path: /(^|\/)\.hg\/requires$/ },
  { what: "an editor's file", path: /(^|\/)(\.idea\/workspace\.xml|\.vscode\/(settings|launch)\.json)$/ },
];

/** A fast check before {@link privateFiles}: accepts every file that they match, and a few others. @param name without directories */
export function mayBePrivate(name: string): boolean {
  return /^\.|^id_|\.(jks|keystore|p12|pfx|pem|key|p8|pkcs8|ppk)$|^(HEAD|entries|wc\.db|requires|workspace\.xml|settings\.json|launch\.json)$/i.test(
    name,
  );
}

/** Describes a directory that must not ship and that a search of artifacts skips. @param path with `/` */
export function privateDirectory(path: string): PrivateFile | undefined {
  return privateFiles.find((one) => one.path.test(`${path}/HEAD`));
}

/** Tells whether the first bytes of a file are those of a kind. @param head in Latin-1 */
export function hasBeginning({ begins }: PrivateFile, head: string): boolean {
  if (!begins) return true;
  return begins instanceof RegExp ? begins.test(head) : begins.some((one) => head.startsWith(one));
}
