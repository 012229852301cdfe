import type { Bundle, Contract, Variable } from '../contract/contract.js';
import { belongsTo, nameIn, prefixOf } from '../contract/names.js';
import { joinedName } from '../resolve/keyed.js';
import { joinWords, nearest } from '../text/nearest.js';
import { toolchainOf, toolchains } from '../toolchains/index.js';
import { isToolName } from '../toolchains/known-names.js';
import { camelCase, readExpression, readFrom } from '../toolchains/read-from.js';
import { type BuildSettings, noSettings } from '../toolchains/settings.js';
import { defaultPrefixes } from '../toolchains/toolchain.js';

/** Meaning of a name in a bundle's code. */
export type Meaning =
  /** A public variable, under the name that this bundle reads it by. */
  | { kind: 'public'; variable: Variable }
  /** A public variable whose value this bundle does not get. */
  | { kind: 'elsewhere'; variable: Variable; because: string }
  /** A build or server variable. */
  | { kind: 'withheld'; variable: Variable }
  /** A public variable under a name that this bundle does not have. */
  | { kind: 'misnamed'; variable: Variable; mistake: string; right: string }
  /** Names that the build tool or the runtime sets. */
  | { kind: 'builtIn' }
  | { kind: 'unknown'; near: readonly string[] };

const prefixes = [...new Set(Object.values(toolchains).flatMap(defaultPrefixes))];

/** Answers what the names in a bundle's code mean. */
export class Names {
  /** Names of this bundle's code to their public variables. */
  readonly #public = new Map<string, Variable>();
  readonly #contract: Contract;

  constructor(
    contract: Contract,
    readonly bundle: Bundle,
    readonly configured: Pick<BuildSettings, 'inlined' | 'passes' | 'renamed'> = noSettings,
  ) {
    this.#contract = contract;
    for (const variable of contract.variables.values())
      if (variable.reach === 'public' && belongsTo(bundle, variable))
        this.#public.set(nameIn(bundle, variable), variable);
  }

  /** @param object what the code reads from, as the entry of `reads` says */
  meaningOf(name: string, object: string): Meaning {
    const passed = this.#passed(name, object);
    if (passed) return passed;
    const from = readFrom(object)?.kind;
    if (from === 'config') return this.#ofKey(name);
    const known = from === 'live' ? this.#public.get(name) : undefined;
    return known ? { kind: 'public', variable: known } : this.meaning(name);
  }

  /** Meaning of a name that a configuration gives a value to. A constant of the configuration is no concern of the contract. */
  #passed(name: string, object: string): Meaning | undefined {
    const from = readFrom(object);
    const written = from && readExpression(from, name);
    const passes = this.configured.passes.filter(({ read }) => read === name || read === written);
    if (passes.length === 0) return undefined;
    const carried = passes.flatMap(({ carries }) => [...carries.keys()]);
    const variables = carried.flatMap((one) => this.#contract.variables.get(one) ?? []);
    if (variables.length < carried.length) return undefined;
    const [first] = variables;
    const withheld = variables.find(({ reach }) => reach !== 'public');
    if (withheld) return { kind: 'withheld', variable: withheld };
    return first ? { kind: 'public', variable: first } : { kind: 'builtIn' };
  }

  /**
   * A key of a framework's configuration, which the environment overrides by a name of its own. Other keys of the
   * configuration, and its values, are no concern of the contract.
   */
  #ofKey(key: string): Meaning {
    const configured = this.#renamed(key);
    if (configured) return configured;
    const keys = key.split('.');
    for (let count = keys.length; count > 0; count--) {
      const name = joinedName(keys.slice(0, count));
      const [known] = ['', ...this.bundle.prefixes].flatMap((prefix) => this.#public.get(prefix + name) ?? []);
      if (known) return { kind: 'public', variable: known };
      const found = this.#contract.variables.get(name);
      if (found && found.reach !== 'public') return { kind: 'withheld', variable: found };
    }
    // Frameworks name keys in camel case; a configuration that hands values to the app names them as it likes.
    const written = /^[A-Z\d_]+$/.test(key) ? (name: string) => name : camelCase;
    const { inlined } = this.configured;
    const names = this.#plainNames().map((name) => written(withoutPrefixes(name, this.bundle.prefixes)));
    const near = inlined.includes(keys[0] ?? '') ? [] : nearest(key, [...names, ...inlined]);
    return near.length === 0 ? { kind: 'builtIn' } : { kind: 'unknown', near };
  }

  /** Public names that no configuration replaces by another one. */
  #plainNames(): string[] {
    const replaced = new Set(Object.values(this.configured.renamed));
    return [...this.#public.keys()].filter((name) => !replaced.has(name));
  }

  /** Meaning of a name that gets the value of another one from a configuration. */
  #renamed(name: string): Meaning | undefined {
    const read = this.configured.renamed[name];
    const variable = read === undefined ? undefined : (this.#public.get(read) ?? this.#contract.variables.get(read));
    if (!variable) return undefined;
    return variable.reach === 'public' ? { kind: 'public', variable } : { kind: 'withheld', variable };
  }

  meaning(name: string): Meaning {
    const known = this.#public.get(name);
    if (known)
      return known.delivery === 'runtime'
        ? this.#elsewhere(known, 'it is delivered when the app loads')
        : { kind: 'public', variable: known };
    const renamed = this.#renamed(name);
    if (renamed) return renamed;
    const { variables } = this.#contract;
    const plain = variables.get(name);
    if (plain && plain.reach !== 'public') return { kind: 'withheld', variable: plain };
    const bare = variables.get(withoutPrefixes(name, this.bundle.prefixes));
    if (bare && bare.reach !== 'public') return { kind: 'withheld', variable: bare };
    const variable = plain ?? bare;
    if (variable && !belongsTo(this.bundle, variable))
      return this.#elsewhere(variable, `the contract does not list ${this.bundle.name} in its \`bundles\``);
    if (variable) return this.#misnamed(variable, name);
    if (isToolName(name, toolchainOf(this.bundle))) return { kind: 'builtIn' };
    return { kind: 'unknown', near: nearest(name, [...this.#plainNames(), ...Object.keys(this.configured.renamed)]) };
  }

  #elsewhere(variable: Variable, because: string): Meaning {
    return { kind: 'elsewhere', variable, because };
  }

  #misnamed(variable: Variable, name: string): Meaning {
    const right = nameIn(this.bundle, variable);
    return { kind: 'misnamed', variable, mistake: this.#mistake(name, right), right };
  }

  #mistake(name: string, right: string): string {
    const own = this.bundle.prefixes;
    const doubled = own.find((prefix) => name.startsWith(prefix + prefix));
    if (doubled !== undefined) return `the prefix ${doubled} is written twice`;
    const other = prefixes.find((one) => !own.includes(one) && name.startsWith(one));
    const shown = own.length === 0 ? 'no prefix' : `the prefix ${joinWords(own, 'or')}`;
    if (other !== undefined) return `this bundle has ${shown}, not ${other}`;
    const isMissing = own.length > 0 && prefixOf(this.bundle, name) === undefined;
    return isMissing ? `the prefix ${joinWords(own, 'or')} is missing` : `this bundle reads it as ${right}`;
  }
}

/** A name without the prefixes before it, the bundle's own and those that tools usually have. */
function withoutPrefixes(name: string, own: readonly string[]): string {
  let rest = name;
  for (;;) {
    const prefix = [...own, ...prefixes].find((one) => rest.startsWith(one) && rest.length > one.length);
    if (prefix === undefined) return rest;
    rest = rest.slice(prefix.length);
  }
}
