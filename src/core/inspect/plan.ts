import type { Contract, Variable } from '../contract/contract.js';
import { allNamesOf, belongsTo, nameIn, replacedObjects } from '../contract/names.js';
import type { Unsought } from '../findings/check.js';
import type { Reach } from '../findings/reach.js';
import type { PastValue } from '../history/history.js';
import { needlesFor, type Sought, type WholeNeedle } from '../needles/index.js';
import { AnchoredNeedles, NeedleSet } from '../needles/needle-set.js';
import { leastOf } from '../needles/part-table.js';
import { fragmentsOf, looksSecret, partsOf } from '../needles/parts.js';
import { isCommonSetting, isOrdinaryWord, SHORTEST_NEEDLE, weakness } from '../needles/weak.js';
import { type NamedValue, type Resolution, reachOf } from '../resolve/resolve.js';
import { ships } from '../resolve/value-rules.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { isLocalAddress } from '../text/local-address.js';
import { isSecretByText, strengthOf } from '../tokens/strength.js';
import type { Recorded } from '../words/recorded.js';
import type { ValuePart } from '../words/value-part.js';
import { pastToSeek, type RecordedValues } from './recorded.js';

/**
 * Why a value is searched for: a `secret` must not be there, a build or server `setting` is mentioned, a `present` public value
 * should be there, a `foreign` one belongs to another stage, a `past` one was replaced.
 */
export type Role = 'secret' | 'setting' | 'present' | 'foreign' | 'past';

/** Number of characters that were found, and of all characters. */
export interface Amount {
  found: number;
  all: number;
}

/** Whose value a needle is. */
export interface Owner {
  role: Role;
  variable: string;
  reach: Reach;
  /** Absent for a value in a file that is no layer. */
  stage?: string;
  /** The file of such a value. */
  file?: string;
  /** For a value that only the history has: when it was recorded and replaced. */
  recorded?: Recorded;
  /** Tells whether a public value of the stage contains it, so that it is expected inside that value. */
  isInPublic?: true;
  /** For a part of a value: which part, how much if it is no more than characters, and the owner of the whole value. */
  part?: { part: ValuePart; amount?: Amount; of: Owner };
}

/** A read of a public variable as code has it, which a build should have replaced. */
export interface UnreplacedRead {
  bundle: string;
  variable: string;
  /** The name in code. */
  name: string;
  object: 'import.meta.env' | 'process.env' | 'placeholder';
  /** The read as code writes it, such as `import.meta.env.VITE_FERRY_API_URL`. */
  text: string;
}

export interface SearchPlan {
  needles: NeedleSet<Owner>;
  /** Values that the history has, and what each is; absent if it has none. */
  recorded?: RecordedValues;
  /** Values that would be found in any bundle, and so are not searched for. */
  notSearched: Unsought[];
  /** Pieces of secrets that are not findings: a script with one is parsed for joined values. */
  fragments: Uint8Array[];
  /** Reads of public variables that may have been left in. */
  reads: UnreplacedRead[];
  /** The bundles whose code runs in browsers, which have no process. */
  browserBundles: readonly string[];
  /** True if to look for secrets that no contract declares. */
  unknownSecrets: boolean;
  /** Names that the contract's variables have in files and code. */
  names: string[];
  /** Names of build and server variables. */
  serverNames: string[];
  /** True if the stage's builds ship, so that they should have no development code. */
  ships: boolean;
  /** True if the stage's own public values have addresses that only one machine or network has, so that it needs such. */
  hasLocalAddresses: boolean;
  /** Directories of this machine that should not be in what ships. */
  directories: readonly string[];
  /** Names of this machine that should not be in what ships either. */
  hostNames: readonly string[];
  /** The secrets among the needles, which must not be shown when a piece of an artifact is; made when the first piece is shown. */
  anchoredSecrets(): AnchoredNeedles<Owner>;
  /** All forms of what must not be shown. */
  masked(): WholeNeedle<Owner>[];
}

interface Candidate {
  owner: Owner;
  value: Secret;
  /** One of the ways to read a line that cannot be parsed. */
  isRejected?: true;
}

/** Where secrets come from besides the layers of the inspected bundle. */
export interface MoreSecrets {
  /** Values of env files that are not a layer. */
  loose?: readonly NamedValue[];
  /** Stages as bundles with other layers see them. */
  others?: readonly Resolution[];
  /** See {@link SearchPlan.directories}. */
  directories?: readonly string[];
  /** See {@link SearchPlan.hostNames}. */
  hostNames?: readonly string[];
  /** Values that variables had. */
  past?: readonly PastValue[];
}

/** Shorter values cannot be kept secret by a mask, and would make every line unreadable. */
const SHORTEST_MASKED = 4;

/** A search for some values alone, which may be there. */
export function planForValues(sought: Iterable<Sought<Owner>>): SearchPlan {
  return {
    needles: new NeedleSet(sought),
    fragments: [],
    notSearched: [],
    reads: [],
    browserBundles: [],
    unknownSecrets: false,
    names: [],
    serverNames: [],
    ships: false,
    hasLocalAddresses: false,
    directories: [],
    hostNames: [],
    anchoredSecrets: () => new AnchoredNeedles([]),
    masked: () => [],
  };
}

/**
 * Plans the search in the artifacts of one stage: the build and server values of every stage, because a leaked value need
 * not be one of this stage; those of env files that are not a layer, and those of other bundles' layers; and all stages' public values.
 */
export function planSearch(
  contract: Contract,
  stage: string,
  resolutions: readonly Resolution[],
  more: MoreSecrets = {},
): SearchPlan {
  const ordered = [...resolutions].sort((a, b) => Number(b.stage.name === stage) - Number(a.stage.name === stage));
  const allPublic = ordered.flatMap((resolution) => publicCandidates(resolution, stage));
  const publicValues = allPublic.filter(({ value }) => !weakness(reveal(value)));
  const present = publicValues.filter(({ owner }) => owner.role === 'present');
  const presentTexts = new Set(present.map(({ value }) => reveal(value)));
  const foreign = publicValues.filter(
    ({ owner, value }) => owner.role === 'foreign' && !presentTexts.has(reveal(value)),
  );
  const secrets = secretsToSeek(contract, ordered, more);
  const soughtSecrets = [...secrets.whole, ...secrets.pieces];
  const past = pastToSeek(contract, more.past ?? [], presentTexts, stage);
  const needles = new NeedleSet([
    ...soughtSecrets,
    ...past.texts,
    ...secrets.settings,
    ...present.map(sought),
    ...unique(foreign).map(sought),
    ...delimitedForeign(contract, allPublic).flatMap(delimited),
  ]);
  const texts = new Set(secrets.whole.flatMap(({ value }) => fragmentsOf(value)));
  const fragments = [...texts].map((text) => Buffer.from(text));
  return {
    needles,
    ...(past.recorded && { recorded: past.recorded }),
    fragments,
    notSearched: secrets.notSearched,
    reads: readsToSeek(contract),
    browserBundles: [...contract.bundles.values()].flatMap(({ name, runs }) => (runs === 'browser' ? [name] : [])),
    unknownSecrets: true,
    names: allNames(contract),
    serverNames: [...contract.variables.values()].flatMap(({ name, reach }) => (reach === 'public' ? [] : [name])),
    ships: ships(stage) && contract.stages.get(stage)?.buildAs !== 'development',
    hasLocalAddresses: present.some(({ value }) => isLocalAddress(reveal(value))),
    directories: more.directories ?? [],
    hostNames: more.hostNames ?? [],
    anchoredSecrets: () => new AnchoredNeedles(soughtSecrets),
    masked: () => [...needlesFor(soughtSecrets), ...secrets.unsought, ...secrets.weak],
  };
}

function allNames(contract: Contract): string[] {
  return [...new Set([...contract.variables.values()].flatMap((one) => allNamesOf(contract, one)))];
}

/** The reads of public values that each bundle for browsers may have, in the ways that its tool replaces. */
function readsToSeek({ bundles, variables }: Contract): UnreplacedRead[] {
  return [...bundles.values()].flatMap((bundle) => {
    if (bundle.runs !== 'browser') return [];
    const objects = replacedObjects(bundle).filter((one) => one === 'import.meta.env' || one === 'process.env');
    return [...variables.values()].flatMap((variable): UnreplacedRead[] => {
      if (variable.reach !== 'public' || variable.delivery === 'runtime' || !belongsTo(bundle, variable)) return [];
      const name = nameIn(bundle, variable);
      const about = { bundle: bundle.name, variable: variable.name, name };
      const inCode = objects.map((object) => ({ ...about, object, text: `${object}.${name}` }));
      return [...inCode, { ...about, object: 'placeholder', text: `%${name}%` }];
    });
  });
}

/** The build and server values to search for, and the values that must not be shown. */
export interface SecretsToSeek {
  /** Whole secrets, in hidden encodings too. */
  whole: Sought<Owner>[];
  /** Pieces of them that often travel alone. */
  pieces: Sought<Owner>[];
  /** Whole values that grant no access, such as a host name. */
  settings: Sought<Owner>[];
  notSearched: Unsought[];
  /** Needles of values that are not searched for, but differ from ordinary text. */
  unsought: WholeNeedle<Owner>[];
  /** Needles of those that could not. */
  weak: WholeNeedle<Owner>[];
}

/**
 * The build and server values that can be distinguished from ordinary text, each once, and why the others cannot; with
 * those parts of the secrets that often leak alone, unless the contract excludes them. `search: always` makes any value a
 * secret.
 */
export function secretsToSeek(
  contract: Contract,
  resolutions: readonly Resolution[],
  more: MoreSecrets = {},
): SecretsToSeek {
  const publicTexts = new Map(
    resolutions.flatMap((one) => publicCandidates(one, '')).map(({ owner, value }) => [reveal(value), owner.variable]),
  );
  const publicText = [...publicTexts.keys()].join('\0');
  const result: Pick<SecretsToSeek, 'whole' | 'pieces' | 'settings' | 'notSearched'> = {
    whole: [],
    pieces: [],
    settings: [],
    notSearched: [],
  };
  const skipped: Candidate[] = [];
  const all = secretsOf(contract, resolutions, more);
  // One reading of a line that cannot be parsed is enough.
  const isSearchable = ({ owner, value }: Candidate) =>
    whyNot(contract.variables.get(owner.variable)?.search ?? 'auto', reveal(value), undefined) === undefined;
  const readable = new Set(
    all.filter((one) => one.isRejected && isSearchable(one)).map(({ owner }) => `${owner.stage} ${owner.variable}`),
  );
  for (const candidate of all) {
    const text = reveal(candidate.value);
    const twin = publicTexts.get(text);
    const rule = contract.variables.get(candidate.owner.variable)?.search ?? 'auto';
    const isSetting = rule !== 'always' && strengthOf(candidate.owner.variable, text) === 'setting';
    const because = whyNot(rule, text, twin) ?? (isSetting && isCommonSetting(text) ? 'in many packages' : undefined);
    const { variable, stage } = candidate.owner;
    if (because && rule === 'always' && standsAlone(text)) result.pieces.push(...delimited(candidate));
    else if (because) {
      if (!isSetting) skipped.push(candidate);
      const isRead = candidate.isRejected && readable.has(`${stage} ${variable}`);
      if (stage !== undefined && !isRead) result.notSearched.push({ variable, stage, because });
    } else if (isSetting)
      result.settings.push(sought({ ...candidate, owner: { ...candidate.owner, role: 'setting' } }));
    else {
      // A random secret must not be in a public value either.
      const isInPublic = publicText.includes(text) && !isSecretByText(text);
      const owner: Owner = { ...candidate.owner, ...(isInPublic && { isInPublic }) };
      result.whole.push({
        ...sought({ ...candidate, owner }),
        isThorough: true,
        ...partsRule(contract, candidate, publicText),
      });
      result.pieces.push(...piecesOf(contract, { ...candidate, owner }, publicText));
    }
  }
  return { ...result, unsought: unsoughtNeedles(skipped), weak: weakNeedles(skipped) };
}

/** A long part of a random value counts, unless public values contain it; URLs, documents and keys have pieces of their own. */
function partsRule(
  contract: Contract,
  { owner, value }: Candidate,
  publicText: string,
): Pick<Sought<Owner>, 'acceptsPart'> {
  const text = reveal(value);
  if (contract.variables.get(owner.variable)?.secretParts === false || /\s|:\/\//.test(text)) return {};
  const shortest = Math.max(leastOf('characters'), Math.floor(text.length / 2));
  return {
    acceptsPart: (part) => part.length >= shortest && looksSecret(part) && !publicText.includes(part),
  };
}

/** Whole values alone: in source code a piece of one is an ordinary text more often than not. */
export function wholeNeedles(contract: Contract, resolutions: readonly Resolution[]): WholeNeedle<Owner>[] {
  return needlesFor(secretsToSeek(contract, resolutions).whole).filter(({ unbroken }) => unbroken === undefined);
}

/** A piece that a public value holds too would be found wherever that is. */
function piecesOf(contract: Contract, { owner, value }: Candidate, publicText: string): Sought<Owner>[] {
  if (contract.variables.get(owner.variable)?.secretParts === false) return [];
  const pieces = partsOf(reveal(value)).filter(({ text }) => !publicText.includes(text));
  return pieces.map(({ part, text, asItStands }) => ({
    owner: { ...owner, part: { part, of: owner } },
    value: text,
    asItStands,
  }));
}

/** Delimited values of fewer bytes are in every bundle. */
const SHORTEST_DELIMITED = 4;

/** Tells whether a weak value may be searched for where it stands alone. Ordinary words stand alone everywhere. */
function standsAlone(text: string): boolean {
  return Buffer.byteLength(text) >= SHORTEST_DELIMITED && !isOrdinaryWord(text) && text === text.trim();
}

/** A weak value as a whole literal, attribute or element. */
function delimited({ owner, value }: Candidate): Sought<Owner>[] {
  const text = reveal(value);
  const around = [...['"', "'", '`'].map((quote) => [quote, quote]), ['>', '<']];
  return around.map(([before, after]) => ({ owner, value: `${before}${text}${after}`, asItStands: true }));
}

/** Weak values of other stages that this one does not have, if the contract says that they differ. */
function delimitedForeign(contract: Contract, all: readonly Candidate[]): Candidate[] {
  const here = new Set(all.flatMap(({ owner, value }) => (owner.role === 'present' ? [reveal(value)] : [])));
  const matters = ({ owner, value }: Candidate) =>
    owner.role === 'foreign' && contract.variables.get(owner.variable)?.distinct === true && standsAlone(reveal(value));
  return unique(all.filter((one) => matters(one) && weakness(reveal(one.value)) && !here.has(reveal(one.value))));
}

function whyNot(rule: Variable['search'], text: string, twin: string | undefined): string | undefined {
  if (rule === 'never') return '`search: never` in the contract';
  if (rule === 'always' && Buffer.byteLength(text) >= SHORTEST_NEEDLE) return undefined;
  return twin ? `equal to the public ${twin}` : weakness(text);
}

/** Values that are masked but not searched for, such as with `search: never`. */
function unsoughtNeedles(candidates: readonly Candidate[]): WholeNeedle<Owner>[] {
  return needlesFor(candidates.filter(({ value }) => !weakness(reveal(value))).map(sought));
}

/** Short and ordinary values, as far as a mask makes sense. */
function weakNeedles(candidates: readonly Candidate[]): WholeNeedle<Owner>[] {
  const weak = candidates.filter(({ value }) => weakness(reveal(value)));
  const masked = weak.filter(({ value }) => Buffer.byteLength(reveal(value)) >= SHORTEST_MASKED);
  return masked.map(({ owner, value }) => ({
    bytes: Buffer.from(reveal(value)),
    encoding: ['plain'],
    owners: [owner],
  }));
}

function secretsOf(
  contract: Contract,
  resolutions: readonly Resolution[],
  { loose = [], others = [] }: MoreSecrets,
): Candidate[] {
  const ofStages = [...resolutions, ...others].flatMap((resolution) => secretCandidates(contract, resolution));
  return unique([...ofStages, ...loose.flatMap((one) => looseCandidate(contract, one))]);
}

function sought({ owner, value }: Candidate): Sought<Owner> {
  return { owner, value: reveal(value) };
}

function publicCandidates({ stage, values }: Resolution, inspected: string): Candidate[] {
  const role = stage.name === inspected ? 'present' : 'foreign';
  return [...values.values()].flatMap(({ variable, value }) =>
    value && variable.reach === 'public' && reveal(value) !== ''
      ? [{ owner: { role, variable: variable.name, reach: 'public', stage: stage.name } as const, value }]
      : [],
  );
}

/** Every value of a stage that no artifact may hold. */
function secretCandidates(
  contract: Contract,
  { stage, values, undeclared, overridden, rejected }: Resolution,
): Candidate[] {
  const resolved = [...values.values()].flatMap(({ variable, value }) =>
    value && variable.reach !== 'public' ? [{ name: variable.name, value }] : [],
  );
  const candidate = ({ name, value }: Pick<NamedValue, 'name' | 'value'>): Candidate => ({
    owner: { role: 'secret', variable: name, reach: reachOf(contract, name), stage: stage.name } as const,
    value,
  });
  const all = [...resolved, ...overridden, ...undeclared].filter(({ value }) => reveal(value).trim() !== '');
  return [...all.map(candidate), ...rejected.map((one) => ({ ...candidate(one), isRejected: true as const }))];
}

/** A name that reads as a public variable of some bundle is that variable. */
function looseCandidate(contract: Contract, { name, value, from }: NamedValue): Candidate[] {
  const variable = [...contract.variables.values()].find((one) => allNamesOf(contract, one).includes(name));
  const reach = variable?.reach ?? 'server';
  if (reach === 'public' || reveal(value) === '') return [];
  const file = { ...(from.path && { file: from.path }) };
  return [{ owner: { role: 'secret', variable: variable?.name ?? name, reach, ...file }, value }];
}

/** The same value of a variable in several stages is searched for once, as the first stage's. */
function unique(candidates: readonly Candidate[]): Candidate[] {
  const seen = new Map(
    candidates.toReversed().map((candidate) => [`${candidate.owner.variable}\0${reveal(candidate.value)}`, candidate]),
  );
  return [...seen.values()].toReversed();
}
