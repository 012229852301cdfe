import type { Bundle } from '../core/contract/contract.js';
import { isSkippedDirectory } from '../core/files/directories.js';
import { within } from '../core/files/within.js';
import { commonFolder } from '../core/runtime/page.js';
import { count } from '../core/text/display.js';
import { joinWords } from '../core/text/nearest.js';
import { filesNamed } from '../host/walk.js';
import type { Project } from './open.js';

/** More directories are no answer to where a build writes. */
const MOST_DIRECTORIES = 3;

/**
 * Where a build wrote what a browser loads, if not into the outputs of the contract: a phrase with the line for the contract;
 * empty if it wrote nothing.
 * @param started milliseconds since 1970
 */
export function writtenElsewhere({ files, root }: Project, { name, output }: Bundle, started: number): string {
  const isOutput = within(output);
  const isOfPages = (name: string) => /\.(html?|[cm]?js|css)$/i.test(name);
  const written = filesNamed(files, root, isOfPages, (path) => isSkippedDirectory(path) || isOutput(path)).filter(
    (path) => {
      // Programs cannot set the time of the last change of a file's state, and file systems round it.
      const changed = files.stat(files.path.join(root, path))?.ctimeMs ?? 0;
      return path.includes('/') && changed >= started - 1000;
    },
  );
  if (written.length === 0) return '';
  const tops = [...new Set(written.map((path) => path.slice(0, path.indexOf('/'))))];
  const folders = tops.map((top) => commonFolder(written.filter((path) => path.startsWith(`${top}/`))).slice(0, -1));
  if (folders.length > MOST_DIRECTORIES) return '';
  return `; it wrote ${count(written.length, 'file')} to ${joinWords(folders)}: if they ship, set \`output: [${folders.join(', ')}]\` for ${name} in the contract`;
}
