import type { Bundle } from '../core/contract/contract.js';
import { rulesOf } from '../core/contract/rules.js';
import { isPage } from '../core/files/languages.js';
import { Failure } from '../core/findings/failure.js';
import { judge } from '../core/findings/judge.js';
import { worded } from '../core/report/worded.js';
import type { Resolution } from '../core/resolve/resolve.js';
import { commonFolder, pointAt } from '../core/runtime/page.js';
import { PAGE_START, type RuntimeFile, runtimeVariables, VALUES_FILE } from '../core/runtime/runtime.js';
import type { Files } from '../host/files.js';
import { filesNamed } from '../host/walk.js';
import type { Project } from './open.js';

/** One step of putting runtime values in place: a file to write, or an older one to remove. */
export type RuntimeChange = { path: string; text: string | Uint8Array } | { path: string; remove: true };

/**
 * Lists the changes after which the pages of a build load these values; empty if they already do.
 * @throws Failure if the directory does not exist or has no page
 */
export function runtimeChanges(files: Files, folder: string, file: RuntimeFile): RuntimeChange[] {
  const { join } = files.path;
  if (!files.stat(folder)?.isDirectory())
    throw new Failure(`${folder} is not a directory`, 'build the app first, then pass the directory of its pages');
  const all = filesNamed(
    files,
    folder,
    () => true,
    () => false,
  ).sort();
  // The directory with the pages is what a server serves; some builders put it below their output directory.
  const served = commonFolder(all.filter(isPage));
  const paths = all.filter((path) => path.startsWith(served)).map((path) => path.slice(served.length));
  const pages = paths.filter(isPage);
  if (pages.length === 0)
    throw new Failure(
      `no page in ${folder}`,
      'pass the directory of the pages, or write the values to a file: adder emit runtime --save FILE',
    );
  const isOurs = (path: string) => files.readIfPossible(join(folder, path))?.toString().startsWith(PAGE_START);
  const older = all.filter((path) => isValuesFile(path) && path !== served + file.name && isOurs(path));
  const names = new Set(paths);
  const root = join(folder, served);
  const script = join(root, file.name);
  const isThere = files.readIfPossible(script)?.toString() === file.text;
  const written = pages.flatMap((page): RuntimeChange[] => {
    const path = join(root, page);
    // Latin-1 keeps the bytes of any page encoding; everything searched for and inserted is ASCII.
    const html = files.read(path).toString('latin1');
    const text = pointAt(html, file, page, names);
    return text === html ? [] : [{ path, text: Buffer.from(text, 'latin1') }];
  });
  // The new script is written first and the old one removed last, so that a page served meanwhile finds its script.
  return [
    ...(isThere ? [] : [{ path: script, text: file.text }]),
    ...written,
    ...older.map((path) => ({ path: join(folder, path), remove: true as const })),
  ];
}

/** With or without a digest: somebody may have renamed one. */
function isValuesFile(path: string): boolean {
  return VALUES_FILE.test(path);
}

/** @param root the contract's directory */
export function writeRuntime(files: Files, changes: readonly RuntimeChange[], root: string): void {
  for (const change of changes) {
    if ('remove' in change) files.remove(change.path);
    else files.write(change.path, change.text, { root });
  }
}

/** @throws Failure if a load-time value is missing or malformed */
export function assertInOrder({ contract }: Project, bundle: Bundle, resolution: Resolution, today: string): void {
  const names = new Set(runtimeVariables(contract, bundle).map(({ name }) => name));
  const { findings } = judge(resolution.findings, rulesOf(contract), today, []);
  const wrong = findings.filter(
    ({ level, variable }) => level === 'error' && variable !== undefined && names.has(variable),
  );
  if (wrong.length > 0)
    throw new Failure(
      wrong.map((one) => worded(one).message).join('; '),
      `nothing was written; \`adder values ${resolution.stage.name}\` shows all problems`,
    );
  if (names.size === 0)
    throw new Failure(
      `${bundle.name} has no load-time variables`,
      'set `delivery: runtime` for variables that the app reads when it loads',
    );
}
