import { isPage } from '../../files/languages.js';
import { sideOfPath } from '../../files/side.js';
import { isEnvLike } from '../../files/value-files.js';
import { finding, type Place, type RawFinding } from '../../findings/finding.js';
import type { FileKind } from '../../words/leak.js';
import type { Owner } from '../plan.js';
import type { Inspected } from '../rule.js';

type Where = Pick<Place, 'path' | 'inside'>;

/**
 * Makes the finding for a value in an artifact, without its place; undefined if it may be there: a public value, or another stage's
 * in a cache.
 * @param more number of further places in the file
 */
export function statementFor(owner: Owner, inspected: Inspected, where: Where, more?: number): RawFinding | undefined {
  const output = inspected.audience === 'cache' ? undefined : inspected.leftOver?.();
  switch (owner.role) {
    case 'secret':
      return inspected.audience === 'browser'
        ? shippedSecret(owner, where, more, output)
        : keptSecret(owner, inspected.audience, more, output);
    case 'setting':
      return inspected.audience === 'browser' ? shippedSetting(owner, where, more, output) : undefined;
    case 'foreign':
      return inspected.audience === 'cache' ? undefined : foreignValue(owner, inspected, more, output);
    case 'past':
      return inspected.audience === 'browser' ? pastValue(owner, inspected, more, output) : undefined;
    default:
      return undefined;
  }
}

/** Tells whether the file itself, the innermost one, is an env file that was packed with the rest. */
function isInEnvFile({ path, inside }: Where): boolean {
  return isEnvLike(inside.at(-1) ?? path);
}

const nameOf = (path: string, inside: readonly string[]) => inside.at(-1) ?? path;

/** Shipped files that are not code that runs. The first that fits; text in a map is source text, whatever its file was. */
const fileKinds: readonly { kind: FileKind; is(path: string, inside: readonly string[]): boolean }[] = [
  { kind: 'map', is: (path, inside) => [path, ...inside].some((name) => name.endsWith('.map')) },
  { kind: 'test', is: (path, inside) => sideOfPath(nameOf(path, inside)) === 'test' },
  // Data that a build writes into a file is a result, not a read of its code.
  { kind: 'page', is: (path, inside) => isPage(nameOf(path, inside)) },
  { kind: 'data', is: (path, inside) => /\.(json|rsc|txt|xml|webmanifest)$/i.test(nameOf(path, inside)) },
];

function aboutValue({ variable, reach, part, file, recorded }: Owner, more: number | undefined) {
  return { variable, reach, part: part?.part, amount: part?.amount, file, more, recorded };
}

function codeOf({ part }: Owner) {
  return part ? ('leak/part-of-value' as const) : ('leak/known-value' as const);
}

function shippedSecret(owner: Owner, where: Where, more: number | undefined, output: string | undefined): RawFinding {
  const kind = fileKinds.find(({ is }) => is(where.path, where.inside))?.kind;
  const facts = { ...aboutValue(owner, more), kind };
  if (isInEnvFile(where)) return finding(codeOf(owner), 'in-env-file', facts);
  return output === undefined
    ? finding(codeOf(owner), 'shipped', facts)
    : finding(codeOf(owner), 'left-over', { ...facts, output });
}

/** A host name, a path or a plain word that only the server needs. */
function shippedSetting(owner: Owner, where: Where, more: number | undefined, output: string | undefined): RawFinding {
  const facts = aboutValue(owner, more);
  if (isInEnvFile(where)) return finding('leak/setting', 'in-env-file', facts, { level: 'warning' });
  return output === undefined
    ? finding('leak/setting', 'shipped', facts)
    : finding('leak/setting', 'left-over', { ...facts, output });
}

/** No browser gets these files, but everybody with them has the value. */
function keptSecret(
  owner: Owner,
  audience: 'server' | 'cache',
  more: number | undefined,
  output: string | undefined,
): RawFinding {
  const facts = aboutValue(owner, more);
  if (audience === 'cache') return finding(codeOf(owner), 'in-cache', facts, { level: 'warning' });
  return output === undefined
    ? finding(codeOf(owner), 'on-server', facts, { level: 'warning' })
    : finding(codeOf(owner), 'left-over-on-server', { ...facts, output }, { level: 'warning' });
}

/** A public value that the stage no longer has. */
function pastValue(
  { variable, stage = '', recorded }: Owner,
  { stage: of, bundle }: Inspected,
  more: number | undefined,
  output: string | undefined,
): RawFinding | undefined {
  if (!recorded) return undefined;
  const rebuild = ['adder', 'with', of, ...(bundle === undefined ? [] : ['--bundle', bundle])];
  return finding('stale/past-value', 'recorded', { variable, stage, more, recorded, output, rebuild });
}

function foreignValue(
  { variable, stage = '' }: Owner,
  { stage: of, bundle, facts: about }: Inspected,
  more: number | undefined,
  output: string | undefined,
): RawFinding {
  const facts = { variable, stage, of, more };
  const rebuild = ['adder', 'with', of, ...(bundle === undefined ? [] : ['--bundle', bundle])];
  return output === undefined
    ? finding('stage/foreign-value', 'value', { ...facts, rebuild, isBuiltHere: about?.isBuiltHere === true })
    : finding('stage/foreign-value', 'left-over', { ...facts, output });
}
