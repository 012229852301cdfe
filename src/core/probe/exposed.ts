import { parseEnvFile } from '../envfile/parse.js';

/** A path that a site must not answer. */
export interface PrivatePath {
  /** From the directory that is served. */
  path: string;
  what: string;
  /** Tells whether an answer is really that file: servers of single-page apps answer any path with their page. */
  matches(text: string): boolean;
}

const isEnvFile = (text: string) => {
  if (/^\s*</.test(text)) return false;
  const { entries, problems } = parseEnvFile(new TextEncoder().encode(text));
  return entries.length > 0 && problems.filter(({ code }) => code === 'file/syntax').length <= entries.length;
};

/** Names of env files that are usual, whatever the contract has. */
const usualEnvFiles = [
  '.env',
  '.env.local',
  '.env.development',
  '.env.staging',
  '.env.production',
  '.env.production.local',
];

/** Suffixes of backup files that editors and people create. */
const copies = ['.bak', '.old', '.save', '.orig', '~'];

/** Archives of a whole project or output, under common file names. */
const archives: readonly PrivatePath[] = ['dist', 'build', 'site', 'www', 'backup'].flatMap((name) => [
  { path: `${name}.zip`, what: 'an archive', matches: (text: string) => text.startsWith('PK\u0003\u0004') },
  // The first two bytes of a gzip member (RFC 1952, 2.3.1); the second one is no UTF-8.
  { path: `${name}.tar.gz`, what: 'an archive', matches: (text: string) => text.startsWith('\u001f\ufffd') },
]);

/** Files of other kinds. Sources: the layouts of version control systems and package managers. */
const others: readonly PrivatePath[] = [
  { path: '.git/HEAD', what: 'a git repository', matches: (text) => /^(ref: refs\/|[0-9a-f]{40}\s*$)/.test(text) },
  { path: '.git/config', what: 'the configuration of a git repository', matches: (text) => /^\s*\[core\]/m.test(text) },
  { path: '.svn/entries', what: 'a Subversion working copy', matches: (text) => /^\d+\s*$/m.test(text.slice(0, 20)) },
  {
    path: '.hg/requires',
    what: 'a Mercurial repository',
    matches: (text) => /^(revlogv1|store|dotencode)/m.test(text),
  },
  {
    path: '.npmrc',
    what: 'the settings of a package registry',
    matches: (text) => /^[ \t]*[^<\s][^=\n]*=/m.test(text) && /registry|_auth|token/i.test(text) && !/^\s*</.test(text),
  },
  {
    path: '.htpasswd',
    what: 'a file of passwords',
    matches: (text) => /^[^\s:<{]+:(\$(apr1|2[aby]|5|6)\$|\{SHA\}|[./A-Za-z0-9]{13}\s*$)/m.test(text),
  },
  { path: 'adder.yaml', what: 'the contract', matches: (text) => /^adder:\s*1\b/m.test(text) },
  { path: '.adder/key', what: "Adder's key", matches: (text) => /^[0-9a-f]{64}\s*$/.test(text) },
];

/** Where source maps of servers are, if a whole build was copied. */
const serverMaps: readonly PrivatePath[] = [
  'server.js.map',
  'server/index.js.map',
  'server/index.mjs.map',
  'build/server/index.js.map',
  '.next/server/middleware.js.map',
].map((path) => ({
  path,
  what: 'a source map of server code',
  matches: (text) => /^\s*\{/.test(text) && /"mappings"\s*:\s*"/.test(text),
}));

/** Tells whether a page is a directory listing that a server generated. */
export function isListing(text: string): boolean {
  return /<title>\s*(Index of|Directory listing|Listing directory|Files within)\b/i.test(text.slice(0, 2000));
}

/**
 * Paths that must not answer.
 * @param layers names of the contract's files, relative to its directory
 * @param receipts paths of receipts, relative to the contract's directory
 */
export function privatePaths(layers: readonly string[], receipts: readonly string[]): PrivatePath[] {
  const own = layers.flatMap((path) => [path, path.slice(path.lastIndexOf('/') + 1)]);
  const envFiles = [...new Set([...usualEnvFiles, ...own])].filter((path) => /(^|[/.])env(\.|$)/.test(path));
  const copied = ['.env', '.env.production'].flatMap((path) => copies.map((ending) => path + ending));
  return [
    ...envFiles.map((path) => ({ path, what: 'an env file', matches: isEnvFile })),
    ...copied.map((path) => ({ path, what: 'a copy of an env file', matches: isEnvFile })),
    ...others,
    ...archives,
    ...serverMaps,
    ...receipts.map((path) => ({
      path,
      what: 'a receipt',
      matches: (text: string) => text.includes('https://in-toto.io/Statement/v1'),
    })),
  ];
}
