import { createTwoFilesPatch } from 'diff';
import MagicString from 'magic-string';
import { Failure } from '../findings/failure.js';
import { byteOffsets } from '../text/utf8.js';
import type { Edit, LintFinding } from './model.js';

/** A file with its fixes. */
export interface FixedFile {
  path: string;
  before: string;
  after: string;
  /** In text order, without overlaps. */
  edits: readonly Edit[];
}

/** Applies the fixes of findings; of two overlapping ones only the first. */
export function fixedFiles(
  findings: readonly LintFinding[],
  textOf: (path: string) => string | undefined,
): FixedFile[] {
  const byPath = new Map<string, Edit[]>();
  for (const edit of findings.flatMap(({ fix = [] }) => fix))
    byPath.set(edit.path, [...(byPath.get(edit.path) ?? []), edit]);
  return [...byPath].flatMap(([path, edits]) => {
    const before = textOf(path);
    if (before === undefined) return [];
    const chosen = withoutOverlaps(edits);
    const after = new MagicString(before);
    for (const { start, end, text } of chosen) after.update(start, end, text);
    return [{ path, before, after: after.toString(), edits: chosen }];
  });
}

function withoutOverlaps(edits: readonly Edit[]): Edit[] {
  const sorted = [...edits].sort((a, b) => a.start - b.start || a.end - b.end);
  return sorted.filter(
    (edit, index) => !sorted.slice(0, index).some(({ start, end }) => edit.start < end && edit.end > start),
  );
}

/**
 * Applies edits to a file's bytes; all other bytes stay, also invalid UTF-8.
 * @throws Failure if the file changed since it was checked
 */
export function editedBytes(bytes: Buffer, { path, before, edits }: FixedFile): Buffer {
  if (bytes.toString() !== before)
    throw new Failure(`${path} changed during the check, so it was not fixed`, 'run the command again');
  const offsets = byteOffsets(bytes, new Set(edits.flatMap(({ start, end }) => [start, end])));
  const pieces: Uint8Array[] = [];
  let at = 0;
  for (const { start, end, text } of edits) {
    const [from, to] = [offsets.get(start), offsets.get(end)];
    if (from === undefined || to === undefined) throw new Error('an edit inside a character');
    pieces.push(bytes.subarray(at, from), Buffer.from(text));
    at = to;
  }
  return Buffer.concat([...pieces, bytes.subarray(at)]);
}

/** A fix as a unified diff. */
export function diffOf({ path, before, after }: FixedFile): string {
  return createTwoFilesPatch(`a/${path}`, `b/${path}`, before, after, undefined, undefined, { context: 2 }).replace(
    /^=+\n/,
    '',
  );
}
