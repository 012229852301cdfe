import {
  closeSync,
  existsSync,
  fsyncSync,
  linkSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { builtins } from '../core/builtins.js';
import { Failure } from '../core/failure.js';
import { parseReceipt, type Receipt } from '../core/receipt/receipt.js';
import { writeWhole } from './files.js';

/** Adder's own folder beside the contract: the key and the receipts of this machine. */
export const STATE_FOLDER = '.adder';

const KEY_BYTES = 32;
const MOST_RECEIPTS = 50;

/**
 * The key of the fingerprints, or undefined where none was made yet.
 * @throws Failure when the file is there and holds no key
 */
export function readKey(root: string): Uint8Array | undefined {
  const path = keyPath(root);
  if (!existsSync(path)) return undefined;
  const key = Buffer.from(readFileSync(path, 'utf8').trim(), 'hex');
  if (key.length === KEY_BYTES) return key;
  throw new Failure(
    `${STATE_FOLDER}/key is damaged`,
    `remove it, and the receipts beside it, which only that key can read: rm -r ${STATE_FOLDER}`,
  );
}

/** The key, made at the first call. The folder keeps itself out of version control. */
export function ensureKey(root: string): Uint8Array {
  const known = readKey(root);
  if (known) return known;
  makeFolder(root);
  createKey(keyPath(root));
  return readKey(root) as Uint8Array;
}

function makeFolder(root: string): void {
  mkdirSync(join(root, STATE_FOLDER), { recursive: true });
  writeFileSync(
    join(root, STATE_FOLDER, '.gitignore'),
    '# The key and the receipts of this machine; not for the repository.\n*\n',
  );
}

/** Which modules of a bundle read which variables in the build that just ran: what a plugin leaves for the receipt. */
export function writeUses(root: string, bundle: string, uses: Readonly<Record<string, readonly string[]>>): void {
  makeFolder(root);
  writeFileSync(usesPath(root, bundle), `${JSON.stringify(uses)}\n`);
}

/** What a plugin left since a moment, in milliseconds; undefined where none did. Variable to modules. */
export function readUses(root: string, bundle: string, since: number): Record<string, string[]> | undefined {
  const path = usesPath(root, bundle);
  if (!existsSync(path) || statSync(path).mtimeMs < since) return undefined;
  return JSON.parse(readFileSync(path, 'utf8'));
}

function usesPath(root: string, bundle: string): string {
  return join(root, STATE_FOLDER, `uses-${bundle}.json`);
}

/** Written whole before it gets its name, and never over another one: of two first builds at once, both use one key. */
function createKey(path: string): void {
  const draft = `${path}.${process.pid}`;
  const file = openSync(draft, 'wx', 0o600);
  try {
    writeSync(file, `${builtins.crypto.randomBytes(KEY_BYTES).toString('hex')}\n`);
    fsyncSync(file);
    linkSync(draft, path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  } finally {
    closeSync(file);
    rmSync(draft);
  }
}

function keyPath(root: string): string {
  return join(root, STATE_FOLDER, 'key');
}

export interface StoredReceipt {
  receipt: Receipt;
  path: string;
}

/** Keeps a receipt; the oldest ones of the bundle go. @returns its path */
export async function storeReceipt(root: string, receipt: Receipt): Promise<string> {
  const { bundle, stage, builtAt } = receipt.predicate;
  const folder = receiptFolder(root, bundle);
  const path = join(folder, `${builtAt.replaceAll(':', '-')}.${stage}.json`);
  await writeWhole(path, `${JSON.stringify(receipt, null, 2)}\n`, 0o600);
  for (const name of receiptNames(folder).slice(0, -MOST_RECEIPTS)) rmSync(join(folder, name));
  return path;
}

/** The receipt of a bundle's last build. */
export function newestReceipt(root: string, bundle: string): StoredReceipt | undefined {
  const folder = receiptFolder(root, bundle);
  for (const name of receiptNames(folder).reverse()) {
    const path = join(folder, name);
    const receipt = parseReceipt(readFileSync(path, 'utf8'));
    if (receipt) return { receipt, path };
  }
  return undefined;
}

function receiptFolder(root: string, bundle: string): string {
  return join(root, STATE_FOLDER, 'receipts', bundle);
}

function receiptNames(folder: string): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .filter((name) => name.endsWith('.json'))
    .sort();
}
