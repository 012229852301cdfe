import type { Contract } from '../contract/contract.js';
import { prefixOf } from '../contract/names.js';
import { finding, type RawFinding } from '../findings/finding.js';
import type { Reach } from '../findings/reach.js';
import { isIn, type Range } from '../lint/server-parts.js';
import type { Read } from '../reads/read.js';
import { joinedName } from '../resolve/keyed.js';
import { type NamedValue, resolveStage } from '../resolve/resolve.js';
import { isPlaceholder, ships } from '../resolve/value-rules.js';
import { reveal } from '../secrets/secret.js';
import { joinWords, nearest } from '../text/nearest.js';
import { namesSecret, shapeOf } from '../tokens/shapes.js';
import { isReadOfMachine, toolchainOf } from '../toolchains/index.js';
import { isForeignName, isPipelineName, isToolName } from '../toolchains/known-names.js';
import { type DraftBundle, draftBundles } from './bundles.js';
import { guessForm } from './forms.js';
import { decidedAt, type LeftOut, layerOfText, layerText, type Material } from './material.js';
import { divideLayers, offerText } from './own-layers.js';
import { guessReach, isOfFreeModule, placeOf, type Side, type Use } from './reach.js';
import { Sides } from './sides.js';
import { type DraftStage, draftStages } from './stages.js';

/** A variable of the draft. */
export interface DraftVariable {
  name: string;
  reach: Reach;
  form?: string;
  about?: string;
  example?: string;
  required?: false | string[];
  bundles?: string[];
  /** Bundle to the name that its code uses, if it is another one. */
  names?: Record<string, string>;
  distinct?: true;
  https?: string[];
  /** Why each of it is so, as lines of a comment. */
  reasons: string[];
}

export interface Draft {
  /** The path of the contract's JSON Schema for editors, if the project has Adder installed. */
  schema?: string;
  stages: DraftStage[];
  bundles: DraftBundle[];
  variables: DraftVariable[];
  /** Names of the pipeline or host that the build's own configuration reads. */
  passes: { name: string; because: string }[];
  undecided: RawFinding[];
  /** Names that no code reads, as far as Adder looked. */
  unread: string[];
}

const SCHEMA = 'node_modules/adder/dist/schema/contract.json';

/** A first contract from what a project has, with a reason for each guess. */
export function draft(material: Material): Draft {
  const { bundles: found, undecided: ofBundles } = draftBundles(material);
  const { stages: all, undecided } = draftStages(material, found);
  const { stages, bundles } = divideLayers(all, found, material.files);
  const values = valuesByName(material, stages, bundles);
  const sides = new Sides(material, bundles);
  const uses = usesByName(material, sides, values);
  const passes = passesOf(uses, values);
  const overrides = bundles.flatMap((bundle) => bundle.overrides);
  const names = [...new Set([...values.keys(), ...uses.keys(), ...overrides])].filter((name) =>
    isOfProject(name, values, uses),
  );
  const settled = names.map((name) =>
    variableFrom(name, { material, stages, bundles, values: values.get(name) ?? [], uses: uses.get(name) ?? [] }),
  );
  const variables = settled.map(({ variable }) => variable).sort((a, b) => order(a.reach) - order(b.reach));
  return {
    ...(material.exists(SCHEMA) && { schema: SCHEMA }),
    stages,
    bundles,
    variables,
    passes,
    undecided: [
      ...undecided,
      ...ofBundles,
      ...folderConflicts(material, bundles),
      ...misspelt(names, values, uses),
      ...lacking(stages, settled),
      ...hardCoded(material, sides),
      ...material.leftOut.map(notRead),
      ...settled.flatMap((one) => one.undecided),
    ],
    unread: settled.filter(({ isRead }) => !isRead).map(({ variable }) => variable.name),
  };
}

/** URLs of one machine in browser code, one for each: what every stage would get. */
function hardCoded({ localUrls }: Material, sides: Sides): RawFinding[] {
  const inBrowser = localUrls.filter(({ path }) => sides.of(path).side === 'browser');
  const first = [...new Map(inBrowser.toReversed().map((one) => [one.url, one])).values()].toReversed();
  return first.map(({ url, ...place }) => finding('contract/undecided', 'hard-coded-url', { url }, decidedAt(place)));
}

/** Names that tools, machines and hosts set are not the project's, unless one of its files sets them. */
function isOfProject(
  name: string,
  values: ReadonlyMap<string, readonly StageValue[]>,
  uses: ReadonlyMap<string, readonly Use[]>,
): boolean {
  if (isPipelineName(name)) return values.has(name);
  if (isForeignName(name)) return false;
  const all = uses.get(name) ?? [];
  const isSetByTool = ({ bundle }: Use) => bundle !== undefined && isToolName(name, toolchainOf(bundle));
  return values.has(name) || all.length === 0 || !all.every(isSetByTool);
}

function passesOf(
  uses: ReadonlyMap<string, readonly Use[]>,
  values: ReadonlyMap<string, readonly StageValue[]>,
): Draft['passes'] {
  return [...uses].flatMap(([name, all]) => {
    const use = all.find(({ side }) => side === 'build');
    if (!use || name === 'CI' || !isPipelineName(name) || values.has(name)) return [];
    return [{ name, because: `is read by the build at ${placeOf(use)}; the pipeline or host sets it` }];
  });
}

function notRead({ path, because }: LeftOut): RawFinding {
  return finding('contract/undecided', 'not-read', { path, because }, decidedAt({ path }));
}

/** Names that code reads and no file sets, next to a similar name that is set and never read. */
function misspelt(
  names: readonly string[],
  values: ReadonlyMap<string, readonly StageValue[]>,
  uses: ReadonlyMap<string, readonly Use[]>,
): RawFinding[] {
  const unread = names.filter((name) => values.has(name) && !uses.has(name));
  return names.flatMap((name): RawFinding[] => {
    const [near] = values.has(name) ? [] : nearest(name, unread);
    if (near === undefined) return [];
    return [finding('contract/undecided', 'misspelt', { variable: name, near }, decidedAt(uses.get(name)?.[0]))];
  });
}

function order(reach: Reach): number {
  return ['public', 'build', 'server'].indexOf(reach);
}

interface StageValue {
  stage: string;
  /** The package whose layers have it; empty for what all bundles share. */
  owner: string;
  text: string;
  from: NamedValue['from'];
}

const nothingDeclared: Omit<Contract, 'stages'> = {
  path: '',
  bundles: new Map(),
  variables: new Map(),
  passes: [],
  levels: {},
  accept: [],
  hosts: new Map(),
};

/** What each name is in each stage: the layers are resolved as they will be under the contract. */
function valuesByName(
  { files }: Material,
  stages: readonly DraftStage[],
  bundles: readonly DraftBundle[],
): Map<string, StageValue[]> {
  const byName = new Map<string, StageValue[]>();
  const divided = bundles.filter(({ layers }) => Object.keys(layers).length > 0);
  const ofPackages = [...new Map(divided.map(({ folder, layers }) => [folder, layers]))];
  for (const { name, layers } of stages) {
    const scopes = [
      ['', [] as readonly string[]] as const,
      ...ofPackages.map(([owner, own]) => [owner, own[name] ?? []] as const),
    ];
    for (const [owner, own] of scopes) {
      const read = [...layers, ...own].flatMap((text) => files.find((file) => layerText(file) === text)?.layer ?? []);
      const { undeclared } = resolveStage({ ...nothingDeclared, stages: new Map() }, { name, layers: [] }, read);
      const isOwn = ({ from: { path = '' } }: NamedValue) =>
        owner === '' || own.some((text) => layerOfText(text).path === path);
      for (const { name: variable, value, from } of undeclared.filter(isOwn)) {
        const known = byName.get(variable) ?? [];
        byName.set(variable, [...known, { stage: name, owner, text: reveal(value), from }]);
      }
    }
  }
  for (const { kind, layer } of files) {
    if (kind === 'example') for (const { name } of layer.offers) if (!byName.has(name)) byName.set(name, []);
  }
  return byName;
}

/** Reads by the name that the contract has: without the bundle's prefix where files have the name so. */
function usesByName({ sources }: Material, sides: Sides, values: ReadonlyMap<string, unknown>): Map<string, Use[]> {
  const byName = new Map<string, Use[]>();
  for (const { path, reads, onServer } of sources) {
    const place = sides.of(path);
    for (const read of reads) {
      if (read.name === undefined || read.kind === 'assigned' || !/^[A-Za-z_]\w*$/.test(read.name)) continue;
      const where = { ...place, side: sideOfRead(read, place, onServer) };
      if (where.bundle && isReadOfMachine(where.bundle, path, read.object)) continue;
      const name = declaredAs(read.name, where.bundle?.prefixes ?? [], values);
      byName.set(name, [...(byName.get(name) ?? []), { path, line: read.line, column: read.column, ...where, read }]);
    }
  }
  return byName;
}

/** A part of a page may run on the server, and some modules are for it alone. */
function sideOfRead(
  { start, object }: Read,
  { side, bundle }: ReturnType<Sides['of']>,
  onServer: readonly Range[],
): Side {
  if (side !== 'browser' || !bundle) return side;
  const { rendersOnServer, reads } = toolchainOf(bundle);
  const isInPart = rendersOnServer === true && isIn(onServer, start);
  const ways = reads.filter(({ from }) => from === object);
  const isForServer = ways.length > 0 && ways.every((way) => way.side === 'server');
  return isInPart || isForServer ? 'server' : side;
}

/** The name in files of what code reads: the same, or without the bundle's prefix, or with it if the code forgot it. */
function declaredAs(name: string, prefixes: readonly string[], values: ReadonlyMap<string, unknown>): string {
  if (values.has(name)) return name;
  const own = prefixOf({ prefixes }, name);
  const others = own === undefined ? prefixes.map((prefix) => prefix + name) : [name.slice(own.length)];
  // Keys of a define file or module have the names of the code: `baseUrl` is BASE_URL as a variable.
  return [...others, joinedName([name])].find((one) => values.has(one)) ?? name;
}

interface About {
  material: Material;
  stages: readonly DraftStage[];
  bundles: readonly DraftBundle[];
  values: readonly StageValue[];
  uses: readonly Use[];
}

interface Found {
  variable: DraftVariable;
  undecided: RawFinding[];
  isRead: boolean;
  /** Shipped stages without a value that the code reads, and that another stage has. */
  lacking: string[];
}

function variableFrom(name: string, about: About): Found {
  const { material, stages, bundles, values, uses } = about;
  const present = values.filter(({ text }) => text !== '');
  const constants = material.files.filter(
    ({ kind, path, layer }) => isAppCode(kind, path) && layer.offers.some((offer) => offer.name === name),
  );
  const guess = guessReach({ name, values: present, uses, bundles, constants: constants.map(({ path }) => path) });
  const first = values[0]?.from;
  const place = first?.path !== undefined ? first : uses[0];
  const undecided: RawFinding[] = guess.doubt ? [{ ...guess.doubt, ...decidedAt(place) }] : [];
  const texts = present.map(({ text }) => text);
  const guessed = guessForm(name, texts);
  const isSecretText = namesSecret(name) && guessed?.form !== 'url' && guessed?.form !== 'pem';
  const reasons = [`${guess.reach}: ${guess.because}${usesText(guess.because, uses)}`];
  const variable: DraftVariable = { name, reach: guess.reach, reasons };
  if (guessed && !isSecretText) {
    variable.form = guessed.form;
    reasons.push(`${guessed.form}: ${guessed.because}`);
  }
  addSharing(variable, present, guess.isSecret === true, undecided);
  addRequired(variable, values, stages, uses);
  addBundles(
    variable,
    bundles,
    { uses, values: present },
    constants.map(({ path }) => path),
  );
  addNames(variable, uses, bundles);
  addExample(variable, material);
  return {
    variable,
    undecided,
    isRead: uses.length > 0 || constants.length > 0 || bundles.some(({ overrides }) => overrides.includes(name)),
    lacking: lackingIn(variable, stages, uses),
  };
}

/** Values of modules and of mobile define files go into the app as they are. */
function isAppCode(kind: string, path: string): boolean {
  return kind === 'module' || (kind === 'structured' && /define/i.test(path));
}

function usesText(because: string, uses: readonly Use[]): string {
  const places = [...new Set(uses.map(placeOf))].filter((place) => !because.includes(place));
  if (places.length === 0) return '';
  const shown = places.slice(0, 2);
  const more = places.length - shown.length;
  return `; read at ${joinWords([...shown, ...(more > 0 ? [`${more} more`] : [])])}`;
}

/** Whether stages share the value. Only secrets and URLs must differ: those ship by mistake. */
function addSharing(
  variable: DraftVariable,
  values: readonly StageValue[],
  isSecret: boolean,
  undecided: RawFinding[],
): void {
  const { reach, form, reasons } = variable;
  const shipped = values.filter(({ stage }) => ships(stage));
  if (
    form === 'url' &&
    shipped.length > 0 &&
    reach === 'public' &&
    shipped.every(({ text }) => /^(https|wss):/i.test(text))
  ) {
    variable.https = [...new Set(shipped.map(({ stage }) => stage))];
    reasons.push(`https: used in ${joinWords(variable.https)}`);
  }
  if (!(isSecret || (reach === 'public' && form === 'url'))) return;
  for (const owner of new Set(values.map((one) => one.owner)))
    addDistinct(
      variable,
      values.filter((one) => one.owner === owner),
      isSecret,
      undecided,
    );
}

function addDistinct(
  variable: DraftVariable,
  values: readonly StageValue[],
  isSecret: boolean,
  undecided: RawFinding[],
): void {
  const { name, reasons } = variable;
  if (values.length < 2 || variable.distinct) return;
  const alike = sameIn(values);
  if (alike.length === 0) {
    variable.distinct = true;
    reasons.push(`distinct: no two stages share a value`);
  } else if (!isSecret && alike.some(ships) && isCopied(values, alike)) {
    variable.distinct = true;
    reasons.push(`distinct: ${joinWords(alike)} have the same URL in files of their own`);
  } else if (isSecret && alike.some(ships)) {
    const sharing = values.filter(({ stage }) => alike.includes(stage));
    const [first] = sharing;
    // A line that several stages share is reported by adder values; here every guessed stage would repeat it.
    if (sharing.every(({ from }) => from.path === first?.from.path)) return;
    undecided.push(finding('contract/undecided', 'shared', { variable: name, stages: alike }, decidedAt(first?.from)));
  }
}

/** Whether stages have the same value in different files, as a copied file leaves it. */
function isCopied(values: readonly StageValue[], stages: readonly string[]): boolean {
  const paths = values.filter(({ stage }) => stages.includes(stage)).map(({ from }) => from.path);
  return new Set(paths).size === paths.length;
}

/** The stages of the first value that several stages have. */
function sameIn(values: readonly StageValue[]): string[] {
  for (const { text } of values) {
    const same = values.filter((other) => other.text === text).map(({ stage }) => stage);
    if (same.length > 1) return same;
  }
  return [];
}

/** Where there are several bundles and only some need a public value, the others do not get it. */
function addBundles(
  variable: DraftVariable,
  bundles: readonly DraftBundle[],
  { uses, values }: Pick<About, 'uses' | 'values'>,
  constants: readonly string[],
): void {
  if (isOfPackages(variable, bundles, { uses, values })) return;
  const clients = bundles.filter(({ runs }) => runs !== 'server');
  if (variable.reach !== 'public' || clients.length < 2) return;
  const needing = clients.filter(
    ({ name, prefixes, folder }) =>
      prefixOf({ prefixes }, variable.name) !== undefined ||
      uses.some(({ bundle }) => bundle?.name === name) ||
      constants.some((path) => path.startsWith(folder)),
  );
  if (needing.length === 0 || needing.length === clients.length) return;
  variable.bundles = needing.map(({ name }) => name);
  variable.reasons.push(`bundles: only ${joinWords(variable.bundles)} reads it`);
}

/** A name that only some packages' files set belongs to their bundles, and to those that read it. */
function isOfPackages(
  variable: DraftVariable,
  bundles: readonly DraftBundle[],
  { uses, values }: Pick<About, 'uses' | 'values'>,
): boolean {
  const owners = new Set(values.map(({ owner }) => owner));
  if (owners.size === 0 || owners.has('')) return false;
  const inPackages = bundles.filter(
    ({ name, folder, runs }) =>
      owners.has(folder) || (runs !== 'server' && uses.some(({ bundle }) => bundle?.name === name)),
  );
  const servers = inPackages.filter(({ runs }) => runs === 'server');
  const own = variable.reach === 'server' && servers.length > 0 ? servers : inPackages;
  if (own.length === bundles.length) return true;
  variable.bundles = own.map(({ name }) => name);
  variable.reasons.push(`bundles: only ${joinWords([...owners])} ${owners.size === 1 ? 'sets' : 'set'} it`);
  return true;
}

/** Stages with an env file of their own say what they need; one without values yet must have what the others have. */
function addRequired(
  variable: DraftVariable,
  values: readonly StageValue[],
  stages: readonly DraftStage[],
  uses: readonly Use[],
): void {
  const { reasons } = variable;
  const withValue = stagesOfAll(values.filter(({ text }) => text !== ''));
  const without = stages.filter(({ name }) => !withValue.includes(name));
  if (without.length === 0) return;
  const fallback = uses.find(({ read }) => read.fallback);
  if (withValue.length === 0) {
    variable.required = false;
    reasons.push(`no file has a value${fallback ? `; the code has a fallback at ${placeOf(fallback)}` : ''}`);
    return;
  }
  const names = without.map(({ name }) => name);
  const text = `${joinWords(names)} ${names.length === 1 ? 'has' : 'have'} no value`;
  const needed = stages.filter(({ name, hasValues }) => withValue.includes(name) || !hasValues).map(({ name }) => name);
  if (needed.length < stages.length) variable.required = needed;
  reasons.push(needed.length < stages.length ? `required: ${text}` : text);
}

/** The stages in which every package that sets a name has a value. */
function stagesOfAll(values: readonly StageValue[]): string[] {
  const owners = new Set(values.map(({ owner }) => owner));
  const isSet = (stage: string, owner: string) =>
    values.some((one) => one.stage === stage && (one.owner === owner || one.owner === ''));
  return [...new Set(values.map(({ stage }) => stage))].filter((stage) =>
    [...owners].every((owner) => owner === '' || isSet(stage, owner)),
  );
}

/** Code may use a key of its define file as it is, in camel case, or a name without the prefix: one that its configuration inlines, or of a module. */
function addNames(variable: DraftVariable, uses: readonly Use[], bundles: readonly DraftBundle[]): void {
  const listed = bundles
    .filter(({ inlined, prefixes }) => prefixes.length > 0 && inlined.includes(variable.name))
    .filter(({ prefixes }) => variable.reach === 'public' && prefixOf({ prefixes }, variable.name) === undefined)
    .map(({ name }) => [name, variable.name] as const);
  const keys = uses.flatMap(({ bundle, read }) =>
    bundle && read.name !== undefined && read.name !== variable.name && joinedName([read.name]) === variable.name
      ? [[bundle.name, read.name] as const]
      : [],
  );
  const free = uses.flatMap(({ bundle, read }) =>
    variable.reach === 'public' && bundle && read.name === variable.name && isPlainInModule(read, bundle)
      ? [[bundle.name, variable.name] as const]
      : [],
  );
  const own = [...listed, ...keys, ...free];
  if (own.length === 0) return;
  variable.names = Object.fromEntries(own);
  variable.reasons.push(
    `names: ${joinWords(Object.entries(variable.names).map(([bundle, name]) => `${bundle} uses ${name}`))}`,
  );
}

/** Whether a module has a name without the prefix that the bundle's other names have. */
function isPlainInModule(read: Read, bundle: DraftBundle): boolean {
  return isOfFreeModule(read, bundle) && prefixOf(bundle, read.name ?? '') === undefined;
}

function lackingIn({ required }: DraftVariable, stages: readonly DraftStage[], uses: readonly Use[]): string[] {
  if (!Array.isArray(required) || !uses.some(({ side, read }) => side !== 'test' && !read.fallback)) return [];
  return stages.map(({ name }) => name).filter((name) => ships(name) && !required.includes(name));
}

/** What would ship as `undefined`: the contract does not require it, because a file of the stage exists without it. */
function lacking(stages: readonly DraftStage[], found: readonly Found[]): RawFinding[] {
  return stages.flatMap(({ name }): RawFinding[] => {
    const names = found.filter((one) => one.lacking.includes(name)).map(({ variable }) => variable.name);
    if (names.length === 0) return [];
    return [finding('contract/undecided', 'lacking', { stage: name, names })];
  });
}

/** The example file's comment about a variable, unless it contains a secret. */
function addExample(variable: DraftVariable, { files }: Material): void {
  const { name, reach } = variable;
  for (const { kind, layer, about } of files) {
    if (kind !== 'example') continue;
    const comment = about.get(name);
    if (comment && variable.about === undefined) variable.about = comment;
    const offer = layer.offers.find((one) => one.name === name);
    if (reach !== 'public' || !offer || variable.example !== undefined) continue;
    const text = offer.value.kind === 'plain' ? reveal(offer.value.text) : plainText(offer.value.template);
    if (text && !shapeOf(text) && !isPlaceholder({}, text)) variable.example = text;
  }
}

function plainText(template: readonly { kind: string; text?: string }[]): string {
  return template.length === 1 && template[0]?.kind === 'text' ? (template[0].text ?? '') : '';
}

function shownFolder(folder: string): string {
  return folder === '' ? '.' : folder.replace(/\/$/, '');
}

/** One name in files of two directories, with two values: a contract has one value for a name. */
function folderConflicts({ files }: Material, bundles: readonly DraftBundle[]): RawFinding[] {
  const own = new Set(
    bundles.flatMap(({ layers }) =>
      Object.values(layers)
        .flat()
        .map((text) => layerOfText(text).path),
    ),
  );
  const seen = new Map<string, { folder: string; path: string; text: string }>();
  const reported = new Set<string>();
  return files.flatMap(({ kind, folder, path, stage, layer }) => {
    if (kind !== 'env' || own.has(path)) return [];
    return layer.offers.flatMap((offer): RawFinding[] => {
      const text = offerText(offer);
      const key = JSON.stringify([offer.name, stage]);
      const earlier = seen.get(key);
      seen.set(key, { folder, path, text });
      if (!earlier || earlier.folder === folder || earlier.text === text || reported.has(offer.name)) return [];
      reported.add(offer.name);
      return [
        finding(
          'contract/undecided',
          'conflict',
          {
            variable: offer.name,
            paths: [earlier.path, path],
            folders: [earlier.folder, folder].map(shownFolder),
          },
          decidedAt(offer.source),
        ),
      ];
    });
  });
}
