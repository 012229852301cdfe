import type { Stage, Variable } from '../core/contract/contract.js';
import { Failure } from '../core/findings/failure.js';
import { type Entry, entryName, LONGEST_REASON, makeEntry, type Retirement } from '../core/history/entry.js';
import { forgottenBefore, openEntryOf, type PastValue } from '../core/history/history.js';
import { newKey, type SectionKeys, sectionKeys } from '../core/history/keys.js';
import { weakness } from '../core/needles/weak.js';
import type { Resolution, ResolvedValue } from '../core/resolve/resolve.js';
import { reveal, type Secret } from '../core/secrets/secret.js';
import { removeEntries, writeEntries, writeWrappedKey } from '../host/history.js';
import { allReceipts, ensureKey, readKey, replaceKey } from '../host/state.js';
import { today, type World } from '../host/world.js';
import { projectHistory } from './history.js';
import type { Project } from './open.js';

/** The clock of a recording, and the place of its warnings. */
type RecordingWorld = Pick<World, 'now' | 'stderr'>;

/**
 * Adds the values of a stage to the history, and forgets what the contract says. Neither a build nor a check depends on it, so a
 * failure is a warning.
 * @param makesKey whether a project without a key gets one: a check alone makes none
 * @returns ids of the entries of the current values, by variable
 */
export function recordValues(
  project: Project,
  resolutions: readonly Resolution[],
  world: RecordingWorld,
  makesKey: boolean,
): ReadonlyMap<string, string> {
  try {
    return record(project, resolutions, world, makesKey);
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    world.stderr.write(`adder: warning: the history of values was not written: ${error.message}\n`);
    return new Map();
  }
}

function record(
  project: Project,
  resolutions: readonly Resolution[],
  world: RecordingWorld,
  makesKey: boolean,
): ReadonlyMap<string, string> {
  const { state, values: known } = projectHistory(project, []);
  // A key of this machine alone would begin a section that nobody else can read.
  const key = state === 'no key' ? undefined : makesKey ? ensureKey(project) : readKey(project);
  if (!key) return new Map();
  const recorder = new Recorder(sectionKeys(key), known, today(world));
  for (const { stage, values } of resolutions) for (const one of values.values()) recorder.add(stage, one);
  writeEntries(project, recorder.keys, recorder.entries);
  forget(project, resolutions, world);
  return recorder.ids;
}

/** The entries that some values need. */
class Recorder {
  readonly entries: Entry[] = [];
  /** Ids of the entries of values, by variable. */
  readonly ids = new Map<string, string>();

  constructor(
    readonly keys: SectionKeys,
    readonly known: readonly PastValue[],
    readonly day: string,
  ) {}

  /** @returns the id of the value's entry, or why it is not kept: a phrase that follows the value */
  add(
    { name: stage }: Pick<Stage, 'name'>,
    { variable, value }: Pick<ResolvedValue, 'variable' | 'value'>,
  ): { id: string } | { because: string } {
    const { name, reach, search } = variable;
    if (search === 'never') return { because: 'is excluded from every search by the contract' };
    if (!value || !isWorthKeeping(value)) return { because: 'is short or ordinary, so it could not be recognised' };
    const known = openEntryOf(this.known, { variable: name, stage, value });
    if (known?.keys.section === this.keys.section) return this.#keep(name, known.ids[0] as string);
    const entry = makeEntry(this.keys, { variable: name, stage, reach, value, day: this.day });
    if ('notKept' in entry) return { because: entry.notKept };
    const id = entryName(this.keys, entry);
    this.entries.push(entry);
    // The value was recorded before the key changed.
    if (known) this.entries.push({ is: 'renewed', entry: known.ids[0] as string, as: id });
    return this.#keep(name, id);
  }

  #keep(variable: string, id: string): { id: string } {
    this.ids.set(variable, id);
    return { id };
  }

  /** @param because at most {@link LONGEST_REASON} characters */
  retirement(entry: string, because: string | undefined): Retirement {
    return { is: 'retired', entry, day: this.day, ...(because !== undefined && { because }) };
  }
}

/** Tells whether a value could be recognised: a flag or a common word is in every bundle. */
function isWorthKeeping(value: Secret): boolean {
  const text = reveal(value);
  return text.trim() !== '' && weakness(text) === undefined;
}

/** Removes entries of values that were replaced longer ago than the contract says, unless a receipt names them. */
function forget(project: Project, resolutions: readonly Resolution[], world: RecordingWorld): void {
  const { keepDays } = project.contract.history;
  if (keepDays === undefined) return;
  const day = today({ now: () => new Date(world.now().getTime() - keepDays * 86_400_000) });
  const { values, sections } = projectHistory(project, resolutions);
  const receipts = [...project.contract.bundles.keys()].flatMap((bundle) => allReceipts(project, bundle));
  const needed = new Set(
    receipts.flatMap(({ receipt }) => receipt.predicate.values.flatMap(({ entry }) => entry ?? [])),
  );
  removeEntries(project, forgottenBefore(day, values, sections, needed));
}

/**
 * Marks the present value of a variable in some stages as replaced today.
 * @param reason at most {@link LONGEST_REASON} characters
 * @returns for each stage that has a value, why it is not kept, if it is not: a phrase that follows the value
 * @throws Failure if the history is closed
 */
export function retireValues(
  project: Project,
  variable: string,
  resolutions: readonly Resolution[],
  { reason, world }: { reason: string | undefined; world: Pick<World, 'now'> },
): { stage: string; because?: string }[] {
  const present = resolutions.flatMap(({ stage, values }) => {
    const one = values.get(variable);
    return one?.value && reveal(one.value).trim() !== '' ? [{ stage, one }] : [];
  });
  if (present.length === 0) return [];
  const recorder = openRecorder(project, world);
  if (!recorder) throw closedHistory();
  const results = present.map(({ stage, one }) => ({ stage: stage.name, ...recorder.add(stage, one) }));
  const retirements = results.flatMap((one) => ('id' in one ? recorder.retirement(one.id, reason) : []));
  writeEntries(project, recorder.keys, [...recorder.entries, ...retirements]);
  return results.map(({ stage, ...result }) => ({ stage, ...('because' in result && result) }));
}

/** Undefined if this machine cannot read the history: a key of its own would begin a section that nobody else can read. */
function openRecorder(project: Project, world: Pick<World, 'now'>): Recorder | undefined {
  const { values, state } = projectHistory(project, []);
  if (state === 'no key') return undefined;
  return new Recorder(sectionKeys(ensureKey(project)), values, today(world));
}

function closedHistory(): Failure {
  return new Failure('this machine has no key that opens the history', 'set ADDER_KEY, or copy .adder/key to here');
}

/**
 * Records values that a host shows and will lose. They are recorded before they are replaced, and retired after it, so that a call
 * that is killed loses none.
 * @param host its name in the contract, if they were replaced today
 */
export function keepReplaced(
  project: Project,
  stage: string,
  steps: readonly { variable: Variable; old?: Secret }[],
  host: string | undefined,
  world: Pick<World, 'now'>,
): void {
  const replaced = steps.flatMap(({ variable, old }) => (old ? [{ variable, value: old }] : []));
  const recorder = replaced.length > 0 ? openRecorder(project, world) : undefined;
  if (!recorder) return;
  const ids = replaced.map((one) => recorder.add({ name: stage }, one)).flatMap((one) => ('id' in one ? one.id : []));
  const retirements = ids.flatMap((id): Entry[] =>
    host === undefined ? [] : [recorder.retirement(id, `replaced on ${host}`.slice(0, LONGEST_REASON))],
  );
  writeEntries(project, recorder.keys, [...recorder.entries, ...retirements]);
}

/**
 * Begins a new section of the history with a new key, which opens the older sections too. The values that are here now are recorded
 * again. @returns the number of values that are recorded under the new key
 * @throws Failure if the history is closed
 */
export function rotateKey(project: Project, resolutions: readonly Resolution[], world: Pick<World, 'now'>): number {
  const { values: known, state } = projectHistory(project, []);
  if (state === 'no key') throw closedHistory();
  const older = ensureKey(project);
  const newer = newKey();
  const recorder = new Recorder(sectionKeys(newer), known, today(world));
  for (const { stage, values } of resolutions) for (const one of values.values()) recorder.add(stage, one);
  // A process that is killed leaves a key that opens everything: the older key is wrapped before it is replaced, and entries of the
  // newer one come last. The next build records those that are missing.
  writeWrappedKey(project, newer, older);
  replaceKey(project, newer);
  writeEntries(project, recorder.keys, recorder.entries);
  return recorder.entries.filter(({ is }) => is === 'value').length;
}
