import { createTwoFilesPatch } from 'diff';
import type { Edit, LintFinding } from './model.js';

/** A file with its changes made. */
export interface FixedFile {
  path: string;
  before: string;
  after: string;
  edits: number;
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
    return [{ path, before, after, edits: chosen.length }];
  });
}

function withoutOverlaps(edits: readonly Edit[]): Edit[] {
  const sorted = [...edits].sort((a, b) => a.start - b.start || a.end - b.end);
  return sorted.filter(
    (edit, index) => !sorted.slice(0, index).some(({ start, end }) => edit.start < end && edit.end > start),
  );
}

/** A change as a unified diff, as `patch` and version control read it. */
export function diffOf({ path, before, after }: FixedFile): string {
  return createTwoFilesPatch(`a/${path}`, `b/${path}`, before, after, undefined, undefined, { context: 2 }).replace(
    /^=+\n/,
    '',
  );
}
