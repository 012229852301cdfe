import { Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { parseReceipt } from '../core/receipt/schema.js';
import { describeFileError, type Files } from '../host/files.js';
import type { StoredReceipt } from '../host/state.js';

/** Receipts of builds on other machines. */
export interface SharedReceipts {
  stored: readonly StoredReceipt[];
  /** Files that are no receipt, by their absolute paths. */
  unread: readonly { path: string; because: string }[];
}

/** Directories below the one that is named: one for each bundle, as in `.adder/receipts`. */
const DEPTH = 2;

/**
 * Reads the receipts in a directory, and in directories below it.
 * @param folder absolute path of a directory or of one receipt @param named path as the user wrote it
 * @throws Failure if it does not exist, or no file in it is a receipt
 */
export function readReceipts(files: Files, folder: string, named: string): SharedReceipts {
  const stored: StoredReceipt[] = [];
  const unread: { path: string; because: string }[] = [];
  for (const path of filesBelow(files, folder, named, DEPTH)) {
    const [receipt, because] = receiptAt(files, path);
    if (receipt) stored.push({ receipt, path });
    else unread.push({ path, because });
  }
  if (stored.length > 0) return { stored, unread };
  throw new Failure(
    `--receipts ${named} has no receipt`,
    'name a directory with files that `adder with --receipt FILE` wrote',
  );
}

/** Reads one receipt. @param path absolute path @throws Failure if it cannot be read */
export function readReceipt(files: Files, path: string, named: string): StoredReceipt {
  const [receipt, because] = receiptAt(files, path);
  if (receipt) return { receipt, path };
  throw new Failure(`${named} ${because}`, 'name a file that `adder with --receipt FILE` wrote');
}

function receiptAt(files: Files, path: string): [StoredReceipt['receipt'] | undefined, string] {
  try {
    const receipt = parseReceipt(files.readRegular(path, limits.stateBytes.value).toString());
    return [receipt, 'is no receipt, is damaged, or is from a later version'];
  } catch (error) {
    return [undefined, describeFileError(error)];
  }
}

function filesBelow(files: Files, folder: string, named: string, depth: number): string[] {
  if (files.stat(folder)?.isFile()) return [folder];
  try {
    return files.fs
      .readdirSync(folder, { withFileTypes: true })
      .sort((a, b) => (a.name < b.name ? -1 : 1))
      .flatMap((entry) => {
        const path = files.path.join(folder, entry.name);
        if (entry.isDirectory()) return depth > 0 ? filesBelow(files, path, named, depth - 1) : [];
        return entry.name.endsWith('.json') ? [path] : [];
      });
  } catch (error) {
    throw new Failure(
      `--receipts ${named} ${describeFileError(error)}`,
      'name a directory with files that `adder with --receipt FILE` wrote',
    );
  }
}
