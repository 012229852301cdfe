import { isSkippedDirectory } from '../files/directories.js';
import { within } from '../files/within.js';
import { codePlaceText } from '../trial/conclude.js';
import type { Evidence } from '../trial/evidence.js';
import type { DraftBundle } from './bundles.js';

/** A trial build of a drafted contract: what a draft knows by evidence. */
export interface SeenBuild {
  stage: string;
  bundle: string;
  /** The command, if the user gave one. */
  command?: string;
  evidence: Evidence;
  /** Where the build wrote, relative to the contract; none if that is where the draft has it. */
  outputs: readonly string[];
}

/** The evidence of trial builds for one name. */
export interface SeenName {
  /** The file of the browser's in which its made-up value arrived. */
  arrived?: { bundle: string; path: string };
  /** The place in the project's own files that asked the environment for it while it built. */
  askedAt?: string;
  /** True if a made-up value was set and arrived nowhere that ships. */
  isNowhere: boolean;
}

/** Gathers the evidence for a name. @param names the names that stand for it in code and files */
export function seenOf(names: readonly string[], builds: readonly SeenBuild[]): SeenName | undefined {
  if (builds.length === 0) return undefined;
  const arrivals = builds.flatMap(({ bundle, evidence }) =>
    evidence.arrivals.flatMap(({ marker, audience, path, inside }) =>
      audience === 'browser' && names.includes(marker.name)
        ? [{ bundle, path: [path, ...inside].join(' → '), isOfFile: marker.setAt.path !== undefined }]
        : [],
    ),
  );
  // Each build has every name in its environment, and only that of its own package in a file.
  const first = arrivals.find(({ isOfFile }) => isOfFile) ?? arrivals[0];
  const arrived = first && { bundle: first.bundle, path: first.path };
  const [place] = builds.flatMap(({ evidence }) =>
    evidence.asked.flatMap(({ name, at }) => (names.includes(name) ? at : [])),
  );
  const isMarked = builds.every(
    ({ evidence: { hasOutput, markers, compared = [] } }) =>
      hasOutput && [...markers.map(({ name }) => name), ...compared].some((name) => names.includes(name)),
  );
  return {
    ...(arrived && { arrived }),
    ...(place && { askedAt: codePlaceText(place) }),
    isNowhere: isMarked && !arrived,
  };
}

/** Bundles with what their trial builds show. */
export function withSeen(bundles: readonly DraftBundle[], builds: readonly SeenBuild[]): DraftBundle[] {
  return bundles.map((bundle) => {
    const seen = builds.find((one) => one.bundle === bundle.name);
    if (!seen) return bundle;
    const { command, outputs } = seen;
    const wrote = outputs.length > 0 ? outputs : bundle.output;
    return {
      ...bundle,
      ...(command !== undefined && { build: command }),
      ...{ output: [...wrote], because: `${bundle.because}; a trial build wrote to ${wrote.join(', ') || 'no file'}` },
    };
  });
}

/** Files that a browser could get. Where the drafted output is one of several, only pages tell that there are others. */
const shippable = /\.(m?js|cjs|html?|css|map|wasm|json|apk|ipa|aab|asar|zip)$/;

/**
 * The directories that a build wrote and the project did not have, or single files in directories that it had.
 * @returns nothing if the drafted output has them all
 */
export function outputsSeen(
  { folder, output, code }: Pick<DraftBundle, 'folder' | 'output' | 'code'>,
  { written, before }: { written: readonly string[]; before: readonly string[] },
): string[] {
  const had = new Set(before.flatMap(pathsTo));
  const [isKnown, isCode] = [within(output), within(code)];
  const kind = written.some(isKnown) ? /\.html?$/ : shippable;
  const found = written.flatMap((path) => {
    if (!path.startsWith(folder) || !kind.test(path) || isKnown(path) || isCode(path)) return [];
    if (path.split('/').slice(0, -1).some(isCache)) return [];
    const topmost = pathsTo(path).find((one) => one.length > folder.length && !had.has(one));
    return topmost === undefined ? [] : [topmost];
  });
  const others = [...new Set(found)].sort();
  const isAbove = within(others);
  return others.length === 0
    ? []
    : [...output.filter((path) => written.some(within([path])) && !isAbove(path)), ...others];
}

/** The directories above a file from the top, and the file itself. */
function pathsTo(path: string): string[] {
  return path.split('/').map((_, index, parts) => parts.slice(0, index + 1).join('/'));
}

function isCache(name: string): boolean {
  return isSkippedDirectory(name) || /^\.(?!well-known$)/.test(name);
}
