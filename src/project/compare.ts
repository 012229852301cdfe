import { givenValues } from '../core/build/environment.js';
import { EXIT, Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { builtValues, changesBetween, currentValues, type Fingerprints } from '../core/receipt/changes.js';
import { isOfKey, type Receipt } from '../core/receipt/receipt.js';
import { parseReceipt } from '../core/receipt/schema.js';
import { buildsReport, type ComparedBuild, comparedBuild } from '../core/report/builds.js';
import type { BuildsReport } from '../core/report/documents.js';
import { sha256 } from '../core/text/hash.js';
import { describeFileError } from '../host/files.js';
import { allReceipts, readKey, STATE_FOLDER, type StoredReceipt } from '../host/state.js';
import { Repository } from '../host/version-control.js';
import type { World } from '../host/world.js';
import { commandsFor } from './changes.js';
import { bundleOf, chooseBundle, type Project, projectFor, stageOf } from './open.js';
import { StageResolver } from './resolve.js';

/** Words for the receipts of a bundle, counted from the newest. */
const positions: Readonly<Record<string, number>> = { newest: 0, previous: 1 };

/** Tells whether an argument of `adder compare` names a receipt. A stage of that name wins. */
export function isReceiptName(project: Project, word: string): boolean {
  if (project.contract.stages.has(word)) return false;
  return Object.hasOwn(positions, word) || /[/\\]|\.json$/.test(word);
}

/**
 * Compares a receipt with another one, or with a stage as it is now.
 * @param words a receipt, then a receipt or a stage
 * @throws Failure if a receipt cannot be read, or if the two cannot be compared
 */
export function compareBuilds(
  project: Project,
  words: readonly [string, string],
  bundleName: string | undefined,
  world: World,
): BuildsReport {
  const [firstWord, secondWord] = words;
  if (!isReceiptName(project, firstWord))
    throw new Failure(
      `${firstWord} is a stage, and ${secondWord} a receipt`,
      `name the receipt first: adder compare ${secondWord} ${firstWord}`,
    );
  const first = findReceipt(project, firstWord, bundleName, world);
  const { bundle: name } = first.receipt.predicate;
  const isBuilt = isReceiptName(project, secondWord);
  const second = isBuilt
    ? sideOf(project, sameBundle(findReceipt(project, secondWord, bundleName ?? name, world), name))
    : stageSide(project, secondWord, name, world);
  assertComparable(project, isBuilt ? [first, second.stored as StoredReceipt] : [first]);
  const one = sideOf(project, first);
  const isOfStage = one.build.stage === second.build.stage;
  const bundle = bundleOf(project, name);
  const comparison = { contract: project.contract, bundle, isBuilt: isBuilt && isOfStage };
  const changes = changesBetween(one.values, second.values, comparison);
  const same = [...one.values.values.keys()].filter(
    (value) => second.values.values.has(value) && !changes.some(({ variable }) => variable === value),
  );
  const commands = commandsFor(second.build.stage, bundle, first.receipt);
  return buildsReport([one.build, second.build], { bundle: name, same: same.length, ...commands }, changes);
}

interface Side {
  build: ComparedBuild;
  values: Fingerprints;
  stored?: StoredReceipt;
}

function sideOf({ files, root }: Project, stored: StoredReceipt): Side {
  const path = files.shown(stored.path, root);
  return { build: comparedBuild(stored.receipt, path), values: builtValues(stored.receipt), stored };
}

function stageSide(whole: Project, stage: string, name: string, world: World): Side {
  const bundle = bundleOf(whole, name);
  const project = projectFor(whole, bundle);
  const { asked: resolution } = new StageResolver(project, world).for(stageOf(project, stage), 'with commands');
  const now = { bundle, resolution, given: givenValues(project.contract, bundle, resolution) };
  const revision = Repository.at(project.root)?.revision();
  const contract = sha256(project.files.read(project.contractPath));
  return {
    build: { stage, contract, ...(revision && { revision }) },
    values: currentValues(now, readKey(project) ?? new Uint8Array()),
  };
}

function findReceipt(project: Project, word: string, bundleName: string | undefined, world: World): StoredReceipt {
  const position = positions[word];
  if (position === undefined) return receiptAt(project, word, world);
  const bundle = chooseBundle(project, bundleName, world.cwd);
  const receipts = bundle ? allReceipts(project, bundle.name) : [];
  const found = receipts[position];
  if (found) return found;
  const number = receipts.length === 0 ? 'no readable receipt' : 'only one receipt';
  throw new Failure(
    `${bundle?.name ?? 'the contract'} has ${number}`,
    'build it with `adder with STAGE`, which writes a receipt',
  );
}

function receiptAt({ files }: Project, word: string, world: World): StoredReceipt {
  const path = files.path.resolve(world.cwd, word);
  const fail = (why: string) =>
    new Failure(
      `${word} ${why}`,
      `receipts are in ${STATE_FOLDER}/receipts; \`newest\` and \`previous\` also name one`,
    );
  let receipt: Receipt | undefined;
  try {
    receipt = parseReceipt(files.readRegular(path, limits.stateBytes.value).toString());
  } catch (error) {
    throw fail(describeFileError(error));
  }
  if (!receipt) throw fail('is not a receipt of this version of Adder');
  return { receipt, path };
}

function sameBundle(stored: StoredReceipt, name: string): StoredReceipt {
  const { bundle } = stored.receipt.predicate;
  if (bundle === name) return stored;
  throw new Failure(`the receipts are of different bundles, ${name} and ${bundle}`, 'compare two builds of one bundle');
}

/** Fingerprints of another machine are of another key: every value would seem to have changed. */
function assertComparable(project: Project, receipts: readonly StoredReceipt[]): void {
  const key = readKey(project);
  for (const { receipt, path } of receipts) {
    if (key && isOfKey(receipt, key)) continue;
    throw new Failure(
      `${project.files.shown(path, project.root)} was written with another key, so its values cannot be compared`,
      'compare receipts on the machine that wrote them',
      EXIT.unread,
    );
  }
}
