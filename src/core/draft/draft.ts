import { finding, type RawFinding } from '../findings/finding.js';
import type { Reach } from '../findings/reach.js';
import { describeSource } from '../resolve/layer.js';
import { toolchainOf } from '../toolchains/index.js';
import { isForeignName, isPipelineName, isToolName } from '../toolchains/known-names.js';
import { codePlaceText } from '../trial/conclude.js';
import { type DraftBundle, draftBundles } from './bundles.js';
import { type Evidence, placeOf, type StageValue, type Use } from './evidence.js';
import { type Fields, guessed } from './guesses/index.js';
import type { Material, ValueFile } from './material.js';
import { namedElsewhere } from './named-elsewhere.js';
import { divideLayers } from './own-layers.js';
import { type SeenBuild, seenOf, withSeen } from './seen.js';
import { Sides } from './sides.js';
import { type DraftStage, draftStages } from './stages.js';
import { folderConflicts, hardCoded, lacking, misspelt, notRead, otherFiles } from './undecided.js';
import { usesByName } from './uses.js';
import { valuesByName } from './values.js';

/** A variable of the draft. */
export interface DraftVariable extends Fields {
  name: string;
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

/**
 * A first contract from what a project has, with a reason for each guess.
 * @param builds trial builds of an earlier draft, whose evidence is stronger than a guess
 */
export function draft(material: Material, builds: readonly SeenBuild[] = []): Draft {
  const { bundles: guessedBundles, undecided: ofBundles } = draftBundles(material);
  const found = withSeen(guessedBundles, builds);
  const { stages: all, undecided: ofStages } = draftStages(material, found);
  const { stages, bundles } = divideLayers(all, found, material.files);
  const values = valuesByName(material, stages, bundles);
  const sides = new Sides(material, bundles);
  const uses = usesByName(material, sides, values);
  const overrides = bundles.flatMap((bundle) => bundle.overrides);
  const broken = brokenLines(material);
  const names = [...new Set([...values.keys(), ...uses.keys(), ...overrides])].filter((name) =>
    isOfProject(name, values, uses),
  );
  const elsewhere = namedElsewhere(
    names.filter((name) => !uses.has(name)),
    material,
  );
  const wholes = valuesMadeOf(material);
  const evidence = names.map((name) =>
    evidenceOf(
      name,
      {
        ...(elsewhere.has(name) && { namedAt: elsewhere.get(name) as string }),
        stages,
        bundles,
        values: values.get(name) ?? [],
        uses: uses.get(name) ?? [],
        broken: broken.get(name) ?? [],
        partOf: wholes.get(name) ?? [],
      },
      material,
      builds,
    ),
  );
  const settled = evidence.map((one) => ({ name: one.name, uses: one.uses, ...guessed(one) }));
  const variables = settled.map(({ name, fields, reasons }) => ({ name, ...fields, reasons }));
  return {
    ...(material.exists(SCHEMA) && { schema: SCHEMA }),
    stages,
    bundles,
    variables: variables.sort((a, b) => order(a.reach) - order(b.reach)),
    passes: [...passesOf(uses, values), ...askedFor(builds, names, uses)],
    undecided: [
      ...ofStages,
      ...ofBundles,
      ...(bundles.length === 0 && ofBundles.length === 0 ? [finding('contract/undecided', 'no-bundles', {})] : []),
      ...folderConflicts(material, bundles),
      ...misspelt(names, values, uses),
      ...lacking(stages, settled),
      ...otherFiles(builds, stages),
      ...hardCoded(material, sides),
      ...material.leftOut.map(notRead),
      ...settled.flatMap(({ undecided }) => undecided),
    ],
    unread: evidence.filter((one) => !isRead(one)).map(({ name }) => name),
  };
}

function evidenceOf(
  name: string,
  known: Pick<Evidence, 'stages' | 'bundles' | 'values' | 'uses' | 'broken' | 'partOf' | 'namedAt'>,
  { files }: Material,
  builds: readonly SeenBuild[],
): Evidence {
  const isConstant = ({ kind, path, layer }: ValueFile) =>
    isAppCode(kind, path) && layer.offers.some((offer) => offer.name === name);
  const seen = seenOf([name, ...known.bundles.flatMap(({ prefixes }) => prefixes.map((one) => one + name))], builds);
  return {
    name,
    ...known,
    ...(seen && { seen }),
    present: known.values.filter(({ text }) => text !== ''),
    constants: files.filter(isConstant).map(({ path }) => path),
    examples: files.filter(({ kind }) => kind === 'example'),
  };
}

/**
 * Names that a line of an env file sets without a value: it cannot be parsed, or refers to what is not set. A name
 * on such a line may be a piece of a value, so the draft has only those that something else names too.
 */
function brokenLines({ files }: Material): Map<string, string[]> {
  const found = new Map<string, string[]>();
  const add = (name: string, text: string) => found.set(name, [...(found.get(name) ?? []), text]);
  const known = new Set(files.flatMap(({ layer }) => layer.offers.map(({ name }) => name)));
  for (const { kind, layer } of files) {
    if (kind !== 'env') continue;
    for (const { name, source } of layer.rejected ?? []) add(name, `${describeSource(source)} cannot be parsed`);
    for (const { name, source, value } of layer.offers) {
      const parts = value.kind === 'template' ? value.template : [];
      // A dollar sign of a password, which nobody escaped.
      if (parts.some((part) => part.kind === 'reference' && part.operator === undefined && !known.has(part.name)))
        add(name, `${describeSource(source)} refers to a name that no file sets`);
    }
  }
  return found;
}

/** The names whose values refer to a name, by that name. */
function valuesMadeOf({ files }: Material): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const { layer } of files)
    for (const { name, value } of layer.offers) {
      const parts = value.kind === 'template' ? value.template : [];
      for (const part of parts)
        if (part.kind === 'reference' && part.name !== name)
          found.set(part.name, [...new Set([...(found.get(part.name) ?? []), name])]);
    }
  return found;
}

/** Code may read a name by a key that a configuration makes of it. */
function isRead({ name, uses, constants, bundles, seen, namedAt, partOf }: Evidence): boolean {
  if (
    uses.length > 0 ||
    partOf.length > 0 ||
    constants.length > 0 ||
    seen?.arrived !== undefined ||
    namedAt !== undefined
  )
    return true;
  return bundles.some(
    ({ overrides, inlined, passes }) =>
      overrides.includes(name) || inlined.includes(name) || passes.some(({ carries }) => carries.has(name)),
  );
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

/** Names that a trial build asked the environment for, and that nothing sets. */
function askedFor(
  builds: readonly SeenBuild[],
  names: readonly string[],
  uses: ReadonlyMap<string, unknown>,
): Draft['passes'] {
  const asked = builds.flatMap(({ evidence }) => evidence.asked);
  return asked.flatMap(({ name, at: [place] }) =>
    place && !names.includes(name) && !uses.has(name) && !isForeignName(name)
      ? [{ name, because: `a trial build asked for it at ${codePlaceText(place)}; nothing sets it here` }]
      : [],
  );
}

function order(reach: Reach): number {
  return ['public', 'build', 'server'].indexOf(reach);
}

/** Values of modules and of mobile define files go into the app as they are. */
function isAppCode(kind: string, path: string): boolean {
  return kind === 'module' || (kind === 'structured' && /define/i.test(path));
}
