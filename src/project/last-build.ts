import type { Bundle } from '../core/contract/contract.js';
import type { Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { isOfKey, type Receipt } from '../core/receipt/receipt.js';
import { sha256 } from '../core/text/hash.js';
import type { Files } from '../host/files.js';
import { allReceipts, newestReceipt, readKey, STATE_FOLDER, type StoredReceipt } from '../host/state.js';
import { olderKeys } from './history.js';
import type { Project } from './open.js';

/** Receipts and fingerprint key of the last builds of a project's bundles. */
export class LastBuilds {
  /** The key of the fingerprints: receipts cannot be compared with values without it. */
  readonly key: Uint8Array | undefined;
  readonly unread: Unread[] = [];

  constructor(readonly project: Project) {
    try {
      this.key = readKey(project);
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      this.#keyIsUnread(error.message.replace(/^\S+ /, ''));
    }
    const { files, root, receipts } = project;
    for (const { path, because } of receipts?.unread ?? [])
      this.unread.push({ path: files.shown(path, root), inside: [], because });
  }

  /** The receipts of all bundles, those of each the newest first; none if they cannot be compared with anything. */
  get all(): readonly { bundle: Bundle; stored: StoredReceipt }[] {
    this.#all ??= [...this.project.contract.bundles.values()].flatMap((bundle) => {
      const own = this.key ? allReceipts(this.project, bundle.name) : [];
      const shared = sharedOf(this.project, bundle);
      const stored = shared.length === 0 ? own : newestFirst([...own, ...shared.filter((one) => !isAmong(own, one))]);
      return stored.map((one) => ({ bundle, stored: one }));
    });
    return this.#all;
  }

  /** Returns the key if the receipt's fingerprints use it. Values of other receipts cannot be compared. */
  keyOf(receipt: Receipt): Uint8Array | undefined {
    if (isOfKey(receipt, this.key)) return this.key;
    this.#older ??= olderKeys(this.project, this.key);
    return this.#older.find((key) => isOfKey(receipt, key));
  }

  /** Keys before the present one, which it opens. */
  #older: readonly Uint8Array[] | undefined;

  #all: readonly { bundle: Bundle; stored: StoredReceipt }[] | undefined;

  get any(): boolean {
    return this.all.length > 0;
  }

  readonly #last = new Map<string, StoredReceipt | undefined>();

  /** The receipt of a bundle's last build. An unreadable one is listed: without it, stale values go unnoticed. */
  receiptOf(bundle: Bundle): StoredReceipt | undefined {
    if (!this.#last.has(bundle.name)) this.#last.set(bundle.name, this.#readLast(bundle));
    return this.#last.get(bundle.name);
  }

  #readLast(bundle: Bundle): StoredReceipt | undefined {
    const { root, files } = this.project;
    const { stored, unread } = newestReceipt(this.project, bundle.name);
    if (unread) this.unread.push({ path: files.shown(unread.path, root), inside: [], because: unread.because });
    const hasUnreadKey = this.unread.some(({ path }) => path === KEY);
    if (stored && !this.key && !hasUnreadKey) this.#keyIsUnread('is missing, and receipts need it');
    const [newest] = newestFirst([...(stored ? [stored] : []), ...sharedOf(this.project, bundle)]);
    return newest;
  }

  #keyIsUnread(because: string): void {
    this.unread.push({ path: KEY, inside: [], because });
  }
}

/** Receipts of a bundle that other machines wrote. */
function sharedOf({ receipts }: Project, { name }: Bundle): StoredReceipt[] {
  return receipts?.stored.filter(({ receipt }) => receipt.predicate.bundle === name) ?? [];
}

function newestFirst(receipts: readonly StoredReceipt[]): StoredReceipt[] {
  return receipts.toSorted((a, b) => b.receipt.predicate.builtAt.localeCompare(a.receipt.predicate.builtAt));
}

/** Tells whether a copy of a receipt is among others. */
function isAmong(own: readonly StoredReceipt[], { receipt }: StoredReceipt): boolean {
  const { builtAt, stage } = receipt.predicate;
  return own.some((one) => one.receipt.predicate.builtAt === builtAt && one.receipt.predicate.stage === stage);
}

const KEY = `${STATE_FOLDER}/key`;

/**
 * The stage of the newest receipt of some bundles.
 * @param command for the remedy
 * @throws Failure if there is none
 */
export function stageOfNewestReceipt(
  project: Project,
  bundles: readonly Bundle[],
  command: 'inspect' | 'probe',
): string {
  const { contract, root, files } = project;
  const built = stageOfBuild(project, bundles);
  if (built !== undefined) return built;
  const all = bundles.map(({ name }) => newestReceipt(project, name));
  const unread = all.flatMap((one) => one.unread ?? [])[0];
  const why = unread ? `: ${files.shown(unread.path, root)} ${unread.because}` : '';
  throw new Failure(
    `no receipt says which stage was built${why}`,
    `name the stage: adder ${command} --stage ${[...contract.stages.keys()].join('|')} (\`adder with\` writes receipts)`,
  );
}

/** The stage of the newest receipt of some bundles; undefined if there is none. */
export function stageOfBuild(project: Project, bundles: readonly Bundle[]): string | undefined {
  const receipts = bundles.flatMap((bundle) => {
    const { stored } = newestReceipt(project, bundle.name);
    return [...(stored ? [stored] : []), ...sharedOf(project, bundle)].map(({ receipt }) => receipt.predicate);
  });
  // A time that has not come is of a clock that was wrong, so any other one is newer.
  const now = new Date(Date.now() + CLOCKS_DIFFER).toISOString();
  const known = receipts.map(({ stage, builtAt }) => ({ stage, builtAt: builtAt > now ? '' : builtAt }));
  return known.sort((a, b) => b.builtAt.localeCompare(a.builtAt))[0]?.stage;
}

/** Milliseconds by which the clocks of two machines with one directory may differ. */
const CLOCKS_DIFFER = 60_000;

/** Files that existed before a bundle's last build and that it did not write, with their digests. */
export function untouchedFiles(receipt: Receipt | undefined): Map<string, string> {
  const untouched = new Set(receipt?.predicate.untouched);
  return new Map(receipt?.subject.filter((one) => untouched.has(one.name)).map((one) => [one.name, one.digest.sha256]));
}

/** Digests that identify a file of a build: the file's own, and that of a page before the tag for load-time values was added. */
export async function digestsOfBuilt(files: Files, path: string): Promise<string[]> {
  const page = await digestOfPage(files, path);
  return [files.digest(path), ...(page === undefined ? [] : [page])];
}

/** The digest of a page without the tag for load-time values, which is added after the build. */
async function digestOfPage(files: Files, path: string): Promise<string | undefined> {
  const html = /\.html?$/.test(path)
    ? files.readIfPossible(path, limits.pageBytes.value)?.toString('latin1')
    : undefined;
  if (html === undefined) return undefined;
  const { withoutValues } = await import('../core/runtime/page.js');
  return sha256(Buffer.from(withoutValues(html), 'latin1'));
}
