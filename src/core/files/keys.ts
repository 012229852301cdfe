/** A kind of file that may hold a private key, by file name. */
interface KeyFile {
  name: RegExp;
  /** Patterns for version control, which knows no braces. */
  globs: readonly string[];
  /** `store`: binary, and always holds a key. `text`: the content tells. `key`: text that holds a key by convention. */
  kind: 'store' | 'key' | 'text';
}

/** One line per kind. */
const keyFiles: readonly KeyFile[] = [
  { name: /^id_(rsa|dsa|ecdsa|ed25519)$/, globs: ['id_rsa', 'id_dsa', 'id_ecdsa', 'id_ed25519'], kind: 'key' },
  { name: /\.(pem|key)$/, globs: ['*.pem', '*.key'], kind: 'text' },
  { name: /\.(p12|pfx)$/, globs: ['*.p12', '*.pfx'], kind: 'store' },
  { name: /\.(jks|keystore)$/, globs: ['*.jks', '*.keystore'], kind: 'store' },
];

/** Patterns of the files that hold a key by their name alone. */
export const keyFileGlobs: readonly string[] = keyFiles
  .filter(({ kind }) => kind !== 'text')
  .flatMap(({ globs }) => globs.map((one) => `**/${one}`));

/** Tells whether and how a file may hold a private key, by its name. */
export function keyFileKind(path: string): KeyFile['kind'] | undefined {
  const name = path.slice(path.lastIndexOf('/') + 1);
  return keyFiles.find((one) => one.name.test(name))?.kind;
}
