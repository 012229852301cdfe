import { prefixOf } from '../../contract/names.js';
import type { Read } from '../../reads/read.js';
import { joinedName } from '../../resolve/keyed.js';
import { joinWords } from '../../text/nearest.js';
import type { DraftBundle } from '../bundles.js';
import { isOfFreeModule } from '../reach.js';
import type { SeenName } from '../seen.js';
import type { Guess, Judged } from './guess.js';

/** Code may use a key of its define file as it is, in camel case, or a name without the prefix: one that its configuration inlines, or of a module. */
export function namesInCode({ name: variable, reach, uses, bundles, seen }: Judged): Guess {
  const listed = bundles
    .filter(
      ({ inlined, renamed, prefixes }) =>
        prefixes.length > 0 && [...inlined, ...Object.values(renamed)].includes(variable),
    )
    .filter(({ prefixes }) => reach === 'public' && prefixOf({ prefixes }, variable) === undefined)
    .map(({ name }) => [name, variable] as const);
  const keys = uses.flatMap(({ bundle, read: { name } }) =>
    bundle && name !== undefined && name !== variable && !bundle.renamed[name] && joinedName([name]) === variable
      ? [[bundle.name, name] as const]
      : [],
  );
  const free = uses.flatMap(({ bundle, read }) =>
    reach === 'public' && bundle && read.name === variable && isPlainInModule(read, bundle)
      ? [[bundle.name, variable] as const]
      : [],
  );
  const names = Object.fromEntries([...listed, ...arrivedAs(seen, variable, bundles), ...keys, ...free]);
  const used = Object.entries(names).map(([bundle, name]) => `${bundle} uses ${name}`);
  return used.length === 0 ? {} : { fields: { names }, reason: `names: ${joinWords(used)}` };
}

/** A value that arrived under a name without the bundle's prefix has that name in its code. */
function arrivedAs(
  seen: SeenName | undefined,
  variable: string,
  bundles: readonly DraftBundle[],
): (readonly [string, string])[] {
  const bundle = bundles.find(({ name }) => name === seen?.arrived?.bundle);
  const isPlain = bundle && bundle.prefixes.length > 0 && prefixOf(bundle, variable) === undefined;
  return isPlain ? [[bundle.name, variable]] : [];
}

/** Tells whether a module has a name without the prefix that the bundle's other names have. */
function isPlainInModule(read: Read, bundle: DraftBundle): boolean {
  return isOfFreeModule(read, bundle) && prefixOf(bundle, read.name ?? '') === undefined;
}
