import type { Variable } from '../contract/contract.js';
import { nameIn, readsFrom } from '../contract/names.js';
import { type ReadFrom, readExpression } from '../contract/read-from.js';
import { runtimeVariables } from '../runtime/runtime.js';
import { describeVariable, type EmitKind, inlinedIn, isAlwaysThere } from './kind.js';
import { VALUES_MODULE } from './values-module.js';

/** Ambient declarations: the editor completes exactly the public names of a bundle, and flags others where the tool allows it. */
export const types: EmitKind = {
  name: 'types',
  summary: 'ambient declarations of the names that a bundle reads',
  needs: ['bundle'],
  emit({ contract, bundle, call }) {
    if (!bundle) return '';
    const members = inlinedIn(contract, bundle).flatMap((variable) => {
      const optional = isAlwaysThere(contract, variable) ? '' : '?';
      const about = describeVariable(variable);
      const line = `readonly ${nameIn(bundle, variable)}${optional}: ${variable.form.textType ?? 'string'};`;
      return about === '' ? [line] : [`/** ${about} */`, line];
    });
    const header = `// Made by \`${call}\` from ${contract.path}; change that.\n`;
    const from = readsFrom(bundle);
    const named = [...inlinedIn(contract, bundle), ...runtimeVariables(contract, bundle)];
    const names = named.map((variable) => ({
      variable,
      isThere: isAlwaysThere(contract, variable),
    }));
    const values = valuesTypes(names);
    switch (from.kind) {
      case 'object':
        return `${header}${from.path === 'import.meta.env' ? importMeta(members) : processEnv(members)}${values}`;
      case 'constant':
        return `${header}${constants(members, from)}${values}`;
      default:
        return header + values;
    }
  },
};

/** What the plugins give under their own specifier, each value in its own type. */
function valuesTypes(names: readonly { variable: Variable; isThere: boolean }[]): string {
  const lines = names.flatMap(({ variable, isThere }) => {
    const about = describeVariable(variable);
    const line = `export const ${variable.name}: ${variable.form.type.typescript}${isThere ? '' : ' | undefined'};`;
    return about === '' ? [line] : [`/** ${about} */`, line];
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

function constants(members: readonly string[], from: ReadFrom): string {
  const declared = members.map((line) =>
    line.replace(/^readonly (\w+)(\??): (.*);$/, (_, name: string, optional: string, type: string) => {
      const full = optional === '' ? type : `${type} | undefined`;
      return `declare const ${readExpression(from, name)}: ${full};`;
    }),
  );
  return `\n${declared.join('\n')}\n`;
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
