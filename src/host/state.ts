import {
  accessSync,
  closeSync,
  constants,
  fsyncSync,
  linkSync,
  mkdirSync,
  openSync,
  rmSync,
  type Stats,
  writeSync,
} from 'node:fs';
import * as z from 'zod/mini';
import { EXIT, Failure } from '../core/findings/failure.js';
import { keyFrom, newKey } from '../core/history/keys.js';
import { limits } from '../core/limits/index.js';
import type { Receipt } from '../core/receipt/receipt.js';
import { receiptName } from '../core/receipt/receipt-name.js';
import { parseReceipt } from '../core/receipt/schema.js';
import { describeFileError, type Files, kindOf } from './files.js';
import { inStateFolder, STATE_FOLDER, temporaryPath, whyNotWritten } from './write.js';

export { STATE_FOLDER } from './write.js';

/** A directory with a contract, on a file system. */
export interface Rooted {
  files: Files;
  root: string;
  /** The key that the environment gives, which is used instead of the one in `.adder/`. */
  givenKey?: Uint8Array;
}

/** Receipts of a bundle that are kept, however large: the last build and the one before. */
const FEWEST_RECEIPTS = 2;

/**
 * The key of the fingerprints, or undefined if none was made yet.
 * @throws Failure when something else is there
 */
export function readKey(at: Rooted): Uint8Array | undefined {
  return at.givenKey ?? readKeyFile(at);
}

/** The key in `.adder/`, whatever the environment gives. @throws Failure when something else is there */
export function readKeyFile(at: Rooted): Uint8Array | undefined {
  const text = readState(at, keyPath(at));
  if (text === undefined) return undefined;
  const key = keyFrom(text);
  if (key) return key;
  throw new Failure(
    `${STATE_FOLDER}/key is damaged`,
    `restore it from a machine or a secret store that has it, or run \`rm -r ${STATE_FOLDER}/key ${STATE_FOLDER}/receipts\` to begin with a new one`,
    EXIT.unread,
  );
}

/** The key, made at the first call. The directory keeps itself out of version control. */
export function ensureKey(at: Rooted): Uint8Array {
  const known = readKey(at);
  if (known) return known;
  inStateFolder(at.root, () => createKey(at.root, keyPath(at)));
  return readKey(at) as Uint8Array;
}

/**
 * Checks before a build that its receipt can be written after it.
 * @throws Failure that names what is in the way
 */
export function assertStateIsUsable(at: Rooted, bundle: string): void {
  const folder = receiptFolder(at, bundle);
  try {
    ensureKey(at);
    mkdirSync(folder, { recursive: true });
    accessSync(folder, constants.W_OK | constants.R_OK | constants.X_OK);
    // An older, damaged receipt is no reason to refuse a build.
    at.files.fs.readdirSync(folder);
  } catch (error) {
    if (error instanceof Failure) throw error;
    const { path = folder, code = '' } = error as NodeJS.ErrnoException;
    throw new Failure(
      `the receipt of this build cannot be written to ${at.files.shown(path, at.root)}: ${whyNotWritten(code)}`,
      `check the permissions of ${STATE_FOLDER}, or remove the file in its place`,
    );
  }
}

/** Which modules of a bundle read which variables in the last build; a plugin records this for the receipt. */
export function writeUses(at: Rooted, bundle: string, uses: Readonly<Record<string, readonly string[]>>): void {
  at.files.write(usesPath(at, bundle), `${JSON.stringify(uses)}\n`, at);
}

/**
 * Reads what a plugin recorded since a time, in milliseconds; undefined if nothing, or if it cannot be read: it only adds
 * detail to a receipt. Variable to modules.
 */
export function readUses(at: Rooted, bundle: string, since: number): Record<string, string[]> | undefined {
  try {
    const path = usesPath(at, bundle);
    if (at.files.fs.statSync(path).mtimeMs < since) return undefined;
    const uses: unknown = JSON.parse(readState(at, path) ?? '');
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

function usesPath(at: Rooted, bundle: string): string {
  return at.files.path.join(at.root, STATE_FOLDER, `uses-${bundle}.json`);
}

/** Replaces the key, in one step. */
export function replaceKey(at: Rooted, key: Uint8Array): void {
  at.files.write(keyPath(at), `${Buffer.from(key).toString('hex')}\n`, { root: at.root, isSecret: true });
}

/** Written whole before it gets its name, and never over another one: of two first builds at once, both use one key. */
function createKey(root: string, path: string): void {
  const draft = temporaryPath(root, path);
  const text = `${Buffer.from(newKey()).toString('hex')}\n`;
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

function keyPath(at: Rooted): string {
  return at.files.path.join(at.root, STATE_FOLDER, 'key');
}

/**
 * A file of the state directory; undefined if it does not exist. Only regular files are opened: a pipe would block.
 * @throws Failure if it exists and cannot be read
 */
export function readState({ files, root }: Rooted, path: string): string | undefined {
  const shown = files.shown(path, root);
  const fail = (why: string) =>
    new Failure(`${shown} ${why}`, `check it, or remove ${STATE_FOLDER} and rebuild`, EXIT.unread);
  try {
    const stats = entryOf(files, path);
    if (!stats) return undefined;
    if (!stats.isFile()) throw fail(kindOf(stats));
    if (stats.size > limits.stateBytes.value) throw fail('is too large for a file of Adder');
    return files.read(path).toString();
  } catch (error) {
    throw error instanceof Failure ? error : fail(describeFileError(error));
  }
}

/** Undefined if nothing exists there; a dangling symlink does. @throws the file system's error */
function entryOf(files: Files, path: string): Stats | undefined {
  return files.entry(path) && files.fs.statSync(path);
}

export interface StoredReceipt {
  receipt: Receipt;
  path: string;
}

/** The newest receipt of a bundle, or why it cannot be read, as a phrase that follows its path; neither if it was never built. */
export type NewestReceipt =
  | { stored: StoredReceipt; unread?: never }
  | { stored?: never; unread: { path: string; because: string } }
  | { stored?: never; unread?: never };

/** Keeps a receipt; the oldest ones of the bundle go. @returns its path */
export function storeReceipt(at: Rooted, receipt: Receipt): string {
  const { bundle, stage, builtAt } = receipt.predicate;
  const folder = receiptFolder(at, bundle);
  mkdirSync(folder, { recursive: true });
  const path = at.files.path.join(folder, receiptName(builtAt, stage, receiptNames(at.files, folder).at(-1)));
  at.files.write(path, `${JSON.stringify(receipt, null, 2)}\n`, { root: at.root, mode: 0o600 });
  // Another build may remove the same ones.
  for (const old of oldReceipts(at, folder)) at.files.remove(old);
  return path;
}

/** Receipts beyond the limits of their number and size, but never the last two, which can be compared. */
function oldReceipts({ files }: Rooted, folder: string): string[] {
  const paths = receiptNames(files, folder).map((name) => files.path.join(folder, name));
  let bytes = 0;
  return paths.toReversed().filter((path, index) => {
    bytes += statIfPossible(files, path)?.size ?? 0;
    return index >= FEWEST_RECEIPTS && (index >= limits.receipts.value || bytes > limits.receiptBytes.value);
  });
}

/** The receipt of a bundle's last build. An older one says nothing about artifacts of a later build, so it is not used. */
export function newestReceipt(at: Rooted, bundle: string): NewestReceipt {
  const folder = receiptFolder(at, bundle);
  let path = folder;
  try {
    const stats = entryOf(at.files, folder);
    if (!stats) return blocked(at, folder) ?? {};
    if (!stats.isDirectory()) return { unread: { path, because: 'is not a directory' } };
    const name = receiptNames(at.files, folder).at(-1);
    if (name === undefined) return {};
    path = at.files.path.join(folder, name);
    const receipt = parseReceipt(readState(at, path) ?? '');
    return receipt
      ? { stored: { receipt, path } }
      : { unread: { path, because: 'is damaged, or from a later version' } };
  } catch (error) {
    const because = error instanceof Failure ? 'cannot be read' : describeFileError(error);
    return blocked(at, folder) ?? { unread: { path, because } };
  }
}

/** Every readable receipt of a bundle, the newest first. */
export function allReceipts(at: Rooted, bundle: string): StoredReceipt[] {
  const folder = receiptFolder(at, bundle);
  if (!statIfPossible(at.files, folder)?.isDirectory()) return [];
  return receiptNames(at.files, folder)
    .toReversed()
    .flatMap((name) => {
      const path = at.files.path.join(folder, name);
      const receipt = parseReceipt(at.files.readIfPossible(path)?.toString() ?? '');
      return receipt ? [{ receipt, path }] : [];
    });
}

/** A path between the contract and the receipts that is not a directory. */
function blocked(at: Rooted, folder: string): NewestReceipt | undefined {
  const { dirname } = at.files.path;
  for (let path = dirname(folder); path !== at.root && path.length > at.root.length; path = dirname(path)) {
    const stats = statIfPossible(at.files, path);
    if (stats && !stats.isDirectory()) return { unread: { path, because: 'is not a directory' } };
  }
  return undefined;
}

function statIfPossible(files: Files, path: string): Stats | undefined {
  try {
    return files.stat(path);
  } catch {
    return undefined;
  }
}

function receiptFolder(at: Rooted, bundle: string): string {
  return at.files.path.join(at.root, STATE_FOLDER, 'receipts', bundle);
}

function receiptNames(files: Files, folder: string): string[] {
  return files.fs
    .readdirSync(folder)
    .filter((name) => name.endsWith('.json'))
    .sort();
}

/** The build that a site was last seen to serve. Times are ISO 8601, UTC. */
export interface ServedBuild {
  bundle: string;
  stage: string;
  builtAt: string;
  seenAt: string;
}

const SERVED = 'served.json';

/** Remembers which build a site serves; a project without a state directory has no builds to tell apart. */
export function recordServed(at: Rooted, url: string, build: ServedBuild): void {
  if (!at.files.exists(at.files.path.join(at.root, STATE_FOLDER))) return;
  at.files.change(servedPath(at), at, () => `${JSON.stringify({ ...servedBuilds(at), [url]: build }, null, 2)}\n`);
}

/** By the URL of the site. A record that cannot be read is as good as none. */
export function servedBuilds(at: Rooted): Record<string, ServedBuild> {
  try {
    const { success, data } = servedSchema.safeParse(JSON.parse(readState(at, servedPath(at)) ?? ''));
    return success ? data : {};
  } catch {
    return {};
  }
}

function servedPath(at: Rooted): string {
  return at.files.path.join(at.root, STATE_FOLDER, SERVED);
}

const servedSchema = z.record(
  z.string(),
  z.object({ bundle: z.string(), stage: z.string(), builtAt: z.string(), seenAt: z.string() }),
);

const WRITTEN = 'written.json';
const MOST_WRITTEN = 500;

/** Remembers that a file is Adder's own by its inode and time; its content may be a secret. */
export function recordWritten(at: Rooted, path: string): void {
  at.files.change(at.files.path.join(at.root, STATE_FOLDER, WRITTEN), at, () => {
    const all = new Map(Object.entries(writtenFiles(at)));
    all.delete(path);
    all.set(path, stampOf(at, path));
    return `${JSON.stringify(Object.fromEntries([...all].slice(-MOST_WRITTEN)), null, 2)}\n`;
  });
}

/** Compares a file's size, time and inode with those that {@link recordWritten} stored. @param path relative to the root */
export function isRecorded(at: Rooted, path: string): boolean {
  const stamp = new Map(Object.entries(writtenFiles(at))).get(path);
  return stamp !== undefined && stamp === stampOf(at, path);
}

function stampOf({ files, root }: Rooted, path: string): string {
  const { size, mtimeMs, ino } = files.fs.statSync(files.path.join(root, path));
  return `${size} ${mtimeMs} ${ino}`;
}

/** A record that cannot be read is as good as none: the user is asked once more. */
function writtenFiles(at: Rooted): Record<string, string> {
  try {
    const parsed: unknown = JSON.parse(readState(at, at.files.path.join(at.root, STATE_FOLDER, WRITTEN)) ?? '');
    return typeof parsed === 'object' && parsed !== null ? (parsed as Record<string, string>) : {};
  } catch {
    return {};
  }
}
