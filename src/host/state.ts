import {
  accessSync,
  closeSync,
  constants,
  fsyncSync,
  linkSync,
  lstatSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  type Stats,
  statSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { EXIT, Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { parseReceipt, type Receipt } from '../core/receipt/receipt.js';
import { describeFileError, kindOf } from './files.js';
import { makeStateFolder, STATE_FOLDER, writeWhole } from './write.js';

export { STATE_FOLDER } from './write.js';

const KEY_BYTES = 32;
/**
 * The key of the fingerprints, or undefined where none was made yet.
 * @throws Failure when something else is there
 */
export function readKey(root: string): Uint8Array | undefined {
  const text = readState(keyPath(root));
  if (text === undefined) return undefined;
  const key = Buffer.from(text.trim(), 'hex');
  if (key.length === KEY_BYTES) return key;
  throw new Failure(
    `${STATE_FOLDER}/key is damaged`,
    `remove it, and the receipts beside it, which only that key can read: rm -r ${STATE_FOLDER}`,
    EXIT.unread,
  );
}

/** The key, made at the first call. The folder keeps itself out of version control. */
export function ensureKey(root: string): Uint8Array {
  const known = readKey(root);
  if (known) return known;
  makeStateFolder(root);
  createKey(keyPath(root));
  return readKey(root) as Uint8Array;
}

/**
 * Checks before a build that its receipt can be written after it.
 * @throws Failure that names what is in the way
 */
export function assertStateIsUsable(root: string, bundle: string): void {
  const folder = receiptFolder(root, bundle);
  try {
    ensureKey(root);
    mkdirSync(folder, { recursive: true });
    accessSync(folder, constants.W_OK | constants.R_OK | constants.X_OK);
    // What is only wrong with an older receipt is no reason to refuse a build.
    readdirSync(folder);
  } catch (error) {
    if (error instanceof Failure) throw error;
    const { path = folder } = error as NodeJS.ErrnoException;
    throw new Failure(
      `the receipt of this build could not be written: ${path} ${describeFileError(error)}`,
      `check the permissions of ${STATE_FOLDER}, or remove what is in its place`,
    );
  }
}

/** Which modules of a bundle read which variables in the build that just ran: what a plugin leaves for the receipt. */
export function writeUses(root: string, bundle: string, uses: Readonly<Record<string, readonly string[]>>): void {
  makeStateFolder(root);
  writeWhole(usesPath(root, bundle), `${JSON.stringify(uses)}\n`, { root });
}

/**
 * What a plugin left since a moment, in milliseconds; undefined where none did, or where it cannot be read: it only adds
 * detail to a receipt. Variable to modules.
 */
export function readUses(root: string, bundle: string, since: number): Record<string, string[]> | undefined {
  try {
    const path = usesPath(root, bundle);
    if (statSync(path).mtimeMs < since) return undefined;
    const uses: unknown = JSON.parse(readState(path) ?? '');
    return isUses(uses) ? uses : undefined;
  } catch {
    return undefined;
  }
}

function isUses(value: unknown): value is Record<string, string[]> {
  return (
    typeof value === 'object' &&
    value !== null &&
    Object.values(value).every((one) => Array.isArray(one) && one.every((path) => typeof path === 'string'))
  );
}

function usesPath(root: string, bundle: string): string {
  return join(root, STATE_FOLDER, `uses-${bundle}.json`);
}

/** Written whole before it gets its name, and never over another one: of two first builds at once, both use one key. */
function createKey(path: string): void {
  const draft = `${path}.${process.pid}-${process.getBuiltinModule('node:crypto').randomBytes(4).toString('hex')}`;
  const text = `${process.getBuiltinModule('node:crypto').randomBytes(KEY_BYTES).toString('hex')}\n`;
  try {
    writeKey(draft, text);
    linkSync(draft, path);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    // A file system without hard links.
    if (code === 'EPERM' || code === 'ENOTSUP' || code === 'ENOSYS') writeKey(path, text);
    else if (code !== 'EEXIST') throw error;
  } finally {
    rmSync(draft, { force: true });
  }
}

function writeKey(path: string, text: string): void {
  const file = openSync(path, 'wx', 0o600);
  try {
    writeSync(file, text);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}

function keyPath(root: string): string {
  return join(root, STATE_FOLDER, 'key');
}

/**
 * A file of the state directory; undefined if it does not exist. Only regular files are opened: a pipe would block.
 * @throws Failure where it is there and cannot be read
 */
function readState(path: string): string | undefined {
  const shown = `${STATE_FOLDER}${path.slice(path.lastIndexOf(`/${STATE_FOLDER}/`) + STATE_FOLDER.length + 1)}`;
  const fail = (why: string) =>
    new Failure(`${shown} ${why}`, `check it, or remove ${STATE_FOLDER} and build again`, EXIT.unread);
  try {
    const stats = entryOf(path);
    if (!stats) return undefined;
    if (!stats.isFile()) throw fail(kindOf(stats));
    if (stats.size > limits.stateBytes.value) throw fail('is too large to be one of Adder');
    return readFileSync(path, 'utf8');
  } catch (error) {
    throw error instanceof Failure ? error : fail(describeFileError(error));
  }
}

/** Undefined where there is nothing at all; a symlink to nothing is something. @throws the file system's error */
function entryOf(path: string): Stats | undefined {
  return lstatSync(path, { throwIfNoEntry: false }) && statSync(path);
}

export interface StoredReceipt {
  receipt: Receipt;
  path: string;
}

/** The newest receipt of a bundle, or why it cannot be read, as a phrase behind its path; neither where it was never built. */
export type NewestReceipt =
  | { stored: StoredReceipt; unread?: never }
  | { stored?: never; unread: { path: string; because: string } }
  | { stored?: never; unread?: never };

/** Keeps a receipt; the oldest ones of the bundle go. @returns its path */
export function storeReceipt(root: string, receipt: Receipt): string {
  const { bundle, stage, builtAt } = receipt.predicate;
  const folder = receiptFolder(root, bundle);
  const path = join(folder, `${builtAt.replaceAll(':', '-')}.${stage}.json`);
  mkdirSync(folder, { recursive: true });
  writeWhole(path, `${JSON.stringify(receipt, null, 2)}\n`, { root, mode: 0o600 });
  // Another build may remove the same ones.
  for (const name of receiptNames(folder).slice(0, -limits.receipts.value)) rmSync(join(folder, name), { force: true });
  return path;
}

/** The receipt of a bundle's last build. An older one says nothing about artifacts of a later build, so it is not used. */
export function newestReceipt(root: string, bundle: string): NewestReceipt {
  const folder = receiptFolder(root, bundle);
  let path = folder;
  try {
    const stats = entryOf(folder);
    if (!stats) return blocked(root, folder) ?? {};
    if (!stats.isDirectory()) return { unread: { path, because: 'is not a directory' } };
    const name = receiptNames(folder).at(-1);
    if (name === undefined) return {};
    path = join(folder, name);
    const receipt = parseReceipt(readState(path) ?? '');
    return receipt ? { stored: { receipt, path } } : { unread: { path, because: 'is damaged, or of a later version' } };
  } catch (error) {
    const because = error instanceof Failure ? 'cannot be read' : describeFileError(error);
    return blocked(root, folder) ?? { unread: { path, because } };
  }
}

/** Something between the contract and the receipts that is no directory. */
function blocked(root: string, folder: string): NewestReceipt | undefined {
  for (let path = dirname(folder); path !== root && path.length > root.length; path = dirname(path)) {
    const stats = statIfPossible(path);
    if (stats && !stats.isDirectory()) return { unread: { path, because: 'is not a directory' } };
  }
  return undefined;
}

function statIfPossible(path: string): Stats | undefined {
  try {
    return statSync(path, { throwIfNoEntry: false });
  } catch {
    return undefined;
  }
}

function receiptFolder(root: string, bundle: string): string {
  return join(root, STATE_FOLDER, 'receipts', bundle);
}

function receiptNames(folder: string): string[] {
  return readdirSync(folder)
    .filter((name) => name.endsWith('.json'))
    .sort();
}

const WRITTEN = 'written.json';
const MOST_WRITTEN = 500;

/** Remembers that a file is Adder's own, by what the file system says of it: its content may be a secret. */
export function recordWritten(root: string, path: string): void {
  const all = new Map(Object.entries(writtenFiles(root)));
  all.delete(path);
  all.set(path, stampOf(join(root, path)));
  makeStateFolder(root);
  const kept = Object.fromEntries([...all].slice(-MOST_WRITTEN));
  writeWhole(join(root, STATE_FOLDER, WRITTEN), `${JSON.stringify(kept, null, 2)}\n`, { root });
}

/** Whether a file is as Adder wrote it last. @param path from the root */
export function isRecorded(root: string, path: string): boolean {
  const stamp = new Map(Object.entries(writtenFiles(root))).get(path);
  return stamp !== undefined && stamp === stampOf(join(root, path));
}

function stampOf(path: string): string {
  const { size, mtimeMs, ino } = statSync(path);
  return `${size} ${mtimeMs} ${ino}`;
}

/** A record that cannot be read is as good as none: the user is asked once more. */
function writtenFiles(root: string): Record<string, string> {
  try {
    const parsed: unknown = JSON.parse(readState(join(root, STATE_FOLDER, WRITTEN)) ?? '');
    return typeof parsed === 'object' && parsed !== null ? (parsed as Record<string, string>) : {};
  } catch {
    return {};
  }
}
