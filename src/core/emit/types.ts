import type { Variable } from '../contract/contract.js';
import { nameIn, readsFrom } from '../contract/names.js';
import { withoutChoices } from '../forms/index.js';
import { runtimeVariables } from '../runtime/runtime.js';
import { readExpression } from '../toolchains/read-from.js';
import { describeVariable, emitKind, inlinedIn, isAlwaysThere, madeBy } from './kind.js';
import { VALUES_MODULE } from './values-module.js';

/** Ambient declarations: the editor completes exactly the public names of a bundle, and flags others where the tool allows it. */
export const types = emitKind({
  name: 'types',
  summary: 'ambient declarations of the names that a bundle reads',
  takes: ['bundle'],
  emit({ contract, bundle, call }) {
    const header = `// ${madeBy(call, contract)}\n`;
    const from = readsFrom(bundle);
    const named = [...inlinedIn(contract, bundle), ...runtimeVariables(contract, bundle)];
    const names = named.map((variable) => ({
      variable,
      isThere: isAlwaysThere(contract, variable),
    }));
    const values = valuesTypes(names);
    const members = (line: (variable: Variable, isThere: boolean) => string) =>
      inlinedIn(contract, bundle).flatMap((variable) =>
        withAbout(variable, line(variable, isAlwaysThere(contract, variable))),
      );
    const ofObject = (variable: Variable, isThere: boolean) =>
      `readonly ${nameIn(bundle, variable)}${isThere ? '' : '?'}: ${textTypeOf(variable)};`;
    const ofConstant = (variable: Variable, isThere: boolean) =>
      `declare const ${readExpression(from, nameIn(bundle, variable))}: ${textTypeOf(variable)}${isThere ? '' : ' | undefined'};`;
    switch (from.kind) {
      case 'object':
        return `${header}${(from.path === 'import.meta.env' ? importMeta : processEnv)(members(ofObject))}${values}`;
      case 'constant':
        return `${header}\n${members(ofConstant).join('\n')}\n${values}`;
      default:
        return header + values;
    }
  },
});

/** A declaration, with its comment from the contract above. */
function withAbout(variable: Variable, line: string): string[] {
  const about = describeVariable(variable);
  return about === '' ? [line] : [`/** ${about} */`, line];
}

/** Type of a value before any conversion. */
function textTypeOf({ form, reach }: Variable): string {
  return (reach === 'public' ? form : withoutChoices(form)).textType ?? 'string';
}

/** Declaration of the plugins' own module, with each value in its own type. */
function valuesTypes(names: readonly { variable: Variable; isThere: boolean }[]): string {
  const lines = names.flatMap(({ variable, isThere }) => {
    const line = `export const ${variable.name}: ${variable.form.type.typescript}${isThere ? '' : ' | undefined'};`;
    return withAbout(variable, line);
  });
  return `
declare module '${VALUES_MODULE}' {
${indent(lines, 2)}
}
`;
}

function importMeta(members: readonly string[]): string {
  return `
/** Names that are not declared below are errors. */
interface ViteTypeOptions {
  strictImportMetaEnv: unknown;
}

interface ImportMetaEnv {
${indent(members, 2)}
}

interface ImportMeta {
  readonly env: ImportMetaEnv;
}
`;
}

function processEnv(members: readonly string[]): string {
  return `
declare namespace NodeJS {
  interface ProcessEnv {
${indent(members, 4)}
  }
}
`;
}

function indent(lines: readonly string[], by: number): string {
  return lines.map((line) => ' '.repeat(by) + line).join('\n');
}
