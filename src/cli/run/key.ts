import { EXIT, Failure } from '../../core/findings/failure.js';
import { sectionKeys } from '../../core/history/keys.js';
import { makeStyle } from '../../core/report/style.js';
import { count, displayText } from '../../core/text/display.js';
import { readHistory, type StoredHistory } from '../../host/history.js';
import { ensureKey, readKey, readKeyFile, STATE_FOLDER } from '../../host/state.js';
import { hiddenHistory, unreadEntries } from '../../project/history.js';
import { KEY_VARIABLE, openProject, type Project } from '../../project/open.js';
import { rotateKey } from '../../project/recording.js';
import { allStages } from '../../project/resolve.js';
import type { KeyCall } from '../commands/key.js';
import { wantsColour } from '../print-options.js';

/** Runs the command. @returns the exit code */
export async function run({ options, world }: KeyCall): Promise<number> {
  const project = openProject(world, options.contract);
  if (options.print && options.rotate)
    throw new Failure('--print and --rotate are two steps', 'rotate first, then print the new key');
  if (options.print) {
    const key = readKey(project);
    if (!key) throw new Failure('the project has no key here', 'create one: adder key');
    if (world.stdout.isFile)
      throw new Failure('the key is not written to a file, which stays', 'print it to a terminal or into a pipe');
    world.stdout.write(`${Buffer.from(key).toString('hex')}\n`);
    return EXIT.fine;
  }
  if (options.rotate) return rotate(project, world);
  const isNew = readKey(project) === undefined;
  const key = ensureKey(project);
  const style = makeStyle(wantsColour(options.color, world.stdout, world.env));
  const stored = readHistory(project, key);
  const lines = [
    `${style.strong('adder key')}  section ${sectionKeys(key).section}`,
    `  ${placeOf(project, isNew)}`,
    ...openedLines(project, stored),
    ...hiddenHistory(project).map((line) => `  ${line}`),
  ];
  world.stdout.write(`${lines.join('\n')}\n`);
  return stored.unread.length > 0 ? EXIT.unread : EXIT.fine;
}

/** Where the key is. The environment wins, so a difference is said. */
function placeOf(project: Project, isNew: boolean): string {
  const file = `${STATE_FOLDER}/key`;
  if (!project.givenKey) return isNew ? `created in ${file}, which git ignores` : `in ${file}, which git ignores`;
  const own = readKeyFile(project);
  const isOther = own !== undefined && !Buffer.from(own).equals(project.givenKey);
  return `in the environment, as ${KEY_VARIABLE}${isOther ? `; ${file} has another key, which is not used` : ''}`;
}

/** Entries that the key opens, and those that it does not. */
function openedLines(project: Project, stored: StoredHistory): string[] {
  const { sections, closed } = stored;
  const values = sections.flatMap(({ entries }) => [...entries.values()]).filter((one) => one.is === 'value');
  const older = sections.length - 1;
  return [
    `  opens ${count(values.length, 'entry', 'entries')} of the history${older > 0 ? `, ${count(older, 'older section')} included` : ''}`,
    ...(closed > 0 ? [`  does not open ${count(closed, 'entry', 'entries')}: another key wrote them`] : []),
    ...unreadEntries(project, stored).map(({ path, because }) => `  ${displayText(path)} ${because}`),
  ];
}

function rotate(project: Project, world: KeyCall['world']): number {
  if (project.givenKey)
    throw new Failure(
      `the key is in the environment, as ${KEY_VARIABLE}`,
      `rotate it where ${STATE_FOLDER}/key is, and then store the new one in ${KEY_VARIABLE}`,
    );
  const added = rotateKey(project, allStages(project, world), world);
  const lines = [
    `a new key is in ${STATE_FOLDER}/key, and opens what the old one opened`,
    `${count(added, 'value')} of this machine recorded again`,
    `next: commit ${STATE_FOLDER}/history, and give the key to pipelines and people: adder key --print`,
    ...hiddenHistory(project).map((line) => `  ${line}`),
  ];
  world.stdout.write(`${lines.join('\n')}\n`);
  return EXIT.fine;
}
