import type { Bundle, Contract, Variable } from '../contract/contract.js';
import { belongsTo, nameIn } from '../contract/names.js';
import type { Resolution } from '../resolve/resolve.js';
import { reveal } from '../secrets/secret.js';
import { sha384 } from '../text/hash.js';
import { toolchainOf } from '../toolchains/index.js';
import { valueLiteral } from './literal.js';

/** The name under which a page's values are found. */
export const PAGE_VALUES = 'adderValues';

/** How the values file of a page begins. */
export const PAGE_START = `globalThis.${PAGE_VALUES} = `;

/** The command that writes a values file, as words. */
export function emitRuntime(stage: string, bundle: string, into: string): string[] {
  return ['adder', 'emit', 'runtime', '--stage', stage, '--bundle', bundle, '--into', into];
}

/** The path of a file of values, as Adder or somebody after it called it. */
export const VALUES_FILE = /adder-?values[^/]*\.[cm]?js$/i;

/** The name of a page's values file, with any digest, or without one, as somebody may have renamed it. */
export const PAGE_FILE = /^adder-values(\.[0-9a-f]{12})?\.js$/;

/** The file of values that an app reads when it loads. */
export interface RuntimeFile {
  /** Carries a digest of the content, so that it may be cached for ever. */
  name: string;
  text: string;
  /** For the script tag: Subresource Integrity (W3C), SHA-384. */
  integrity: string;
}

/** The public variables that are delivered to a bundle when it loads. The file contains nothing else. */
export function runtimeVariables(contract: Contract, bundle: Bundle): Variable[] {
  return [...contract.variables.values()].filter(
    (variable) => variable.reach === 'public' && variable.delivery === 'runtime' && belongsTo(bundle, variable),
  );
}

/** Public variables that the server of a bundle's framework fills in when it starts, by their names in code, with and without prefix. */
export function startedVariables(contract: Contract, bundle: Bundle): Map<string, Variable> {
  const { startedIn, reads } = toolchainOf(bundle);
  const prefix = reads.find(({ time, side }) => time === 'run' && side === 'any')?.prefix;
  if (!startedIn || prefix === undefined) return new Map();
  const own = [...contract.variables.values()].filter((one) => one.reach === 'public' && belongsTo(bundle, one));
  return new Map(
    own.flatMap((variable) => {
      const name = nameIn(bundle, variable);
      return name.startsWith(prefix) ? [name, name.slice(prefix.length)].map((one) => [one, variable] as const) : [];
    }),
  );
}

/** The load-time variables of a bundle that a values file delivers. */
export function valuesFileVariables(contract: Contract, bundle: Bundle): Variable[] {
  const started = new Set(startedVariables(contract, bundle).values());
  return runtimeVariables(contract, bundle).filter((one) => !started.has(one));
}

/** The file of one stage: a script without anything that a content security policy forbids. */
export function runtimeFile(contract: Contract, bundle: Bundle, resolution: Resolution): RuntimeFile {
  const text = `${PAGE_START}${objectLiteral(contract, bundle, resolution)};\n`;
  return { ...digestName(text), text };
}

/** The name of a values file with this text, and the digest for its tag. */
export function digestName(text: string): Pick<RuntimeFile, 'name' | 'integrity'> {
  const digest = sha384(text);
  return {
    name: `adder-values.${digest.toString('hex').slice(0, 12)}.js`,
    integrity: `sha384-${digest.toString('base64')}`,
  };
}

/**
 * The same values as a module that an app imports first. For mobile and desktop shells: their package is built for one
 * stage anyway, and they have no served page that could load a file.
 */
export function runtimeConstants(contract: Contract, bundle: Bundle, resolution: Resolution): string {
  return [
    `export const ${PAGE_VALUES} = ${objectLiteral(contract, bundle, resolution)};`,
    `globalThis.${PAGE_VALUES} = ${PAGE_VALUES};\n`,
  ].join('\n');
}

function objectLiteral(contract: Contract, bundle: Bundle, resolution: Resolution): string {
  const members = runtimeEntries(contract, bundle, resolution).map(([name, literal]) => `  ${name}: ${literal},\n`);
  return `Object.freeze({\n${members.join('')}})`;
}

/** The same values as JSON, for an app that fetches them. */
export function runtimeJson(contract: Contract, bundle: Bundle, resolution: Resolution): string {
  const members = runtimeEntries(contract, bundle, resolution).map(
    ([name, literal]) => `  ${JSON.stringify(name)}: ${asJson(literal)}`,
  );
  return members.length === 0 ? '{}\n' : `{\n${members.join(',\n')}\n}\n`;
}

/** A literal of {@link valueLiteral} as JSON, if it can be JSON. */
function asJson(literal: string): string {
  const text = /^JSON\.parse\((.*)\)$/.exec(literal)?.[1];
  return text === undefined ? literal : JSON.parse(text);
}

/** The values that a stage has, as JavaScript literals, by name. */
export function runtimeEntries(contract: Contract, bundle: Bundle, { values }: Resolution): [string, string][] {
  return runtimeVariables(contract, bundle).flatMap((variable) => {
    const value = values.get(variable.name)?.value;
    const literal = value ? valueLiteral(variable, reveal(value)) : 'undefined';
    return literal === 'undefined' ? [] : [[variable.name, literal] as [string, string]];
  });
}

/** The values in a text that {@link runtimeFile} or {@link runtimeConstants} gave, as literals; undefined for any other text. */
export function parseRuntimeFile(text: string): Map<string, string> | undefined {
  const body = /^(?:globalThis\.|export const )adderValues = Object\.freeze\(\{\n([\s\S]*?)\}\);\n/.exec(text)?.[1];
  if (body === undefined) return undefined;
  const entries = [...body.matchAll(/^ {2}(\w+): (.*),\n/gm)];
  return entries.map(([line]) => line).join('') === body
    ? new Map(entries.map(([, name = '', literal = '']) => [name, literal]))
    : undefined;
}

/**
 * The function through which generated code reads a value of the page. It throws a clear error if the file was not loaded
 * or lacks the value.
 * @param typed as TypeScript
 */
export function loadedHelper(typed: boolean): string {
  const [ofNames, back, cast] = typed
    ? [
        'name: string, isNeeded: boolean',
        ': unknown',
        `(globalThis as { ${PAGE_VALUES}?: Readonly<Record<string, unknown>> })`,
      ]
    : ['name, isNeeded', '', 'globalThis'];
  return `function loaded(${ofNames})${back} {
  const values = ${cast}.${PAGE_VALUES};
  if (!values) throw new Error('the values file of this page was not loaded before the app; "adder emit runtime --into" writes it');
  if (isNeeded && values[name] === undefined) throw new Error(\`\${name} is not in the values file of this page; run "adder values" to see why\`);
  return values[name];
}`;
}

/** How generated code reads one value, with the contract's default for a missing one. */
export function loadedExpression(variable: Variable, isNeeded: boolean): string {
  const fallback = variable.default && valueLiteral(variable, reveal(variable.default));
  return fallback === undefined || fallback === 'undefined'
    ? `loaded('${variable.name}', ${isNeeded})`
    : `(loaded('${variable.name}', false) ?? ${fallback})`;
}
