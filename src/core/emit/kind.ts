import type { Bundle, Contract, Variable } from '../contract/contract.js';
import { isRequired } from '../contract/contract.js';
import { belongsTo } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import type { Provided } from '../lint/repository/pipeline.js';
import type { Resolution } from '../resolve/resolve.js';
import type { Secret } from '../secrets/secret.js';
import { oneLine } from '../text/display.js';
import { GENERATED_BY } from '../text/generated.js';

/** Everything that a file can be made from. Each kind declares what it takes of it. */
export interface EmitRequest {
  contract: Contract;
  bundle: Bundle;
  /** The values of a stage. */
  resolution: Resolution;
  /** Tells whether a clone of the repository has a file, by its path. */
  isShared(path: string): boolean;
  /** Settings of the repository's pipelines for builds of the stage; undefined without pipelines. */
  provided: readonly Provided[] | undefined;
  /** Which variables a module covers. */
  side: 'public' | 'server';
  /** True if build values are included; the file is then a secret. */
  withBuild: boolean;
  format: 'text' | 'json' | 'env' | 'constants';
  /** The language of a module: JavaScript has types in comments. */
  language: 'typescript' | 'javascript';
  /** The command that makes the file again, for its first line. */
  call: string;
}

/** Input of every kind. */
type Given = 'contract' | 'call';

/** How `--into` puts the output in place: into pages of a build, or into an editor's configuration. */
export type EmitDelivery = 'pages' | 'editor';

/** A file for other tools: a pure function of what it takes. One file per kind, one line in index.ts. */
export interface EmitKind<Taken extends Exclude<keyof EmitRequest, Given> = Exclude<keyof EmitRequest, Given>> {
  name: string;
  /** One line for the help. */
  summary: string;
  takes: readonly Taken[];
  /** Values of `format` besides `text`, if it takes the format. */
  formats?: readonly EmitRequest['format'][];
  /** How `--into` delivers it, if it does. */
  delivery?: EmitDelivery;
  /** The kind that `--with-values` selects instead. */
  withValues?: EmitKind;
  emit(request: Pick<EmitRequest, Taken | Given>): string;
  /** A file that somebody wrote by hand with what it lacks. Without it, such a file is never replaced unasked. */
  addTo?(text: string, request: Pick<EmitRequest, Taken | Given>): string;
}

/** Checks that a kind uses only what it takes. */
export function emitKind<const Taken extends Exclude<keyof EmitRequest, Given> = never>(
  kind: EmitKind<Taken>,
): EmitKind<Taken> {
  return kind;
}

/** The public variables that are inlined into a bundle. */
export function inlinedIn(contract: Contract, bundle: Bundle): Variable[] {
  return [...contract.variables.values()].filter(
    (variable) => variable.reach === 'public' && variable.delivery === 'inline' && belongsTo(bundle, variable),
  );
}

/**
 * A variable's value for a file that holds values; undefined if it has none and needs none.
 * @throws Failure if it is missing or malformed, so that no such file is written
 */
export function valueFor({ stage, values }: Resolution, variable: Variable, what: string): Secret | undefined {
  const { state, value } = values.get(variable.name) ?? { state: 'missing' };
  if (state !== 'missing' && state !== 'malformed') return value;
  throw new Failure(
    `${variable.name} is ${state} in ${stage.name}; no ${what} written`,
    `run \`adder values ${stage.name}\` to see what is wrong`,
  );
}

/** Tells whether every stage has a value, so that code need not ask. */
export function isAlwaysThere(contract: Contract, variable: Variable): boolean {
  return variable.default !== undefined || [...contract.stages.keys()].every((stage) => isRequired(variable, stage));
}

/** The header of a generated file. @param call the command that generates it */
export function madeBy(call: string, { path }: Contract): string {
  return oneLine(`${GENERATED_BY}${call.replace(/^adder /, '')}\` from ${path}; do not edit.`);
}

/** A variable's comment, in one line that cannot end the comment: its `about`, and its form in brackets. */
export function describeVariable({ about, form }: Variable): string {
  const text = oneLine(about ?? '').replaceAll('*/', '* /');
  if (form.name === 'text') return text;
  return text ? `${text} (${form.name})` : form.name;
}
