import type { Bundle, Contract, Stage } from '../contract/contract.js';
import { prefixOf } from '../contract/names.js';
import type { RawFinding } from '../findings/finding.js';
import { Names } from '../lint/names.js';
import type { GivenValue } from '../receipt/staleness.js';
import { literalText, type Offer, type ReadLayer } from '../resolve/layer.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { joinWords, someWords } from '../text/nearest.js';
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
  /** Those that are there. */
  files: readonly ReadLayer[];
}

/**
 * What the env files that a tool loads itself would add to a build, and which value wins. All of
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
  const reads = `${bundle.toolchain} loads ${path} itself`;
  const readByTool = (message: string, remedy: string, level?: 'error'): RawFinding[] => [
    {
      code: 'file/read-by-tool',
      bundle: bundle.name,
      message,
      remedy,
      place: placeOf(path, source),
      ...(level && { level }),
    },
  ];
  const away = keepFromLoading(toolchainOf(bundle), path);
  if (meaning.kind === 'withheld') {
    const { reach } = meaning.variable;
    const message = `${reads} and would inline its ${name}, a ${reach}-only variable`;
    return readByTool(message, `${away}; rename it, because its prefix makes it public`, 'error');
  }
  if (meaning.kind !== 'public')
    return readByTool(`${reads} and would inline its ${name}, which is not in the contract for this bundle`, away);
  const mine = given.get(meaning.variable.name)?.value;
  if (!mine)
    return readByTool(
      `${reads} and would inline its ${name}, because ${meaning.variable.name} has no value in ${stage.name}`,
      away,
    );
  const isLayer = stage.layers.some((layer) => layer.kind === 'file' && layer.name === path);
  if (isLayer || !differs(offer, mine)) return [];
  const from = contract.path;
  return readByTool(
    `${reads}, with a different ${name} than ${stage.name}; the value from ${from} wins`,
    'remove the line, or list the file as a layer of the stage',
  );
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
  return [
    {
      code: 'file/read-by-tool',
      bundle: bundle.name,
      message: `${bundle.toolchain} loads ${joinWords(paths)} itself, so the build gets ${someWords(which, MOST_NAMES)}, which \`adder with\` withholds`,
      remedy: `move server values to a file outside the directory of ${bundle.toolchain}, and list it as a layer`,
      place: placeOf(first.path, first.offer.source),
    },
  ];
}

const MOST_NAMES = 3;

function placeOf(path: string, { line, column }: Offer['source']) {
  return { path, inside: [], ...(line && { line }), ...(column && { column }) };
}

/** A value with references in it cannot be compared without the tool's own way of expanding them. */
function differs(offer: Offer, mine: Secret): boolean {
  const text = literalText(offer);
  return text !== undefined && reveal(text) !== reveal(mine);
}
