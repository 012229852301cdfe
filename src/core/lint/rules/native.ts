import { posix } from 'node:path';
import type { Bundle, Contract, Variable } from '../../contract/contract.js';
import { isEnvLike } from '../../files/value-files.js';
import { within } from '../../files/within.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { type NativeRead, readsInNative } from '../../reads/native.js';
import { nearest } from '../../text/nearest.js';
import { isForeignName } from '../../toolchains/known-names.js';
import { type LintContext, type LintFinding, placed } from '../model.js';

/** Reads of native code in apps that are installed on other machines. */
export function nativeRules(context: LintContext): LintFinding[] {
  const apps = context.bundles
    .map(({ bundle }) => bundle)
    .filter(({ runs }) => runs === 'desktop' || runs === 'mobile');
  const [first] = apps;
  if (!first) return [];
  return [...context.native].flatMap(([path, text]) => {
    const app = apps.find(({ code }) => within(code)(path)) ?? first;
    return readsInNative(path, text).flatMap((read) => {
      const found = findingOf(context.contract, app, path, read);
      const file = { path, text, reads: [], imports: [] };
      return found ? [{ ...found, bundle: app.name, ...placed(context, file, read.start, read.end) }] : [];
    });
  });
}

function findingOf(contract: Contract, app: Bundle, path: string, read: NativeRead): RawFinding | undefined {
  const { name, time, by } = read;
  if (time === 'file')
    return isEnvLike(posix.join(posix.dirname(path), name)) ? finding('repo/packed', 'app', { name, by }) : undefined;
  const variable = contract.variables.get(name);
  if (!variable) return unknown(contract, name);
  if (time === 'build') return compiledIn(variable, by);
  const instead = path.endsWith('.rs') ? `write option_env!("${name}")` : 'put it into the app at build time';
  return readAtRun(variable, app, instead);
}

function compiledIn({ name, reach }: Variable, by: string): RawFinding | undefined {
  return reach === 'public' ? undefined : finding('code/server-read', 'app', { variable: name, reach, by });
}

/** A variable that the app looks up on the user's machine. @param instead how to read a public one */
export function readAtRun({ name, reach }: Variable, { runs }: Bundle, instead: string): RawFinding {
  const on = runs === 'desktop' ? 'desktop' : 'mobile';
  return finding('code/unreachable-read', 'at-run', { variable: name, reach, on, instead });
}

/** A machine has many variables of its own: only a name that is nearly one of the contract is a mistake. */
function unknown(contract: Contract, name: string): RawFinding | undefined {
  const [near] = isForeignName(name) ? [] : nearest(name, contract.variables.keys());
  return near === undefined ? undefined : finding('code/unknown-name', 'app', { name, near }, { level: 'warning' });
}
