import type { Contract, Variable } from '../contract/contract.js';
import { nameIn, readsFrom } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import { type Form, withoutChoices } from '../forms/index.js';
import { stringLiteral, valueLiteral } from '../runtime/literal.js';
import { loadedExpression, loadedHelper, runtimeVariables } from '../runtime/runtime.js';
import { reveal } from '../secrets/secret.js';
import { camelCase, type ReadFrom, readExpression } from '../toolchains/read-from.js';
import { describeVariable, type EmitRequest, emitKind, inlinedIn, isAlwaysThere, madeBy, valueFor } from './kind.js';

/** Writes a type where the language of the module has types, and nothing in JavaScript. */
type Typed = (annotation: string) => string;

function typedIn(language: EmitRequest['language']): Typed {
  return (annotation) => (language === 'typescript' ? annotation : '');
}

/** The conversions of texts: each helper's name and source. One line a conversion. */
const conversions = {
  text: () => '',
  number: (t: Typed) => `const number = (value${t(': string')})${t(': number')} => Number(value);`,
  flag: (t: Typed) => `const flag = (value${t(': string')})${t(': boolean')} => value === 'true' || value === '1';`,
  json: (t: Typed) => `const json = (value${t(': string')})${t(': unknown')} => JSON.parse(value);`,
  list: (t: Typed) =>
    `const list = ${t('<T>')}(value${t(': string')}, item${t(': (text: string) => T')})${t(': readonly T[]')} => value.split(',').map((one) => item(one.trim()));`,
};

/** Helpers of accessors, each with its source. */
const helpers = {
  given: (t: Typed) => `function given(name${t(': string')}, value${t(': string | undefined')})${t(': string')} {
  if (value === undefined || value === '') throw new Error(\`\${name} has no value in this build; run "adder values" to see why\`);
  return value;
}`,
  allowed: (
    t: Typed,
  ) => `function allowed(name${t(': string')}, value${t(': string')}, isValid${t(': (text: string) => boolean')})${t(': string')} {
  if (!isValid(value)) throw new Error(\`\${name} has a value that the contract does not allow; run "adder values" to see why\`);
  return value;
}`,
  optional: (
    t: Typed,
  ) => `function optional${t('<T>')}(value${t(': string | undefined')}, to${t(': (text: string) => T')})${t(': T | undefined')} {
  return value === undefined || value === '' ? undefined : to(value);
}`,
};

/**
 * The same exports with the values of one stage: for builders that put one of several files in place of another. Each has
 * its type in full, so that the files of all stages have one shape. Public values alone, whatever the contract has.
 */
const moduleOfValues = emitKind({
  name: 'module',
  summary: '',
  takes: ['bundle', 'resolution', 'language'],
  emit({ contract, bundle, resolution, language, call }) {
    const t = typedIn(language);
    const later = runtimeVariables(contract, bundle);
    const inlined = inlinedIn(contract, bundle).map((variable) => {
      const value = valueFor(resolution, variable, 'module is');
      const always = isAlwaysThere(contract, variable);
      const literal = value ? valueLiteral(variable, reveal(value)) : 'undefined';
      const type = `${variable.form.type.typescript}${always ? '' : ' | undefined'}`;
      return `${commentOf(variable, type, t)}export const ${variable.name}${t(`: ${type}`)} = ${literal};`;
    });
    return [
      `// ${madeBy(call, contract)} It contains the public values of ${resolution.stage.name}.`,
      '',
      ...(later.length > 0 ? [loadedHelper(language === 'typescript'), ''] : []),
      [...inlined, ...later.map((variable) => laterAccessor(contract, variable, t))].join('\n\n'),
      '',
    ].join('\n');
  },
});

/**
 * A typed accessor module: one literal read for each variable, so that every bundler replaces it, and a clear error at
 * load for a missing one. It contains no values. The server's module checks the rules of the contract as it loads, since a server gets
 * its values without `adder with`; it reads `process`, which servers and edge runtimes have and browsers do not.
 */
export const module = emitKind({
  name: 'module',
  summary:
    'typed accessors with literal reads and conversions (--side server for the server, --with-values for values instead of reads)',
  takes: ['bundle', 'side', 'language'],
  withValues: moduleOfValues,
  emit({ contract, bundle, side, language, call }) {
    const isServer = side === 'server';
    const t = typedIn(language);
    const variables = isServer ? serverVariables(contract) : inlinedIn(contract, bundle);
    const source = readsFrom(bundle);
    if (!isServer && source.kind === 'compiled')
      throw new Failure(`${bundle.name} is Dart code, and this kind writes TypeScript`, 'run `adder emit dart`');
    // A module of the framework has the values as its exports.
    const module = !isServer && source.kind === 'module' ? source.specifier : undefined;
    const from: ReadFrom = isServer || module !== undefined ? { kind: 'object', path: 'env' } : source;
    const later = isServer ? [] : runtimeVariables(contract, bundle);
    const how = { contract, from, t, isChecked: isServer };
    const inlined = variables.map((variable) =>
      accessor(variable, isServer ? variable.name : nameIn(bundle, variable), how),
    );
    const accessors = [...inlined, ...later.map((variable) => laterAccessor(contract, variable, t))];
    const uses = (name: string) => accessors.some((text) => new RegExp(`[ (,]${name}[()]`).test(text));
    const used = Object.entries({ ...helpers, ...conversions }).filter(([name]) => name !== 'text' && uses(name));
    return [
      `// ${madeBy(call, contract)} It contains no values.`,
      ...(isServer ? [SERVER_HEAD] : []),
      ...(module === undefined ? [] : [`import * as env from '${module}';`]),
      ...(from.kind === 'constant' && language === 'typescript'
        ? ['', ...variables.map((one) => declared(from, nameIn(bundle, one)))]
        : []),
      '',
      ...(later.length > 0 ? [loadedHelper(language === 'typescript'), ''] : []),
      ...used.flatMap(([, write]) => [write(t), '']),
      accessors.join('\n\n'),
      '',
    ].join('\n');
  },
});

const SERVER_HEAD = `// For servers only: a browser has no \`process\`.
if (typeof process === 'undefined') throw new Error('this module is for servers, and a browser has loaded it');
const { env } = process;`;

/** How accessors are written. */
interface How {
  contract: Contract;
  from: ReadFrom;
  t: Typed;
  /** Tells whether each value is checked by the rules of the contract. */
  isChecked: boolean;
}

function laterAccessor(contract: Contract, variable: Variable, t: Typed): string {
  const { name, form } = variable;
  const isNeeded = isAlwaysThere(contract, variable);
  const type = `${form.type.typescript}${isNeeded ? '' : ' | undefined'}`;
  return `${commentOf(variable, type, t)}export const ${name} = ${loadedExpression(variable, isNeeded)}${t(` as ${type}`)};`;
}

/** The comment above an accessor: what the contract says, and in JavaScript the type. */
function commentOf(variable: Variable, type: string, t: Typed): string {
  const ofType = t('typed') === '' ? `@type {${type}}` : '';
  const text = [describeVariable(variable), ofType].filter((one) => one !== '').join(' ');
  return text === '' ? '' : `/** ${text} */\n`;
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

function accessor(variable: Variable, readAs: string, how: How): string {
  const { name, form } = variable;
  const { contract, from, t } = how;
  if (isBareConstant(from)) return bareAccessor(variable, readAs, how);
  const isThere = isAlwaysThere(contract, variable);
  const type = `${form.type.typescript}${isThere ? '' : ' | undefined'}`;
  const read = readExpression(from, readAs);
  return `${commentOf(variable, type, t)}export const ${name}${t(`: ${type}`)} = ${expressionOf(variable, readAs, read, how)};`;
}

/** The expression of a value in the type of its form. */
function expressionOf(variable: Variable, readAs: string, read: string, { contract, t, isChecked }: How): string {
  const { form } = variable;
  const rule = isChecked ? ruleOf(variable) : undefined;
  const checked = (text: string) => (rule === undefined ? text : `allowed('${readAs}', ${text}, (text) => ${rule})`);
  return isAlwaysThere(contract, variable)
    ? convert(form, checked(`given('${readAs}', ${read})`), t)
    : `optional(${read}, (text) => ${convert(form, checked('text'), t)})`;
}

/** The rules of the contract for a value in every stage, as an expression over `text`; undefined if any text fits. */
function ruleOf({ form, min, max, pattern, slash }: Variable): string | undefined {
  const measure = form.measure === 'size' ? 'Number(text)' : '[...text].length';
  const rules = [
    form.valid === 'true' ? [] : `(${form.valid})`,
    min === undefined ? [] : `${measure} >= ${min}`,
    max === undefined ? [] : `${measure} <= ${max}`,
    pattern === undefined ? [] : `new RegExp(${stringLiteral(`^(?:${pattern.source})$`)}, 'u').test(text)`,
    slash === undefined ? [] : `${slash === 'never' ? '!' : ''}text.endsWith('/')`,
  ].flat();
  return rules.length === 0 ? undefined : rules.join(' && ');
}

/** A constant without text around its name, which an export of the same name would hide. */
function isBareConstant(from: ReadFrom): boolean {
  return from.kind === 'constant' && from.before === '' && from.after === '';
}

function bareAccessor(variable: Variable, readAs: string, how: How): string {
  const { name, form } = variable;
  const { contract, t } = how;
  const local = `${camelCase(name)}Value`;
  const type = `${form.type.typescript}${isAlwaysThere(contract, variable) ? '' : ' | undefined'}`;
  // Without the define option the name does not exist.
  const read = `typeof ${readAs} === 'undefined' ? undefined : ${readAs}`;
  const declared = `const ${local}${t(`: ${type}`)} = ${expressionOf(variable, readAs, read, how)};`;
  return `${commentOf(variable, type, t)}${declared}\nexport { ${local} as ${name} };`;
}

function convert(form: Form, text: string, t: Typed): string {
  const kind = conversionOf(form);
  if (kind === 'list') return `list(${text}, ${itemConversion(form.of, t)})`;
  if (kind !== 'text') return `${kind}(${text})`;
  return form.type.typescript === 'string' ? text : `${text}${t(` as ${form.type.typescript}`)}`;
}

function itemConversion(of: Form | undefined, t: Typed): string {
  const kind = of ? conversionOf(of) : 'text';
  if (kind !== 'text') return kind;
  const type = of?.type.typescript ?? 'string';
  return `(text) => text${type === 'string' ? '' : t(` as ${type}`)}`;
}

function conversionOf({ name, type }: Form): keyof typeof conversions {
  if (name === 'list' || name === 'json' || name === 'flag') return name;
  return type.typescript === 'number' ? 'number' : 'text';
}
