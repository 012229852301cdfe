import { finding, type RawFinding } from '../findings/finding.js';
import { joinedName } from '../resolve/keyed.js';
import { ships } from '../resolve/value-rules.js';
import { isSlip, nearest } from '../text/nearest.js';
import type { DraftBundle } from './bundles.js';
import type { StageValue, Use } from './evidence.js';
import type { Fields } from './guesses/index.js';
import { decidedAt, type LeftOut, layerOfText, type Material } from './material.js';
import { offerText } from './own-layers.js';
import type { SeenBuild } from './seen.js';
import type { Sides } from './sides.js';
import type { DraftStage } from './stages.js';

/** URLs of one machine in browser code, one for each: what every stage would get. */
export function hardCoded({ localUrls }: Material, sides: Sides): RawFinding[] {
  const inBrowser = localUrls.filter(({ path }) => sides.of(path).side === 'browser');
  const first = [...new Map(inBrowser.toReversed().map((one) => [one.url, one])).values()].toReversed();
  return first.map(({ url, ...place }) => finding('contract/undecided', 'hard-coded-url', { url }, decidedAt(place)));
}

/** Names that code reads and no file sets, next to a similar name that is set and never read, or differs by a slip. */
export function misspelt(
  names: readonly string[],
  values: ReadonlyMap<string, readonly StageValue[]>,
  uses: ReadonlyMap<string, readonly Use[]>,
): RawFinding[] {
  const set = names.filter((name) => values.has(name));
  const unread = set.filter((name) => !uses.has(name));
  return names.flatMap((name): RawFinding[] => {
    if (values.has(name)) return [];
    const [first] = uses.get(name) ?? [];
    const [unused] = nearest(name, unread);
    const near = unused ?? set.find((one) => isSlip(joinedName([name]), one));
    if (near === undefined) return [];
    const about = { variable: name, near: inCode(near, first?.bundle) };
    return [finding('contract/undecided', unused === undefined ? 'slip' : 'misspelt', about, decidedAt(first))];
  });
}

/** A name as the code of a bundle has it. */
function inCode(name: string, bundle: DraftBundle | undefined): string {
  return Object.entries(bundle?.renamed ?? {}).find(([, read]) => read === name)?.[0] ?? name;
}

/** One name in files of two directories, with two values: a contract has one value for a name. */
export function folderConflicts({ files }: Material, bundles: readonly DraftBundle[]): RawFinding[] {
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

function shownFolder(folder: string): string {
  return folder === '' ? '.' : folder.replace(/\/$/, '');
}

export function notRead({ path, because }: LeftOut): RawFinding {
  return finding('contract/undecided', 'not-read', { path, because }, decidedAt({ path }));
}

/** Variables that would ship as `undefined`: the contract does not require it, because a file of the stage exists without it. */
export function lacking(
  stages: readonly DraftStage[],
  variables: readonly { name: string; fields: Fields; uses: readonly Use[] }[],
): RawFinding[] {
  const needed = variables.filter(({ uses }) => uses.some(({ side, read }) => side !== 'test' && !read.fallback));
  return stages.flatMap(({ name: stage }): RawFinding[] => {
    const without = needed.filter(({ fields: { required } }) => Array.isArray(required) && !required.includes(stage));
    if (!ships(stage) || without.length === 0) return [];
    return [finding('contract/undecided', 'lacking', { stage, names: without.map(({ name }) => name) })];
  });
}

/** Variables that a trial build took from another file than the last layer of the draft that sets them. */
export function otherFiles(builds: readonly SeenBuild[], stages: readonly DraftStage[]): RawFinding[] {
  return builds.flatMap(({ stage, evidence: { arrivals, markers } }) => {
    const layers = stages.find(({ name }) => name === stage)?.layers ?? [];
    const orderOf = (path: string | undefined) => (path === undefined ? -1 : layers.indexOf(path));
    const arrived = new Map(
      arrivals.flatMap(({ marker, audience }) => (audience ? [[marker.name, marker.setAt]] : [])),
    );
    return [...arrived].flatMap(([variable, { path: from, line }]) => {
      const setIn = markers.filter(({ name }) => name === variable).map(({ setAt: { path } }) => path);
      const won = setIn.reduce((a, b) => (orderOf(b) > orderOf(a) ? b : a), from);
      if (from === undefined || won === undefined || won === from) return [];
      const place = { path: from, ...(line !== undefined && { line }) };
      return [finding('contract/undecided', 'other-layer', { variable, stage, from, won }, decidedAt(place))];
    });
  });
}
