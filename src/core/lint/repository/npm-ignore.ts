import ignore, { type Ignore } from 'ignore';
import { parentOf } from '../../files/directories.js';
import { globMatcher } from '../../files/glob.js';
import { jsonIn } from '../../text/json.js';
import type { RepositoryFacts } from './facts.js';

/** How far above the contract the root of its workspaces may be. */
const MOST_LEVELS = 8;

type Facts = Pick<RepositoryFacts, 'text' | 'exists' | 'directory'>;

/** Files that pnpm and Yarn have at the root of workspaces. They read no ignore file from above a package (10 and 4 were measured). */
const filesOfOthers = ['pnpm-workspace.yaml', 'pnpm-lock.yaml', 'yarn.lock'] as const;

/**
 * Tells whether ignore files keep a file out of a package that npm packs (npm-packlist). The `.npmignore`, else the `.gitignore`,
 * of each directory is read, from the root of the workspaces that the package belongs to, else from the package itself.
 * What git ignores for other reasons, such as a user's own ignore file or one above the package, is packed.
 * @param folder of the package, with its slash
 * @param hasList whether the manifest has `files`, which only ignore files of the directories inside can narrow
 */
export function npmLeavesOut(facts: Facts, folder: string, hasList: boolean): (file: string) => boolean {
  // Npm reads rules from above the package as if they were in the package.
  const outer = hasList ? [] : [...workspaceFolders(facts, folder), folder].flatMap((one) => rulesIn(facts, one) ?? []);
  const inner = new Map<string, Ignore | undefined>();
  const innerRules = (directory: string): Ignore | undefined => {
    if (!inner.has(directory)) inner.set(directory, rulesIn(facts, folder + directory));
    return inner.get(directory);
  };
  const isOut = (path: string): boolean => {
    const parent = parentOf(path);
    // Nothing in a directory that is left out is packed, whatever the rules inside it say.
    if (parent !== '' && isOut(parent.slice(0, -1))) return true;
    const marks = outer.map((rules) => rules.test(path));
    for (let at = path.indexOf('/') + 1; at > 0; at = path.indexOf('/', at) + 1) {
      const rules = innerRules(path.slice(0, at));
      if (rules) marks.push(rules.test(path.slice(at)));
    }
    return marks.findLast(({ ignored, unignored }) => ignored || unignored)?.ignored ?? false;
  };
  return isOut;
}

function rulesIn({ text }: Facts, folder: string): Ignore | undefined {
  const patterns = text(`${folder}.npmignore`) ?? text(`${folder}.gitignore`);
  return patterns === undefined ? undefined : ignore().add(patterns);
}

/** The directories from the root of the workspaces to the package, without the package itself; none outside workspaces. */
function workspaceFolders(facts: Facts, folder: string): string[] {
  const inside = folder.split('/').filter(Boolean);
  const above = facts.directory.split('/').filter(Boolean).slice(-MOST_LEVELS);
  const way = [...above, ...inside];
  const folders: string[] = [];
  for (let level = 1; level <= way.length; level++) {
    const kept = inside.length - level;
    const at =
      kept < 0
        ? '../'.repeat(-kept)
        : inside
            .slice(0, kept)
            .map((name) => `${name}/`)
            .join('');
    folders.unshift(at);
    if (isWorkspace(facts.text(`${at}package.json`), way.slice(-level).join('/')))
      return filesOfOthers.some((name) => facts.exists(at + name)) ? [] : folders;
  }
  return [];
}

function isWorkspace(manifest: string | undefined, path: string): boolean {
  const { workspaces } = (jsonIn(manifest ?? '') ?? {}) as { workspaces?: unknown };
  const listed = Array.isArray(workspaces) ? workspaces : (workspaces as { packages?: unknown } | undefined)?.packages;
  const globs = (Array.isArray(listed) ? listed : []).filter((one) => typeof one === 'string');
  const plain = globs.map((one) => one.replace(/^\.?\//, '').replace(/\/$/, ''));
  return plain.length > 0 && globMatcher(plain)(path);
}
