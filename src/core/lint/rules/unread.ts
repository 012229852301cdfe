import { finding } from '../../findings/finding.js';
import { type LintContext, type LintFinding, placed } from '../model.js';

/** Files that the parser could not read in full: what they read is not known. */
export function unreadRule(context: LintContext): LintFinding[] {
  const inBundle = new Set(context.bundles.flatMap(({ shipped, onServer }) => [...shipped.keys(), ...onServer]));
  return [...context.files.values()].flatMap((file): LintFinding[] => {
    if (!file.problem || !inBundle.has(file.path)) return [];
    const { message: problem, offset } = file.problem;
    return [finding('code/unread', 'syntax', { problem }, placed(context, file, offset, offset + 1))];
  });
}
