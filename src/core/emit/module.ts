import type { Contract, Variable } from '../contract/contract.js';
import { nameIn, readsFrom } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import { type Form, withoutChoices } from '../forms/index.js';
import { valueLiteral } from '../runtime/literal.js';
import { loadedExpression, loadedHelper, runtimeVariables } from '../runtime/runtime.js';
import { reveal } from '../secrets/secret.js';
import { camelCase, type ReadFrom, readExpression } from '../toolchains/read-from.js';
import { describeVariable, emitKind, inlinedIn, isAlwaysThere, madeBy, valueFor } from './kind.js';

/** How a text becomes what code gets: the helper's name and its source. One line a conversion. */
const conversions = {
  text: '',
  number: 'const number = (value: string): number => Number(value);',
  flag: "const flag = (value: string): boolean => value === 'true' || value === '1';",
  json: 'const json = (value: string): unknown => JSON.parse(value);',
  list: "const list = <T>(value: string, item: (text: string) => T): readonly T[] => value.split(',').map((one) => item(one.trim()));",
} as const;

const given = `function given(name: string, value: string | undefined): string {
  if (value === undefined || value === '') throw new Error(\`\${name} has no value in this build; run "adder values" to see why\`);
  return value;
}`;

const optional = `function optional<T>(value: string | undefined, to: (text: string) => T): T | undefined {
  return value === undefined || value === '' ? undefined : to(value);
}`;

/**
 * The same exports with the values of one stage: for builders that put one of several files in place of another. Each has
 * its type in full, so that the files of all stages have one shape. Public values alone, whatever the contract has.
 */
const moduleOfValues = emitKind({
  name: 'module',
  summary: '',
  takes: ['bundle', 'resolution'],
  emit({ contract, bundle, resolution, call }) {
    const later = runtimeVariables(contract, bundle);
    const inlined = inlinedIn(contract, bundle).map((variable) => {
      const value = valueFor(resolution, variable, 'module is');
      const always = isAlwaysThere(contract, variable);
      const literal = value ? valueLiteral(variable, reveal(value)) : 'undefined';
      const about = describeVariable(variable);
      const type = `${variable.form.type.typescript}${always ? '' : ' | undefined'}`;
      return `${about === '' ? '' : `/** ${about} */\n`}export const ${variable.name}: ${type} = ${literal};`;
    });
    return [
      `// ${madeBy(call, contract)} It contains the public values of ${resolution.stage.name}.`,
      '',
      ...(later.length > 0 ? [loadedHelper(true), ''] : []),
      [...inlined, ...later.map((variable) => laterAccessor(contract, variable))].join('\n\n'),
      '',
    ].join('\n');
  },
});

/**
 * A typed accessor module: one literal read for each variable, so that every bundler replaces it, and a clear error at
 * load for a missing one. It contains no values. The server's module imports a module that only a server has, so a browser
 * build that includes it fails; with a bundler that replaces it by an empty module, the page fails at load.
 */
export const module = emitKind({
  name: 'module',
  summary:
    'typed accessors with literal reads and conversions (--side server for the server, --with-values for values instead of reads)',
  takes: ['bundle', 'side'],
  withValues: moduleOfValues,
  emit({ contract, bundle, side, call }) {
    const isServer = side === 'server';
    const variables = isServer ? serverVariables(contract) : inlinedIn(contract, bundle);
    const source = readsFrom(bundle);
    if (!isServer && source.kind === 'compiled')
      throw new Failure(`${bundle.name} is Dart code, and this kind writes TypeScript`, 'run `adder emit dart`');
    // A module of the framework has the values as its exports.
    const module = !isServer && source.kind === 'module' ? source.specifier : undefined;
    const from: ReadFrom = isServer || module !== undefined ? { kind: 'object', path: 'env' } : source;
    const later = isServer ? [] : runtimeVariables(contract, bundle);
    const inlined = variables.map((variable) =>
      accessor(contract, variable, from, isServer ? variable.name : nameIn(bundle, variable)),
    );
    const accessors = [...inlined, ...later.map((variable) => laterAccessor(contract, variable))];
    const helpers = Object.entries(conversions).flatMap(([name, source]) => {
      const isUsed = source !== '' && accessors.some((text) => new RegExp(`[ (,]${name}[()]`).test(text));
      return isUsed ? [source] : [];
    });
    const uses = (helper: string) =>
      accessors.some((text) => text.includes(`= ${helper}(`) || text.includes(`(${helper}(`));
    return [
      `// ${madeBy(call, contract)} It contains no values.`,
      ...(isServer
        ? ['// For servers only: browsers do not have this module.', "import { env } from 'node:process';"]
        : []),
      ...(module === undefined ? [] : [`import * as env from '${module}';`]),
      ...(from.kind === 'constant' ? ['', ...variables.map((one) => declared(from, nameIn(bundle, one)))] : []),
      '',
      ...(later.length > 0 ? [loadedHelper(true), ''] : []),
      ...(uses('given') ? [given, ''] : []),
      ...(uses('optional') ? [optional, ''] : []),
      ...(helpers.length > 0 ? [...helpers, ''] : []),
      accessors.join('\n\n'),
      '',
    ].join('\n');
  },
});

function laterAccessor(contract: Contract, variable: Variable): string {
  const { name, form } = variable;
  const about = describeVariable(variable);
  const isNeeded = isAlwaysThere(contract, variable);
  const type = `${form.type.typescript}${isNeeded ? '' : ' | undefined'}`;
  return `${about === '' ? '' : `/** ${about} */\n`}export const ${name} = ${loadedExpression(variable, isNeeded)} as ${type};`;
}

/** One of the choices of a server variable is its value, so the module does not have them. */
function serverVariables(contract: Contract): Variable[] {
  const all = [...contract.variables.values()].filter(({ reach }) => reach === 'server');
  return all.map((variable) => ({ ...variable, form: withoutChoices(variable.form) }));
}

/** Type of a constant that the build inlines, as the compiler sees it. */
function declared(from: ReadFrom, name: string): string {
  return `declare const ${readExpression(from, name)}: string | undefined;`;
}

function accessor(contract: Contract, variable: Variable, from: ReadFrom, readAs: string): string {
  const { name, form } = variable;
  const read = readExpression(from, readAs);
  const about = describeVariable(variable);
  const comment = about === '' ? '' : `/** ${about} */\n`;
  const type = form.type.typescript;
  if (isBareConstant(from)) return bareAccessor(contract, variable, readAs, comment);
  if (isAlwaysThere(contract, variable)) {
    return `${comment}export const ${name}: ${type} = ${convert(form, `given('${readAs}', ${read})`)};`;
  }
  return `${comment}export const ${name}: ${type} | undefined = optional(${read}, (text) => ${convert(form, 'text')});`;
}

/** A constant without text around its name, which an export of the same name would hide. */
function isBareConstant(from: ReadFrom): boolean {
  return from.kind === 'constant' && from.before === '' && from.after === '';
}

function bareAccessor(contract: Contract, variable: Variable, readAs: string, comment: string): string {
  const { name, form } = variable;
  const local = `${camelCase(name)}Value`;
  const type = form.type.typescript;
  // Without the define option the name does not exist.
  const read = `typeof ${readAs} === 'undefined' ? undefined : ${readAs}`;
  const declared = isAlwaysThere(contract, variable)
    ? `const ${local}: ${type} = ${convert(form, `given('${readAs}', ${read})`)};`
    : `const ${local}: ${type} | undefined = optional(${read}, (text) => ${convert(form, 'text')});`;
  return `${comment}${declared}\nexport { ${local} as ${name} };`;
}

function convert(form: Form, text: string): string {
  const kind = conversionOf(form);
  if (kind === 'list') return `list(${text}, ${itemConversion(form.of)})`;
  if (kind !== 'text') return `${kind}(${text})`;
  return form.type.typescript === 'string' ? text : `${text} as ${form.type.typescript}`;
}

function itemConversion(of: Form | undefined): string {
  const kind = of ? conversionOf(of) : 'text';
  if (kind !== 'text') return kind;
  const type = of?.type.typescript ?? 'string';
  return type === 'string' ? '(text) => text' : `(text) => text as ${type}`;
}

function conversionOf({ name, type }: Form): keyof typeof conversions {
  if (name === 'list' || name === 'json' || name === 'flag') return name;
  return type.typescript === 'number' ? 'number' : 'text';
}
