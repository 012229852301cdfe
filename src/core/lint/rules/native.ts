import { posix } from 'node:path';
import type { Bundle, Contract, Variable } from '../../contract/contract.js';
import { isEnvLike } from '../../files/value-files.js';
import { type NativeRead, readsInNative } from '../../reads/native.js';
import { nearest } from '../../text/nearest.js';
import { isForeignName } from '../../toolchains/known-names.js';
import { type LintContext, type LintFinding, placed } from '../model.js';

/** Reads of native code in apps that are installed on other machines. */
export function nativeRules(context: LintContext): LintFinding[] {
  const app = context.bundles.find(({ bundle }) => bundle.runs === 'desktop' || bundle.runs === 'mobile')?.bundle;
  if (!app) return [];
  return [...context.native].flatMap(([path, text]) =>
    readsInNative(path, text).flatMap((read) => {
      const finding = findingOf(context.contract, app, path, read);
      const file = { path, text, reads: [], imports: [] };
      return finding ? [{ ...finding, bundle: app.name, ...placed(context, file, read.start, read.end) }] : [];
    }),
  );
}

type Found = Pick<LintFinding, 'code' | 'message' | 'remedy' | 'level' | 'variable'>;

function findingOf(contract: Contract, app: Bundle, path: string, read: NativeRead): Found | undefined {
  const { name, time, by } = read;
  if (time === 'file') return isEnvLike(posix.join(posix.dirname(path), name)) ? embedded(name, by) : undefined;
  const variable = contract.variables.get(name);
  if (!variable) return unknown(contract, name);
  if (time === 'build') return compiledIn(variable, by);
  const instead = path.endsWith('.rs') ? `write option_env!("${name}")` : 'put it into the app at build time';
  return readAtRun(variable, app, instead);
}

function embedded(name: string, by: string): Found {
  return {
    code: 'repo/packed',
    message: `${by} puts all of ${name} into the app`,
    remedy: 'read single public values at build time, and rotate the secrets in the file',
  };
}

function compiledIn({ name, reach }: Variable, by: string): Found | undefined {
  if (reach === 'public') return undefined;
  return {
    code: 'code/server-read',
    variable: name,
    message: `${by} puts ${name}, a ${reach}-only variable, into the app`,
    remedy: `move what needs it to a server; if anybody may know the value, set ${name}: public in the contract`,
  };
}

/** A variable that the app looks up on the user's machine. @param instead how to read a public one */
export function readAtRun({ name, reach }: Variable, { runs }: Bundle, instead: string): Found {
  const where = runs === 'desktop' ? 'an app that is started from the desktop' : 'an app on a phone';
  return {
    code: 'code/unreachable-read',
    variable: name,
    message: `${name} is read when the app runs, but ${where} does not have it`,
    remedy: reach === 'public' ? instead : 'move what needs it to a server',
  };
}

/** A machine has many variables of its own: only a name that is nearly one of the contract is a mistake. */
function unknown(contract: Contract, name: string): Found | undefined {
  const [near] = isForeignName(name) ? [] : nearest(name, contract.variables.keys());
  if (near === undefined) return undefined;
  return {
    code: 'code/unknown-name',
    message: `${name} is not in the contract`,
    remedy: `did you mean ${near}?`,
    level: 'warning',
  };
}
