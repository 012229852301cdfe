import { lastName, parentOf } from '../../files/directories.js';
import { finding } from '../../findings/finding.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts } from './facts.js';

/** Files with rules of what to leave out, under a name that no program reads: an editor added an extension, or the dot is missing. */
const misnamed = /^(?:(\.(?:git|docker|npm)ignore)\.(?:txt|text|rtf)|((?:git|docker|npm)ignore)(?:\.txt)?)$/;

/** Ignore files that ignore nothing. */
export function ignoreFileRules({ paths, exists }: RepositoryFacts): LintFinding[] {
  return paths.flatMap((path): LintFinding[] => {
    const [, dotted, plain] = misnamed.exec(lastName(path)) ?? [];
    const name = dotted ?? (plain === undefined ? undefined : `.${plain}`);
    // Templates have `gitignore`, from which a tool makes the real one.
    if (name === undefined || exists(parentOf(path) + name) || /(^|\/)templates?\//.test(path)) return [];
    return [finding('repo/misnamed', 'ignore-file', { found: path, name }, { place: { path, inside: [] } })];
  });
}
