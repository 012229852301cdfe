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
    const inlined = inlinedIn(contract, bundle);
    const named = [...inlined, ...runtimeVariables(contract, bundle)];
    const isThere = (variable: Variable) => isAlwaysThere(contract, variable);
    // A tool with several ways to read has names of each.
    const readAs = (variable: Variable) => readsFrom(bundle, nameIn(bundle, variable));
    const members = (path: string) =>
      inlined.flatMap((variable) => {
        const from = readAs(variable);
        if (from.kind !== 'object' || from.path !== path) return [];
        const name = `${nameIn(bundle, variable)}${isThere(variable) ? '' : '?'}`;
        return withAbout(variable, `readonly ${name}: ${textTypeOf(variable)};`);
      });
    const constants = inlined.flatMap((variable) => {
      const from = readAs(variable);
      if (from.kind !== 'constant') return [];
      const type = `${textTypeOf(variable)}${isThere(variable) ? '' : ' | undefined'}`;
      return withAbout(variable, `declare const ${readExpression(from, nameIn(bundle, variable))}: ${type};`);
    });
    const own = readsFrom(bundle);
    const isOwn = (path: string) => own.kind === 'object' && own.path === path;
    const [ofMeta, ofProcess] = [members('import.meta.env'), members('process.env')];
    return [
      `// ${madeBy(call, contract)}\n`,
      ofMeta.length > 0 || isOwn('import.meta.env') ? importMeta(ofMeta, isOwn('import.meta.env')) : '',
      ofProcess.length > 0 || isOwn('process.env') ? processEnv(ofProcess) : '',
      constants.length > 0 ? `\n${constants.join('\n')}\n` : '',
      valuesTypes(named.map((variable) => ({ variable, isThere: isThere(variable) }))),
    ].join('');
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

/** @param isStrict tells whether all names of the code are here */
function importMeta(members: readonly string[], isStrict: boolean): string {
  const strict = `
/** Names that are not declared below are errors. */
interface ViteTypeOptions {
  strictImportMetaEnv: unknown;
}
`;
  return `${isStrict ? strict : ''}
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
