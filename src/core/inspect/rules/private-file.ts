import { isInPackages } from '../../files/directories.js';
import { hasBeginning, mayBePrivate, type PrivateFile, privateFiles } from '../../files/private-files.js';
import { finding, type Place, type RawFinding } from '../../findings/finding.js';
import type { Content } from '../content.js';
import { type ArtifactRule, type Inspected, subject } from '../rule.js';

/** First bytes of a file that identify its kind. */
const HEAD = 4096;

/** Key stores, private keys, repositories, and directories of editors, by their names and first bytes. */
export const privateFile: ArtifactRule = {
  codes: ['leak/private-file'],
  marks: () => [],
  wants: (names) => mayBePrivate(names.fileName) && privateFiles.some((one) => one.path.test(names.path)),
  async check(_, { content, inspected }) {
    const { where, fileName } = content;
    if (inspected.audience === 'cache' || content.original !== undefined) return [];
    const path = [where.path, ...where.inside].join('/');
    const found = await matching(path, content);
    // Some packages ship the files of their author's editor.
    return found && (found.isSecret || !isInPackages(path))
      ? [privateFinding(found, fileName, { ...where }, inspected)]
      : [];
  },
};

/** @param name of what must not be copied */
export function privateFinding(
  { what, isSecret }: PrivateFile,
  name: string,
  place: Place,
  inspected: Pick<Inspected, 'stage' | 'bundle' | 'audience'>,
): RawFinding {
  const isMild = !isSecret || inspected.audience === 'server';
  const more = { ...subject(inspected), ...(isMild && { level: 'warning' as const }), place };
  return finding('leak/private-file', isSecret ? 'secret' : 'private', { what, name }, more);
}

async function matching(path: string, content: Content): Promise<PrivateFile | undefined> {
  const ofName = privateFiles.filter((one) => one.path.test(path));
  const plain = ofName.find(({ begins }) => !begins);
  if (plain || ofName.length === 0) return plain;
  const read = (await content.readAround?.([{ start: 0, end: HEAD }])) ?? content.read;
  const head = Buffer.from(read(0, HEAD)).toString('latin1');
  return ofName.find((one) => hasBeginning(one, head));
}
