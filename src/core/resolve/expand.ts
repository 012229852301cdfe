import type { Template } from '../envfile/ast.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { narrower, type Reach } from '../findings/reach.js';
import { limits } from '../limits/index.js';
import { reveal, Secret } from '../secrets/secret.js';
import { describeSource, type Offer } from './layer.js';

/** An expanded value, and the names that it refers to. */
export interface Expanded {
  text: Secret;
  /** The narrowest reach of all that is in the text. */
  reach: Reach;
  /** The names whose values were taken in, each once. */
  tookIn: string[];
}

/** Why a value cannot be expanded, as a finding about the variable with that value. */
export interface ExpansionProblem {
  /** Tells whether the values refer to each other in a circle, which each offer of it sees from its own side. */
  isCycle?: true;
  findingFor(variable: string): RawFinding;
}

export type Expansion = Expanded | ExpansionProblem;

export function isProblem(expansion: Expansion): expansion is ExpansionProblem {
  return 'findingFor' in expansion;
}

/** Questions of the expansion to the stage. */
export interface Lookup {
  /** All offers of a name, in the order of layers and lines. */
  offers(name: string): readonly Offer[];
  default(name: string): Secret | undefined;
  reach(name: string): Reach;
  isDeclared(name: string): boolean;
}

/**
 * Expands references, each offer once. A reference to the line's own name means the value before that line; any other
 * means the value that wins in the stage.
 */
export class Expander {
  readonly #done = new Map<Offer, Expansion>();
  readonly #open: Offer[] = [];

  constructor(readonly lookup: Lookup) {}

  expand(offer: Offer): Expansion {
    const known = this.#done.get(offer);
    if (known) return known;
    if (this.#open.includes(offer)) return this.#cycle(offer);
    if (this.#open.length > limits.referenceLinks.value) return tooMuch('links', limits.referenceLinks.value);
    this.#open.push(offer);
    const result = this.#value(offer);
    this.#open.pop();
    if (this.#open.length === 0 || !isProblem(result) || !result.isCycle) this.#done.set(offer, result);
    return result;
  }

  #value(offer: Offer): Expansion {
    const { value, name } = offer;
    const reach = this.lookup.reach(name);
    if (value.kind === 'plain') return { text: value.text, reach, tookIn: [] };
    const [only, ...others] = value.template;
    if (only?.kind === 'text' && others.length === 0) return { text: new Secret(only.text), reach, tookIn: [] };
    const inner = this.#template(value.template, offer);
    return isProblem(inner) ? inner : { ...inner, reach: narrower(reach, inner.reach) };
  }

  #template(template: Template, offer: Offer): Expansion {
    let text = '';
    let reach: Reach = 'public';
    const tookIn = new Set<string>();
    for (const part of template) {
      if (part.kind === 'text') {
        text += part.text;
        continue;
      }
      const taken = this.#reference(part, offer);
      if (isProblem(taken)) return taken;
      text += reveal(taken.text);
      reach = narrower(reach, taken.reach);
      for (const name of taken.tookIn) tookIn.add(name);
      if (text.length > limits.expandedCharacters.value) return tooMuch('characters', limits.expandedCharacters.value);
    }
    return { text: new Secret(text), reach, tookIn: [...tookIn] };
  }

  /** Shell Command Language, 2.6.2: with a colon, an empty value counts as unset. */
  #reference(part: Extract<Template[number], { kind: 'reference' }>, offer: Offer): Expansion {
    const { name, operator, word = [] } = part;
    const value = this.#named(name, offer);
    if (value && isProblem(value)) return value;
    const isSet = value !== undefined && !(operator?.startsWith(':') && reveal(value.text) === '');
    if (operator?.endsWith('+')) return isSet ? this.#template(word, offer) : nothing;
    if (value && (isSet || operator === undefined)) return { ...value, tookIn: [name, ...value.tookIn] };
    if (operator?.endsWith('-')) return this.#template(word, offer);
    return this.#unset(name, value !== undefined, offer);
  }

  #named(name: string, from: Offer): Expansion | undefined {
    const offers = this.lookup.offers(name);
    const own = offers.indexOf(from);
    const offer = own >= 0 ? offers[own - 1] : offers.at(-1);
    if (offer) return this.expand(offer);
    const text = this.lookup.default(name);
    return text && { text, reach: this.lookup.reach(name), tookIn: [] };
  }

  /** The text after `:?` is not shown: it may hold anything. */
  #unset(name: string, isEmpty: boolean, offer: Offer): ExpansionProblem {
    const isShown = isEmpty || name === offer.name || this.lookup.reach(offer.name) === 'public' || looksLikeName(name);
    const [reach, own] = [this.lookup.reach(name), this.lookup.reach(offer.name)];
    const declare = this.lookup.isDeclared(name) ? undefined : own;
    const isWithheld = declare === undefined && narrower(reach, own) !== own;
    return {
      findingFor: (variable) =>
        isShown
          ? finding('value/unknown-reference', 'name', { variable, name, isEmpty, declare, isWithheld })
          : finding('value/unknown-reference', 'hidden', { variable }),
    };
  }

  #cycle(offer: Offer): ExpansionProblem {
    const offers = [...this.#open.slice(this.#open.indexOf(offer)), offer];
    const chain = offers.map(({ name, source }) => `${name} (${describeSource(source)})`);
    return { isCycle: true, findingFor: (variable) => finding('value/cycle', 'cycle', { variable, chain }) };
  }
}

function tooMuch(variant: 'links' | 'characters', limit: number): ExpansionProblem {
  return { findingFor: (variable) => finding('value/malformed', variant, { variable, limit }) };
}

const nothing: Expanded = { text: new Secret(''), reach: 'public', tookIn: [] };

/** A password may contain a dollar sign, so the text after it is shown only if it looks like a name. */
function looksLikeName(name: string): boolean {
  return /^[A-Z][A-Z0-9]*(_[A-Z0-9]+)+$/.test(name);
}
