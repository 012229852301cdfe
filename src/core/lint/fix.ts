import { createTwoFilesPatch } from 'diff';
import { Failure } from '../findings/failure.js';
import { byteOffsets } from '../text/utf8.js';
import type { Edit, LintFinding } from './model.js';

/** A file with its changes made. */
export interface FixedFile {
  path: string;
  before: string;
  after: string;
  /** In their order, none touching another. */
  edits: readonly Edit[];
}

/** Makes the changes that findings carry; of two that touch one place only the first. */
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
    const after = chosen.reduceRight(
      (text, { start, end, text: inserted }) => text.slice(0, start) + inserted + text.slice(end),
      before,
    );
    return [{ path, before, after, edits: chosen }];
  });
}

function withoutOverlaps(edits: readonly Edit[]): Edit[] {
  const sorted = [...edits].sort((a, b) => a.start - b.start || a.end - b.end);
  return sorted.filter(
    (edit, index) => !sorted.slice(0, index).some(({ start, end }) => edit.start < end && edit.end > start),
  );
}

/**
 * A file's bytes with its edits made; all others stay as they are, also where they are not UTF-8.
 * @throws Failure where the file is not the one that the edits were made for
 */
export function editedBytes(bytes: Buffer, { path, before, edits }: FixedFile): Buffer {
  if (bytes.toString() !== before)
    throw new Failure(`${path} changed during the check, so it was not fixed`, 'run the command again');
  const offsets = byteOffsets(bytes, new Set(edits.flatMap(({ start, end }) => [start, end])));
  const pieces: Uint8Array[] = [];
  let at = 0;
  for (const { start, end, text } of edits) {
    const [from, to] = [offsets.get(start), offsets.get(end)];
    if (from === undefined || to === undefined) throw new Error('an edit inside of a character');
    pieces.push(bytes.subarray(at, from), Buffer.from(text));
    at = to;
  }
  return Buffer.concat([...pieces, bytes.subarray(at)]);
}

/** A change as a unified diff, as `patch` and version control read it. */
export function diffOf({ path, before, after }: FixedFile): string {
  return createTwoFilesPatch(`a/${path}`, `b/${path}`, before, after, undefined, undefined, { context: 2 }).replace(
    /^=+\n/,
    '',
  );
}
