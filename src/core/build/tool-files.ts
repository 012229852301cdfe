import type { Bundle, Contract, Stage } from '../contract/contract.js';
import { prefixOf } from '../contract/names.js';
import { type FindingContext, finding, type RawFinding } from '../findings/finding.js';
import { Names } from '../lint/names.js';
import type { GivenValue } from '../receipt/serves-both.js';
import { literalText, type Offer, type ReadLayer } from '../resolve/layer.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { toolchainOf } from '../toolchains/index.js';
import { keepFromLoading } from '../toolchains/toolchain.js';

/** Names of the env files that a bundle's tool loads itself in a build; the last one wins. */
export function toolFiles(bundle: Bundle, mode: string): string[] {
  return (toolchainOf(bundle).envFiles?.names ?? []).map((name) => name.replace('{mode}', mode));
}

/** A build as far as its tool's own files are concerned. */
export interface ToolFilesOf {
  contract: Contract;
  bundle: Bundle;
  stage: Stage;
  given: ReadonlyMap<string, GivenValue>;
  /** Files that exist. */
  files: readonly ReadLayer[];
}

/**
 * Reports values that a tool's own env files would add to a build, and which value wins. All of
 * these tools let the environment win over their files, so a name that Adder gives is safe; every other is not.
 */
export function toolFileFindings(build: ToolFilesOf): RawFinding[] {
  const names = new Names(build.contract, build.bundle);
  return [
    ...build.files.flatMap((file) => file.offers.flatMap((offer) => offerFindings(build, names, file, offer))),
    ...seenByBuild(build, names),
  ];
}

function offerFindings(
  { contract, bundle, stage, given }: ToolFilesOf,
  names: Names,
  { path = '' }: ReadLayer,
  offer: Offer,
): RawFinding[] {
  const { name, source } = offer;
  if (prefixOf(bundle, name) === undefined) return [];
  const meaning = names.meaning(name);
  const about = { tool: bundle.toolchain, path, name };
  const inlined = { ...about, away: keepFromLoading(toolchainOf(bundle), path) };
  const at: FindingContext = { bundle: bundle.name, place: placeOf(path, source) };
  if (meaning.kind === 'withheld') {
    const { reach } = meaning.variable;
    return [finding('file/read-by-tool', 'withheld', { ...inlined, reach }, { ...at, level: 'error' })];
  }
  if (meaning.kind !== 'public') return [finding('file/read-by-tool', 'undeclared', inlined, at)];
  const of = meaning.variable.name;
  const mine = given.get(of)?.value;
  if (!mine) return [{ ...finding('file/read-by-tool', 'unset', { ...inlined, of, stage: stage.name }), ...at }];
  const isLayer = stage.layers.some((layer) => layer.kind === 'file' && layer.name === path);
  if (isLayer || !differs(offer, mine)) return [];
  return [finding('file/read-by-tool', 'different', { ...about, stage: stage.name, contract: contract.path }, at)];
}

/** Tools that put everything in their files into the build's environment give it what `with` withholds: one finding. */
function seenByBuild({ bundle, files }: ToolFilesOf, names: Names): RawFinding[] {
  if (!toolchainOf(bundle).envFiles?.fillsEnvironment) return [];
  const isServer = ({ name }: Offer) => {
    const meaning = names.meaning(name);
    return prefixOf(bundle, name) === undefined && meaning.kind === 'withheld' && meaning.variable.reach === 'server';
  };
  const found = files.flatMap(({ path = '', offers }) => offers.filter(isServer).map((offer) => ({ path, offer })));
  const [first] = found;
  if (!first) return [];
  const paths = [...new Set(found.map(({ path }) => path))];
  const which = [...new Set(found.map(({ offer }) => offer.name))];
  const about = { tool: bundle.toolchain, paths, names: which };
  const at = { bundle: bundle.name, place: placeOf(first.path, first.offer.source) };
  return [finding('file/read-by-tool', 'environment', about, at)];
}

function placeOf(path: string, { line, column }: Offer['source']) {
  return { path, inside: [], ...(line && { line }), ...(column && { column }) };
}

/** A value with references in it cannot be compared without the tool's own way of expanding them. */
function differs(offer: Offer, mine: Secret): boolean {
  const text = literalText(offer);
  return text !== undefined && reveal(text) !== reveal(mine);
}
