import { isPage } from '../../files/languages.js';
import { sideOfPath } from '../../files/side.js';
import { isEnvLike } from '../../files/value-files.js';
import type { Place, RawFinding } from '../../findings/finding.js';
import type { Owner } from '../plan.js';
import type { Inspected } from '../rule.js';

type Where = Pick<Place, 'path' | 'inside'>;

/** Messages about a value in an artifact. */
export type Statement = Pick<RawFinding, 'code' | 'level' | 'message' | 'remedy'>;

/** The statement about a value, or undefined if it may be there: a public value, or another stage's in a cache. */
export function statementFor(owner: Owner, inspected: Inspected, where: Where): Statement | undefined {
  const statement = statementByAudience(owner, inspected, where);
  if (!statement || inspected.audience === 'cache') return statement;
  if (owner.role !== 'foreign' && inspected.audience === 'browser' && isInEnvFile(where))
    return owner.role === 'secret'
      ? { ...statement, remedy: envFileRemedy }
      : { ...statement, level: 'warning', remedy: 'remove the env file from what ships, and rebuild' };
  const leftOver = inspected.leftOver?.();
  if (leftOver === undefined) return statement;
  const [rebuild, rotate] =
    owner.role === 'secret' ? [', rebuild, ', 'then rotate the key: assume it is known'] : [' and ', 'rebuild'];
  const remedy = `the last build did not write this file: empty ${leftOver}${rebuild}${rotate}`;
  return { ...statement, remedy };
}

const envFileRemedy =
  'remove the env file from what ships, rebuild, then rotate every value in it: assume they are known';

/** Whether the file itself, the innermost one, is an env file that was packed with the rest. */
function isInEnvFile({ path, inside }: Where): boolean {
  return isEnvLike(inside.at(-1) ?? path);
}

function statementByAudience(owner: Owner, { stage, audience }: Inspected, where: Where): Statement | undefined {
  if (owner.role === 'secret')
    return audience === 'browser' ? shippedSecret(owner, where) : keptSecret(owner, audience);
  if (owner.role === 'setting') return audience === 'browser' ? shippedSetting(owner) : undefined;
  return owner.role === 'foreign' && audience !== 'cache' ? foreignValue(owner, stage) : undefined;
}

/** What a shipped file is, if it is not code that runs: how a message names it, and what takes a value out of it. */
interface FileKind {
  is(path: string, inside: readonly string[]): boolean;
  named: string;
  fix: string;
}

const nameOf = (path: string, inside: readonly string[]) => inside.at(-1) ?? path;

/** The first that fits. Text in a map is source text, whatever its file was. */
const fileKinds: readonly FileKind[] = [
  {
    is: (path, inside) => [path, ...inside].some((name) => name.endsWith('.map')),
    named: 'source map',
    fix: 'remove the value from the source, or keep source maps out of what ships',
  },
  {
    is: (path, inside) => sideOfPath(nameOf(path, inside)) === 'test',
    named: 'test file',
    fix: 'remove the value from the test, and keep tests out of what ships',
  },
  // What a build fills with data contains what was returned to it, not what its code read.
  {
    is: (path, inside) => isPage(nameOf(path, inside)),
    named: 'page',
    fix: "remove the value from the page's source, or from the data that it is rendered from",
  },
  {
    is: (path, inside) => /\.(json|rsc|txt|xml|webmanifest)$/i.test(nameOf(path, inside)),
    named: 'data file',
    fix: 'remove the value from the data that this file is built from',
  },
];

function shippedSecret(owner: Owner, { path, inside }: Where): Statement {
  const kind = fileKinds.find(({ is }) => is(path, inside));
  const code = owner.reach === 'build' ? 'use the value in build scripts only' : 'move the read into server code';
  return {
    code: codeOf(owner),
    message: `${kind ? `a ${kind.named} ` : ''}contains ${describeValue(owner)}, a ${owner.reach}-only variable${originOf(owner)}`,
    remedy: `${kind?.fix ?? code}, rebuild, then rotate the key: assume it is known${notASecret}`,
  };
}

const notASecret = '. If it is not a secret, declare it public or set `search: never`';

/** A host name, a path or a plain word that only the server needs. */
function shippedSetting(owner: Owner): Statement {
  return {
    code: 'leak/setting',
    message: `contains ${describeValue(owner)}, a ${owner.reach}-only setting${originOf(owner)}`,
    remedy: 'declare it public if browsers may know it, or set `search: always` if it is a secret',
  };
}

/** No browser gets these files, but everybody with them has the value. */
function keptSecret(owner: Owner, audience: 'server' | 'cache'): Statement {
  const [where, remedy] =
    audience === 'server'
      ? ['a server file', "read it from the server's environment when it starts, so that no file contains it"]
      : ['a build cache', 'delete the cache, and do not let a pipeline store it between runs'];
  return {
    code: codeOf(owner),
    level: 'warning',
    message: `${where} contains ${describeValue(owner)}, a ${owner.reach}-only variable${originOf(owner)}`,
    remedy,
  };
}

function foreignValue({ variable, stage }: Owner, inspected: string): Statement {
  return {
    code: 'stage/foreign-value',
    message: `contains the ${stage} value of ${variable}, in a build for ${inspected}`,
    remedy: `rebuild it for ${inspected}: adder with ${inspected} -- COMMAND`,
  };
}

/** `the value of KEY`, `the password (part of the value of KEY)`. */
function describeValue({ variable, part }: Owner): string {
  const whole = `the value of ${variable}`;
  return part ? `${part.is} (part of ${whole})` : whole;
}

/** Some tools read env files that no stage lists. */
function originOf({ file }: Owner): string {
  return file === undefined ? '' : `; the value is from ${file}, which is not a layer of any stage`;
}

function codeOf({ part }: Owner): Statement['code'] {
  return part ? 'leak/part-of-value' : 'leak/known-value';
}
