import { prefixOf } from '../contract/names.js';
import { namesSetIn, type Read } from '../reads/read.js';
import { joinedName } from '../resolve/keyed.js';
import { textPlaces } from '../text/positions.js';
import { isIn, type Range } from '../text/ranges.js';
import { isReadOfMachine, toolchainOf } from '../toolchains/index.js';
import type { DraftBundle } from './bundles.js';
import type { Side, Use } from './evidence.js';
import type { Material } from './material.js';
import type { Sides } from './sides.js';

/** Reads by the name that the contract has, without the bundle's prefix where files have the name so; those of configurations too. */
export function usesByName(
  { sources, modules }: Material,
  sides: Sides,
  values: ReadonlyMap<string, unknown>,
): Map<string, Use[]> {
  const byName = new Map<string, Use[]>();
  const set = namesSetIn(sources.flatMap(({ reads }) => reads));
  const configurations = new Set(sides.bundles.flatMap(({ reads }) => [...reads.values()].map(({ path }) => path)));
  for (const { path, reads, onServer } of sources) {
    const known = sides.of(path);
    const place = known.side === 'unknown' && configurations.has(path) ? { side: 'build' as const } : known;
    for (const read of reads) {
      if (read.name === undefined || read.kind === 'assigned' || !/^[A-Za-z_]\w*$/.test(read.name)) continue;
      if (set.has(read.name) && read.object === 'process.env' && !values.has(read.name)) continue;
      const where = { ...place, side: sideOfRead(read, place, onServer) };
      if (where.bundle && isReadOfMachine(where.bundle, path, read.object)) continue;
      const own = where.bundle && isReplaced(where.bundle, read) ? where.bundle.renamed[read.name] : undefined;
      const name = own ?? declaredAs(read.name, where.bundle?.prefixes ?? [], values);
      byName.set(name, [...(byName.get(name) ?? []), { path, line: read.line, column: read.column, ...where, read }]);
    }
  }
  for (const { reads } of sides.bundles)
    for (const [name, { path, start, end }] of reads) {
      const text = modules.get(path)?.text;
      const isFound = byName.get(name)?.some((one) => one.path === path);
      if (text === undefined || isFound || !/^[A-Za-z_]\w*$/.test(name)) continue;
      const read: Read = {
        kind: 'lookup',
        name,
        object: 'process.env',
        optional: false,
        start,
        end,
        nameStart: start,
        nameEnd: end,
      };
      byName.set(name, [...(byName.get(name) ?? []), { path, ...textPlaces(text)(start), side: 'build', read }]);
    }
  return byName;
}

/** Tells whether a read is of an object that the bundle's tool fills. */
function isReplaced({ toolchain }: DraftBundle, { object }: Read): boolean {
  return toolchainOf({ toolchain }).reads.some(({ from }) => from === object);
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
