import { lstatSync, mkdirSync, readdirSync, readFileSync, rmdirSync, rmSync, type Stats, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { EXIT, Failure } from '../core/findings/failure.js';
import { renameFile } from './rename.js';

/** Adder's own directory beside the contract: the key, the receipts, and files that are being written. */
export const STATE_FOLDER = '.adder';

/** The directory in it for files that are being written. */
export const TEMPORARY = 'tmp';

/** The directory in it for the history of values, which version control may see: without the key, nobody can read it. */
export const HISTORY = 'history';

const IGNORE = `# The key, the receipts and temporary files of this machine are not for the repository. The history of values is:
# without the key, nobody can read it.
*
!/${HISTORY}/
!/${HISTORY}/**
`;

/**
 * Checks that the directory for state is this project's own: a link leads elsewhere, and a key that a repository brought is known
 * to everybody who has the repository.
 * @throws Failure that names what is wrong; nothing if there is no such directory
 */
export function assertOwnState(root: string): void {
  const folder = join(root, STATE_FOLDER);
  const stats = entryOf(folder);
  if (!stats) return;
  if (stats.isSymbolicLink()) throw refused(`${STATE_FOLDER} is a symlink, which could lead to another project's key`);
  if (!stats.isDirectory()) return;
  const key = entryOf(join(folder, 'key'));
  if (key?.isSymbolicLink())
    throw refused(`${STATE_FOLDER}/key is a symlink, which could lead to another project's key`, `${STATE_FOLDER}/key`);
  if (key?.isFile() && isReadableByOthers(key))
    throw new Failure(
      `other users may read ${STATE_FOLDER}/key, as they may read one that a repository brought`,
      `if this machine made the key, run \`chmod 600 ${STATE_FOLDER}/key\`; otherwise run \`rm ${STATE_FOLDER}/key\``,
      EXIT.unread,
    );
  if (ignoreState(folder) === 'other') throw foreignIgnore();
}

function refused(message: string, path = STATE_FOLDER): Failure {
  return new Failure(message, `run \`rm ${path}\`; the next build makes a new one`, EXIT.unread);
}

function foreignIgnore(): Failure {
  const message = `${STATE_FOLDER}/.gitignore does not ignore everything but the history in ${STATE_FOLDER}`;
  return new Failure(message, `run \`rm ${STATE_FOLDER}/.gitignore\`; Adder writes it again`, EXIT.unread);
}

function entryOf(path: string): Stats | undefined {
  return lstatSync(path, { throwIfNoEntry: false });
}

/** Adder makes the key for its owner alone. Windows has no such permissions. */
function isReadableByOthers({ mode }: Stats): boolean {
  return process.platform !== 'win32' && (mode & 0o044) !== 0;
}

/** Rules of the file that let version control see something. */
const shown = [`!/${HISTORY}/`, `!/${HISTORY}/**`];

/**
 * Tells whether version control sees nothing of the directory but the history. A killed or failed write may have left the file empty,
 * and an older version has written one that hides the history.
 */
function ignoreState(folder: string): 'complete' | 'older' | 'empty' | 'other' {
  const path = join(folder, '.gitignore');
  const entry = entryOf(path);
  if (!entry) return 'empty';
  if (!entry.isFile()) return 'other';
  const lines = textOf(path).split(/\r?\n/);
  const rules = lines.map((line) => line.trim()).filter((line) => line !== '' && !line.startsWith('#'));
  if (rules.length === 0) return 'empty';
  const seen = rules.filter((rule) => rule.startsWith('!'));
  if (!rules.includes('*') || !seen.every((rule) => shown.includes(rule))) return 'other';
  return shown.every((rule) => seen.includes(rule)) ? 'complete' : 'older';
}

/** Another process may remove the directory, and the file with it, at any time. */
function textOf(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    if (isGone(error)) return '';
    throw error;
  }
}

function isGone(error: unknown): boolean {
  return (error as NodeJS.ErrnoException).code === 'ENOENT';
}

/** The project's own directory for state, which keeps itself out of version control. @returns its path */
export function makeStateFolder(root: string): string {
  assertOwnState(root);
  const folder = join(root, STATE_FOLDER);
  mkdirSync(folder, { recursive: true });
  ignoreAll(folder);
  return folder;
}

/** The file gets its name when it is whole, so that no other process sees an empty one. */
function ignoreAll(folder: string): void {
  if (!/^(empty|older)$/.test(ignoreState(folder))) return;
  const draft = join(folder, `.gitignore.${process.pid}-${Math.random().toString(36).slice(2)}`);
  try {
    writeFileSync(draft, IGNORE, { flag: 'wx' });
    renameFile(draft, join(folder, '.gitignore'));
  } finally {
    rmSync(draft, { force: true });
  }
}

const MOST_TRIES = 20;

/**
 * Writes into the project's own directory for state, which exists when it begins. Another process may remove the
 * directory while it is empty: then it is made, and written to, once more.
 * @throws the file system's error
 */
export function inStateFolder<T>(root: string, write: () => T): T {
  return onceMoreIfGone(() => {
    makeStateFolder(root);
    return write();
  });
}

export function onceMoreIfGone<T>(write: () => T): T {
  for (let tries = 1; ; tries++) {
    try {
      return write();
    } catch (error) {
      if (!isGone(error) || tries === MOST_TRIES) throw error;
    }
  }
}

/** A directory with nothing but its ignore file was made only for one write. */
export function removeIfEmpty(root: string): void {
  const folder = join(root, STATE_FOLDER);
  try {
    if (readdirSync(folder).some((name) => !name.startsWith('.gitignore') && name !== TEMPORARY)) return;
    if (entryOf(join(folder, TEMPORARY))) rmdirSync(join(folder, TEMPORARY));
  } catch {
    // Another process writes there too.
    return;
  }
  rmSync(join(folder, '.gitignore'), { force: true });
  try {
    rmdirSync(folder);
  } catch {
    keepIgnored(folder);
  }
}

/** Files that another process wrote while the directory was removed must not reach version control. */
function keepIgnored(folder: string): void {
  try {
    ignoreAll(folder);
  } catch (error) {
    if (!isGone(error)) throw error;
  }
}
