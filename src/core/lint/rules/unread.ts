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
        message: `cannot parse the file completely: ${message.charAt(0).toLowerCase()}${message.slice(1)}`,
        remedy: 'fix it, or remove it from `code` of the bundle',
        ...placed(context, file, offset, offset + 1),
      },
    ];
  });
}
