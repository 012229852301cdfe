import { type NewAcceptance, withAcceptances } from '../../core/contract/acceptances.js';
import { parseContract } from '../../core/contract/parse.js';
import { EXIT, Failure } from '../../core/findings/failure.js';
import type { Finding } from '../../core/findings/finding.js';
import { placeText } from '../../core/findings/place.js';
import { count } from '../../core/text/display.js';
import { today, type World } from '../../host/world.js';
import { currentFindings } from '../../project/findings.js';
import { openProject, type Project } from '../../project/open.js';
import type { AcceptCall } from '../commands/accept.js';

/** Shorter beginnings of fingerprints are typing errors more often than not. */
const SHORTEST_PREFIX = 4;
/** How long an acceptance holds if no date is given. */
const USUAL_DAYS = 90;
const DAY_MS = 24 * 60 * 60 * 1000;

/** Runs the command. @returns the exit code */
export async function run({ words, options, world }: AcceptCall): Promise<number> {
  const { because, all, stage } = options;
  if (because === undefined) throw new Failure('adder accept needs a reason', "add --because 'TEXT'");
  if (all === words.length > 0)
    throw new Failure(
      all ? '--all accepts all findings, and fingerprints were given too' : 'adder accept needs a fingerprint',
      all ? 'remove one of the two' : 'name one that a report shows, or use --all',
    );
  const until = options.until ?? dayAfter(world, USUAL_DAYS);
  if (until < today(world)) throw new Failure(`--until ${until} is in the past`, 'use a later date');
  const project = openProject(world, options.contract);
  const { findings, notInspected } = await currentFindings(project, { stage }, world);
  const acceptable = eachOnce(findings.filter(({ code }) => !code.startsWith('contract/')));
  const named = words.map((word) => findingOf(word, acceptable, notInspected));
  const chosen = all ? acceptable : [...new Set(named)];
  if (chosen.length === 0) {
    world.stdout.write('nothing to accept: there are no findings\n');
    return EXIT.fine;
  }
  write(
    project,
    chosen.map((one) => ({ ...entryOf(one), because, until })),
    options['dry-run'],
  );
  const where = project.files.shown(project.contractPath, project.root);
  const verb = options['dry-run'] ? 'would accept' : 'accepted';
  world.stdout.write(`${verb} ${count(chosen.length, 'finding')} until ${until}, in ${where}\n`);
  if (all && notInspected !== undefined) world.stdout.write(`built files were not inspected: ${notInspected}\n`);
  return EXIT.fine;
}

/** One of the findings with each fingerprint: they are one problem in several places. */
function eachOnce(findings: readonly Finding[]): Finding[] {
  return [...new Map(findings.toReversed().map((one) => [one.fingerprint, one])).values()].reverse();
}

/** @throws Failure if no finding, or more than one, has such a fingerprint */
function findingOf(word: string, findings: readonly Finding[], notInspected: string | undefined): Finding {
  const prefix = word.toLowerCase();
  if (!/^[0-9a-f]{1,32}$/.test(prefix) || prefix.length < SHORTEST_PREFIX)
    throw new Failure(
      `"${/^\w{1,32}$/.test(word) ? word : '[masked]'}" is not the beginning of a fingerprint`,
      `a fingerprint has hexadecimal digits, at least ${SHORTEST_PREFIX} of them are needed; reports show 8`,
    );
  const found = findings.filter(({ fingerprint }) => fingerprint.startsWith(prefix));
  const [first, second] = found;
  if (!first)
    throw new Failure(
      `no finding has the fingerprint ${prefix} now`,
      notInspected === undefined
        ? 'run `adder inspect` or `adder lint` again: the finding may be gone, or accepted already'
        : `built files were not inspected (${notInspected}); name the stage with --stage`,
    );
  if (second)
    throw new Failure(
      `${found.length} findings have fingerprints that begin with ${prefix}`,
      `use more digits: ${first.fingerprint.slice(0, 16)} or ${second.fingerprint.slice(0, 16)}`,
    );
  return first;
}

function entryOf({ code, fingerprint, place, variable }: Finding): Omit<NewAcceptance, 'because' | 'until'> {
  const about = [place && placeText({ path: place.path, inside: place.inside }), variable].filter(Boolean).join(', ');
  return { finding: code, fingerprint, about: about || code };
}

/** @throws Failure if the contract has no place for acceptances */
function write(project: Project, entries: readonly NewAcceptance[], isDry: boolean): void {
  const { files, contractPath, root } = project;
  const changedText = () => {
    const changed = withAcceptances(files.read(contractPath).toString(), entries);
    if (changed === undefined || !parseContract(changed, contractPath).contract)
      throw new Failure(
        `${files.shown(contractPath, root)} is not written in a form that can be added to`,
        'write the contract, and `accept` in it, as a list with one entry per line',
      );
    return changed;
  };
  if (isDry) changedText();
  else files.change(contractPath, { root }, changedText);
}

function dayAfter(world: World, days: number): string {
  return new Date(world.now().getTime() + days * DAY_MS).toISOString().slice(0, 10);
}
