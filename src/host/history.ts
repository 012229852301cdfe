import { type Entry, entryName, openEntry, sealEntry } from '../core/history/entry.js';
import type { OpenSection } from '../core/history/history.js';
import { FILE_BYTES, type SectionKeys, sectionKeys, unwrapKey, wrapKey } from '../core/history/keys.js';
import { limits } from '../core/limits/index.js';
import { describeFileError } from './files.js';
import type { Rooted } from './state.js';
import { HISTORY, STATE_FOLDER } from './state-folder.js';

/** The history as far as a key opens it. */
export interface StoredHistory {
  /** Sections that are open, the newest first. */
  sections: OpenSection[];
  /** Files that cannot be used, with a phrase that follows the path. */
  unread: { path: string; because: string }[];
  /** Number of entries in sections that the key does not open. */
  closed: number;
}

const SECTION = /^[0-9a-f]{16}$/;
const ENTRY = /^[0-9a-f]{32}$/;
/** Wrapped key of the section that it is in, by the section whose key opens it. */
const WRAPPED = /^key-([0-9a-f]{16})$/;

/** Reads the history. @param key the project's key; absent if this machine has none */
export function readHistory(at: Rooted, key: Uint8Array | undefined): StoredHistory {
  return new HistoryReader(at).read(key);
}

class HistoryReader {
  readonly #unread: StoredHistory['unread'] = [];
  readonly #folder: string;
  #entries = 0;

  constructor(readonly at: Rooted) {
    this.#folder = historyFolder(at);
  }

  read(key: Uint8Array | undefined): StoredHistory {
    const sections = this.#sections();
    if (sections.length === 0) return { sections: [], unread: this.#unread, closed: 0 };
    const names = new Map(sections.map((name) => [name, this.#names(name)]));
    const open: OpenSection[] = [];
    const keys = key ? [key] : [];
    // A key opens its own section and, step by step, the older ones.
    for (let index = 0; index < keys.length; index++) {
      const own = sectionKeys(keys[index] as Uint8Array);
      if (open.some((one) => one.keys.section === own.section)) continue;
      open.push({
        key: keys[index] as Uint8Array,
        keys: own,
        entries: this.#opened(own, names.get(own.section) ?? []),
      });
      for (const [section, files] of names)
        for (const file of files)
          if (WRAPPED.exec(file)?.[1] === own.section)
            keys.push(...this.#unwrapped(keys[index] as Uint8Array, section, file));
    }
    const closed = [...names].filter(([name]) => !open.some(({ keys: { section } }) => section === name));
    const count = closed.reduce((sum, [, files]) => sum + files.filter((file) => ENTRY.test(file)).length, 0);
    return { sections: open, unread: this.#unread, closed: count };
  }

  #sections(): string[] {
    return this.#list(this.#folder).filter((name) => {
      if (SECTION.test(name)) return true;
      this.#fail(this.#path(name), 'is no section of the history');
      return false;
    });
  }

  #names(section: string): string[] {
    return this.#list(this.#path(section)).filter((name) => {
      if (ENTRY.test(name) || WRAPPED.test(name)) return true;
      this.#fail(this.#path(section, name), 'is no entry of the history');
      return false;
    });
  }

  #opened(keys: SectionKeys, names: readonly string[]): Map<string, Entry> {
    const entries = new Map<string, Entry>();
    for (const name of names) {
      if (!ENTRY.test(name)) continue;
      const path = this.#path(keys.section, name);
      if (++this.#entries > limits.recordedEntries.value) {
        this.#fail(path, `and the entries after it are more than ${limits.recordedEntries.value}`);
        break;
      }
      const bytes = this.#bytes(path);
      const entry = bytes && openEntry(keys, name, bytes);
      if (entry) entries.set(name, entry);
      else if (bytes) this.#fail(path, 'is damaged, or was edited');
    }
    return entries;
  }

  #unwrapped(key: Uint8Array, section: string, file: string): Uint8Array[] {
    const path = this.#path(section, file);
    const bytes = this.#bytes(path);
    const older = bytes && unwrapKey(key, bytes);
    if (older && sectionKeys(older).section === section) return [older];
    if (bytes) this.#fail(path, 'is damaged, or was edited');
    return [];
  }

  #bytes(path: string): Uint8Array | undefined {
    try {
      const bytes = this.at.files.readRegular(path, FILE_BYTES);
      if (bytes.length === FILE_BYTES) return bytes;
      this.#fail(path, `has ${bytes.length} bytes, and not ${FILE_BYTES}`);
    } catch (error) {
      this.#fail(path, describeFileError(error));
    }
    return undefined;
  }

  #list(folder: string): string[] {
    try {
      return this.at.files.fs.readdirSync(folder).sort();
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') this.#fail(folder, describeFileError(error));
      return [];
    }
  }

  #path(...names: string[]): string {
    return this.at.files.path.join(this.#folder, ...names);
  }

  #fail(path: string, because: string): void {
    this.#unread.push({ path, because });
  }
}

/** Writes entries that do not exist yet. @returns the names of those that are new */
export function writeEntries(at: Rooted, keys: SectionKeys, entries: readonly Entry[]): string[] {
  const folder = at.files.path.join(historyFolder(at), keys.section);
  return entries.flatMap((entry) => {
    const name = entryName(keys, entry);
    const path = at.files.path.join(folder, name);
    // A damaged file is written again.
    const known = at.files.readIfPossible(path, FILE_BYTES);
    if (known && openEntry(keys, name, known)) return [];
    at.files.write(path, sealEntry(keys, entry), { root: at.root });
    return [name];
  });
}

/** Stores the key of an older section for those who have the newer one. */
export function writeWrappedKey(at: Rooted, newer: Uint8Array, older: Uint8Array): void {
  const name = `key-${sectionKeys(newer).section}`;
  const path = at.files.path.join(historyFolder(at), sectionKeys(older).section, name);
  at.files.write(path, wrapKey(newer, older), { root: at.root });
}

/** Removes entries, by section and id. */
export function removeEntries(at: Rooted, ids: readonly { section: string; id: string }[]): void {
  for (const { section, id } of ids) at.files.remove(at.files.path.join(historyFolder(at), section, id));
}

function historyFolder({ files, root }: Rooted): string {
  return files.path.join(root, STATE_FOLDER, HISTORY);
}
