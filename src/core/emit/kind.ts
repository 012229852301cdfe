import type { Bundle, Contract, Variable } from '../contract/contract.js';
import { isRequired } from '../contract/contract.js';
import { belongsTo } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import type { Resolution } from '../resolve/resolve.js';
import type { Secret } from '../secrets/secret.js';
import { displayText } from '../text/display.js';

/** What a kind is made from. `bundle` and `resolution` are there where the kind needs them, or the call asks for values. */
export interface EmitRequest {
  contract: Contract;
  bundle?: Bundle;
  resolution?: Resolution;
  /** For modules: the public accessors, or the server's. */
  side: 'public' | 'server';
  /** For modules: the values themselves in place of reads. */
  withValues: boolean;
  /** For defines: build values too. */
  withBuild: boolean;
  /** For needs and runtime: the form that each of them has. */
  as: 'text' | 'json' | 'env' | 'constants';
  /** The call that makes it again, for the first line of the file. */
  call: string;
}

/** A request as a call without options makes it. */
export const plainRequest = { side: 'public', withValues: false, withBuild: false, as: 'text', call: '' } as const;

/** A file for others. One file a kind, one line in index.ts. It is a pure function of the contract and the values. */
export interface EmitKind {
  name: string;
  /** One line for the help. */
  summary: string;
  needs: readonly ('bundle' | 'stage')[];
  /** What `as` may say besides `text`. */
  forms?: readonly EmitRequest['as'][];
  emit(request: EmitRequest): string;
}

/** The public variables that are inlined into a bundle. */
export function inlinedIn(contract: Contract, bundle: Bundle): Variable[] {
  return [...contract.variables.values()].filter(
    (variable) => variable.reach === 'public' && variable.delivery === 'inline' && belongsTo(bundle, variable),
  );
}

/**
 * A variable's value for a file that holds values; undefined where it has none and needs none.
 * @throws Failure where it is missing or malformed, so that no such file is written
 */
export function valueFor({ stage, values }: Resolution, variable: Variable, what: string): Secret | undefined {
  const { state, value } = values.get(variable.name) ?? { state: 'missing' };
  if (state !== 'missing' && state !== 'malformed') return value;
  throw new Failure(
    `${variable.name} is ${state} in ${stage.name}, so no ${what} written`,
    `adder values ${stage.name} says what is wrong`,
  );
}

/** Whether every stage has a value, so that code need not ask. */
export function isAlwaysThere(contract: Contract, variable: Variable): boolean {
  return variable.default !== undefined || [...contract.stages.keys()].every((stage) => isRequired(variable, stage));
}

/** The header of a generated file. @param call the command that generates it */
export function madeBy(call: string, { path }: Contract): string {
  return oneLine(`Made by \`${call}\` from ${path}; change that.`);
}

/** Prose of the contract as one line, without characters that a terminal or a compiler obeys. */
export function oneLine(text: string): string {
  return displayText(text.replace(/\s+/g, ' ').trim());
}

/** What a comment says of a variable, in one line that cannot end the comment: its `about`, and its form in brackets. */
export function describeVariable({ about, form }: Variable): string {
  const text = oneLine(about ?? '').replaceAll('*/', '* /');
  if (form.name === 'text') return text;
  return text ? `${text} (${form.name})` : form.name;
}
