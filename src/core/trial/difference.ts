/** Digests of the contents that a build wrote, by paths. Both are without the parts that a build computes from contents. */
export type OutputDigests = ReadonlyMap<string, readonly string[]>;

/** A part of a file's name that tools compute from its content: `index-DxSexbgc.js`. */
const inName = /(?<=[-.])[\w-]{8,}(?=\.\w+(\.map)?$)/g;
/** A name or directory that is computed as a whole: `k3J9sdf02Lq/_buildManifest.js`. */
const whole = /[\w-]*\d[\w-]{6,}/g;

/** A path without its computed parts. */
export function stablePath(path: string): string {
  return path.replaceAll(inName, '*').replaceAll(whole, '*');
}

/**
 * A text without the computed parts of file names in it, as a file that loads another one has its name.
 * @param names the names of all files that the build wrote, without directories
 */
export function stableText(text: string, names: Iterable<string>): string {
  let stable = text;
  for (const name of names) {
    const [stem = name] = name.split(/\.(?=\w+$)/);
    if (stablePath(name) !== name) stable = stable.replaceAll(stem, '*');
  }
  return stable;
}

/** Paths whose contents differ between two builds, without their computed parts. */
export function differing(one: OutputDigests, other: OutputDigests): Set<string> {
  const paths = new Set([...one.keys(), ...other.keys()]);
  const listOf = (all: OutputDigests, path: string) => [...(all.get(path) ?? [])].sort().join();
  return new Set([...paths].filter((path) => listOf(one, path) !== listOf(other, path)));
}
