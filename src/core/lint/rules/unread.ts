import { type LintContext, type LintFinding, placed } from '../model.js';

/** Files that the parser could not read in full: what they read is not known. */
export function unreadRule(context: LintContext): LintFinding[] {
  const inBundle = new Set(context.bundles.flatMap(({ shipped, onServer }) => [...shipped.keys(), ...onServer]));
  return [...context.files.values()].flatMap((file): LintFinding[] => {
    if (!file.problem || !inBundle.has(file.path)) return [];
    const { message, offset } = file.problem;
    return [
      {
        code: 'code/unread',
        message: `the file could not be read in full: ${message.charAt(0).toLowerCase()}${message.slice(1)}`,
        remedy: 'mend it, or take it out of the code of the bundle',
        ...placed(context, file, offset, offset + 1),
      },
    ];
  });
}
