import type { Bundle, Variable } from '../contract/contract.js';
import { belongsTo, nameIn, readsFrom } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal, type Secret } from '../secrets/secret.js';
import { escapeJsonControls } from '../text/display.js';
import { readExpression } from '../toolchains/read-from.js';
import { emitKind, valueFor } from './kind.js';

/**
 * The values of a bundle in a stage as JSON: for the define option of bundlers, whose values are source text and so are
 * quoted, or flat, as mobile toolchains take it from a file.
 */
export const defines = emitKind({
  name: 'defines',
  summary: 'JSON for a define option, or the flat file of mobile toolchains (--with-build includes build values)',
  takes: ['bundle', 'resolution', 'withBuild'],
  emit({ bundle, resolution, withBuild }) {
    return definesText(bundle, resolution, {
      withBuild,
      textFor: (variable) => valueFor(resolution, variable, 'defines are'),
    });
  },
});

/**
 * The text of a define file.
 * @param textFor the value of a variable that belongs into it
 * @throws Failure if the bundle's code gets no value from such a file
 */
export function definesText(
  bundle: Bundle,
  { values: all }: Resolution,
  { withBuild, textFor }: { withBuild: boolean; textFor: (variable: Variable) => Secret | undefined },
): string {
  const from = readsFrom(bundle);
  if (from.kind === 'call' || from.kind === 'module')
    throw new Failure(
      `${bundle.name} reads values by ${from.kind === 'call' ? 'a call' : `imports from ${from.specifier}`}, which a define option cannot replace`,
      'use the Adder plugin, or build with `adder with`',
    );
  const values: Record<string, string> = Object.create(null);
  for (const { variable } of all.values()) {
    const isIncluded =
      variable.reach === 'public' ? variable.delivery === 'inline' : withBuild && variable.reach === 'build';
    if (!isIncluded || !belongsTo(bundle, variable)) continue;
    const value = textFor(variable);
    const name = nameIn(bundle, variable);
    // A read that nothing replaces would fail at load, so one of an unset name becomes `undefined`.
    if (from.kind !== 'compiled')
      values[readExpression(from, name)] = value ? JSON.stringify(reveal(value)) : 'undefined';
    else if (value) values[name] = dartText(variable, reveal(value));
  }
  return `${escapeJsonControls(JSON.stringify(values, null, 2))}\n`;
}

/** In a command, this is replaced by the path of the bundle's define file. */
export const DEFINES = '{defines}';

/** The path of a bundle's define file, from the contract's directory. */
export function definesPath(bundle: string, stage: string): string {
  return `.adder/defines/${bundle}.${stage}.json`;
}

/** `bool.fromEnvironment` knows the words only. */
function dartText({ form }: Variable, text: string): string {
  if (form.name !== 'flag') return text;
  return text === '1' ? 'true' : text === '0' ? 'false' : text;
}
