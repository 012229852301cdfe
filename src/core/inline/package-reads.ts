import MagicString from 'magic-string';
import { readsIn } from '../reads/index.js';

/** A read that a build left in a chunk. */
export interface LeftRead {
  name: string;
  /** The module that reads it, if it was marked. */
  module?: string;
}

/** Objects that Vite itself would replace in a package, so that no trace of the read was left. */
export const packageObjects = ['import.meta.env'] as const;

/** A package's module for {@link leftMarks}. */
interface MarkedModule {
  /** Absent if there is no such read. */
  code?: string;
  /** Tells whether it takes the whole object, asks what is in it, or reads names that only the running code knows. */
  takesMany: boolean;
}

const MARK = 'adderLeavesUnreplaced';

/**
 * A package's module with a call in the place of each read of certain names, so that a read that ships can be recognised in
 * the output. A call marked as pure disappears with unused code, as the read would.
 * @param path of the module, with slashes
 */
export function markedReads(path: string, text: string, isMarked: (name: string) => boolean): MarkedModule {
  const edits = new MagicString(text);
  const { reads, objectUses: sources = [] } = readsIn(path, text, packageObjects);
  const mark = (start: number, end: number, name: string) =>
    edits.overwrite(start, end, `/* @__PURE__ */ ${MARK}(${JSON.stringify(name)}, ${JSON.stringify(path)})`);
  for (const { kind, name = '', start, end, isShorthand } of reads)
    if (/^(member|constant|key|alias)$/.test(kind) && !isShorthand && isMarked(name)) mark(start, end, name);
  for (const { start, end, taken } of sources) {
    const name = taken?.names.find(isMarked);
    if (name !== undefined) mark(start, end, name);
  }
  const takesMany = reads.some(({ kind, isTest }) => /^(whole|spread|computed|in)$/.test(kind) && !isTest);
  return { ...(edits.hasChanged() && { code: edits.toString() }), takesMany };
}

/** The marked reads in a chunk, whichever quotes a minifier chose. */
export function leftMarks(code: string): LeftRead[] {
  if (!code.includes(MARK)) return [];
  const marks = new RegExp(`${MARK}\\(\\s*["'\`]([^"'\`]+)["'\`]\\s*,\\s*["'\`]([^"'\`]+)["'\`]`, 'g');
  return [...code.matchAll(marks)].map(([, name = '', module = '']) => ({ name, module }));
}
