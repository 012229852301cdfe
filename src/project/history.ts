import type { Stage, Variable } from '../core/contract/contract.js';
import { scopesOf } from '../core/contract/scopes.js';
import type { Unread } from '../core/findings/check.js';
import { Failure } from '../core/findings/failure.js';
import { type Entry, entryName, LONGEST_REASON, makeEntry, type ValueEntry } from '../core/history/entry.js';
import {
  type CurrentValue,
  forgottenBefore,
  type OpenSection,
  openEntryOf,
  type PastValue,
  pastValues,
} from '../core/history/history.js';
import { newKey, type SectionKeys, sectionKeys } from '../core/history/keys.js';
import { weakness } from '../core/needles/weak.js';
import type { Resolution, ResolvedValue } from '../core/resolve/resolve.js';
import { reveal, type Secret } from '../core/secrets/secret.js';
import { readHistory, removeEntries, type StoredHistory, writeEntries, writeWrappedKey } from '../host/history.js';
import { allReceipts, ensureKey, readKey, replaceKey } from '../host/state.js';
import { today, type World } from '../host/world.js';
import { type Project, stageOf } from './open.js';
import { StageResolver } from './resolve.js';

/** The history of a project, with the values that its stages have here. */
export interface ProjectHistory extends StoredHistory {
  values: PastValue[];
  /** `no key`: entries exist, and this machine cannot read any. */
  state: 'none' | 'no key' | 'open';
}

/** Reads the history. @param resolutions stages as they are here: their values are not past */
export function projectHistory(project: Project, resolutions: readonly Resolution[]): ProjectHistory {
  const stored = readHistory(project, keyIfReadable(project));
  const values = pastValues(stored.sections, currentValues(resolutions));
  const state = values.length > 0 ? 'open' : stored.closed > 0 ? 'no key' : 'none';
  return { ...stored, values, state };
}

/** Keys before a rotation: receipts of that time are compared with them. */
export function olderKeys(project: Project, key: Uint8Array | undefined): Uint8Array[] {
  return readHistory(project, key).sections.flatMap((one) =>
    one.key.every((byte, at) => byte === key?.[at]) ? [] : one.key,
  );
}

/** A damaged key is reported where receipts are read. */
function keyIfReadable(project: Project): Uint8Array | undefined {
  try {
    return readKey(project);
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    return undefined;
  }
}

/** Files of the history that cannot be used. */
export function unreadEntries({ files, root }: Project, { unread }: StoredHistory): Unread[] {
  return unread.map(({ path, because }) => ({ path: files.shown(path, root), inside: [], because }));
}

function currentValues(resolutions: readonly Resolution[]): CurrentValue[] {
  return resolutions.flatMap(({ stage, values }) =>
    [...values.values()].flatMap(({ variable: { name: variable }, value }) =>
      value ? [{ variable, stage: stage.name, value }] : [],
    ),
  );
}

/** A value that is not in the history, with a phrase that follows its name. */
export interface NotKeptValue {
  variable: string;
  stage: string;
  because: string;
}

/** Result of recording the values of a stage. */
export interface Recorded {
  /** Number of new entries. */
  added: number;
  notKept: NotKeptValue[];
  /** Ids of the entries of the current values, by variable. */
  ids: ReadonlyMap<string, string>;
}

const nothing: Recorded = { added: 0, notKept: [], ids: new Map() };

/**
 * Adds the values of a stage to the history, and forgets what the contract says.
 * @param makesKey whether a project without a key gets one: a check alone makes none
 */
export function recordValues(
  project: Project,
  resolutions: readonly Resolution[],
  world: Pick<World, 'now'>,
  makesKey: boolean,
): Recorded {
  const history = projectHistory(project, resolutions);
  // A key of this machine alone would begin a section that nobody else can read.
  if (history.state === 'no key') return nothing;
  const key = makesKey ? ensureKey(project) : readKey(project);
  if (!key) return nothing;
  const keys = sectionKeys(key);
  const recorder = new Recorder(keys, history.sections, today(world));
  for (const { stage, values } of resolutions) for (const one of values.values()) recorder.add(stage, one);
  const added = writeEntries(project, keys, recorder.entries).length;
  forget(project, resolutions, world);
  return { added, notKept: recorder.notKept, ids: recorder.ids };
}

/** The entries that some values need. */
class Recorder {
  readonly entries: ValueEntry[] = [];
  readonly notKept: NotKeptValue[] = [];
  readonly ids = new Map<string, string>();
  readonly #known: PastValue[];

  constructor(
    readonly keys: SectionKeys,
    sections: readonly OpenSection[],
    readonly day: string,
  ) {
    this.#known = pastValues(sections, []);
  }

  /** @returns the id of the value's entry; undefined if it is not kept */
  add(
    { name: stage }: Pick<Stage, 'name'>,
    { variable, value }: Pick<ResolvedValue, 'variable' | 'value'>,
  ): string | undefined {
    const { name, reach, search } = variable;
    if (!value || search === 'never' || !isWorthKeeping(value)) return undefined;
    const known = openEntryOf(this.#known, { variable: name, stage, value });
    if (known?.keys.section === this.keys.section) return this.#keep(name, known.ids[0] as string);
    const entry = makeEntry(this.keys, { variable: name, stage, reach, value, day: this.day });
    if ('notKept' in entry) {
      this.notKept.push({ variable: name, stage, because: entry.notKept });
      return undefined;
    }
    this.entries.push(entry);
    return this.#keep(name, entryName(this.keys, entry));
  }

  #keep(variable: string, id: string): string {
    this.ids.set(variable, id);
    return id;
  }
}

/** Tells whether a value could be recognised: a flag or a common word is in every bundle. */
function isWorthKeeping(value: Secret): boolean {
  const text = reveal(value);
  return text.trim() !== '' && weakness(text) === undefined;
}

/** Removes entries of values that were replaced longer ago than the contract says, unless a receipt names them. */
function forget(project: Project, resolutions: readonly Resolution[], world: Pick<World, 'now'>): void {
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

/** Outcome of {@link retireValues} for one value. */
export interface RetiredValue extends NotKeptValue {
  isRetired: boolean;
}

/**
 * Marks the present value of a variable in some stages as replaced today.
 * @param reason at most {@link LONGEST_REASON} characters
 */
export function retireValues(
  project: Project,
  variable: string,
  resolutions: readonly Resolution[],
  { reason, world }: { reason: string | undefined; world: Pick<World, 'now'> },
): { stage: string; because?: string }[] {
  const key = ensureKey(project);
  const keys = sectionKeys(key);
  const { sections } = projectHistory(project, resolutions);
  const recorder = new Recorder(keys, sections, today(world));
  const results = resolutions.flatMap(({ stage, values }): { stage: string; because?: string; id?: string }[] => {
    const value = values.get(variable);
    if (!value?.value || reveal(value.value).trim() === '') return [];
    const id = recorder.add(stage, value);
    if (id !== undefined) return [{ stage: stage.name, id }];
    const because = recorder.notKept.find((one) => one.stage === stage.name)?.because;
    return [{ stage: stage.name, because: because ?? 'is short or ordinary, so it could not be recognised' }];
  });
  const retirements = results.flatMap(({ id: entry }): Entry[] =>
    entry === undefined
      ? []
      : [
          {
            is: 'retired',
            entry,
            day: today(world),
            ...(reason !== undefined && { because: reason.slice(0, LONGEST_REASON) }),
          },
        ],
  );
  writeEntries(project, keys, [...recorder.entries, ...retirements]);
  return results.map(({ stage, because }) => ({ stage, ...(because !== undefined && { because }) }));
}

/** A stage as each part of the project has it here. */
export function stageInAllScopes(
  project: Project,
  stage: string,
  world: Pick<World, 'env' | 'outlet' | 'processes'>,
): Resolution[] {
  return scopesOf(project.contract).map(({ contract }) => {
    const part = { ...project, contract };
    return new StageResolver(part, world).for(stageOf(part, stage)).asked;
  });
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
  const { state, sections } = projectHistory(project, []);
  if (replaced.length === 0 || state === 'no key') return;
  const keys = sectionKeys(ensureKey(project));
  const recorder = new Recorder(keys, sections, today(world));
  const ids = replaced.flatMap((one) => recorder.add({ name: stage }, one) ?? []);
  const retirements = (host === undefined ? [] : ids).map(
    (entry): Entry => ({ is: 'retired', entry, day: today(world), because: `replaced on ${host}` }),
  );
  writeEntries(project, keys, [...recorder.entries, ...retirements]);
}

/**
 * Begins a new section of the history with a new key, which opens the older sections too. The values that are here now are recorded
 * again. @returns the number of values that are recorded under the new key
 */
export function rotateKey(project: Project, resolutions: readonly Resolution[], world: Pick<World, 'now'>): number {
  const older = ensureKey(project);
  const newer = newKey();
  const { sections } = projectHistory(project, resolutions);
  const keys = sectionKeys(newer);
  const known = pastValues(sections, []);
  const recorder = new Recorder(keys, sections, today(world));
  const renewals: Entry[] = [];
  for (const { stage, values } of resolutions)
    for (const one of values.values()) {
      const id = recorder.add(stage, one);
      const { variable, value } = one;
      const old = value && openEntryOf(known, { variable: variable.name, stage: stage.name, value });
      if (id !== undefined && old) renewals.push({ is: 'renewed', entry: old.ids[0] as string, as: id });
    }
  // The older key is wrapped before it is replaced: a process that is killed leaves a key that opens everything.
  writeWrappedKey(project, newer, older);
  writeEntries(project, keys, [...recorder.entries, ...renewals]);
  replaceKey(project, newer);
  return recorder.entries.length;
}

/** Every stage of every part of the project, as its own layers have it. */
export function allStages(project: Project, world: Pick<World, 'env' | 'outlet' | 'processes'>): Resolution[] {
  return scopesOf(project.contract).flatMap(({ contract }) =>
    new StageResolver({ ...project, contract }, world).eachAlone(),
  );
}
