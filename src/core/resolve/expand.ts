import type { Template } from '../envfile/ast.js';
import { narrower, type Reach } from '../findings/reach.js';
import { limits } from '../limits/index.js';
import { reveal, Secret } from '../secrets/secret.js';
import { count } from '../text/display.js';
import { describeSource, type Offer } from './layer.js';

/** What a value became, and what it took in. */
export interface Expanded {
  text: Secret;
  /** The narrowest reach of all that is in the text. */
  reach: Reach;
  /** The names whose values were taken in, each once. */
  tookIn: string[];
}

export type ExpansionProblem = {
  code: 'value/cycle' | 'value/unknown-reference' | 'value/malformed';
  message: string;
  remedy: string;
};

export type Expansion = Expanded | ExpansionProblem;

export function isProblem(expansion: Expansion): expansion is ExpansionProblem {
  return 'code' in expansion;
}

/** What expansion asks of the stage. */
export interface Lookup {
  /** All offers of a name, in the order of layers and lines. */
  offers(name: string): readonly Offer[];
  default(name: string): Secret | undefined;
  reach(name: string): Reach;
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
    if (this.#open.length >= limits.referenceLinks.value)
      return tooMuch(`has a chain of more than ${limits.referenceLinks.value} references`);
    this.#open.push(offer);
    const result = this.#value(offer);
    this.#open.pop();
    if (this.#open.length === 0 || !isProblem(result) || result.code !== 'value/cycle') this.#done.set(offer, result);
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
      if (text.length > limits.expandedCharacters.value)
        return tooMuch(`expands to more than ${count(limits.expandedCharacters.value, 'character')}`);
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
    const code = 'value/unknown-reference';
    const isShown = isEmpty || name === offer.name || this.lookup.reach(offer.name) === 'public' || looksLikeName(name);
    if (!isShown)
      return {
        code,
        message: 'contains a $ that starts a reference to a name that is not set in this stage',
        remedy: 'write \\$ for a dollar sign, or put the value in single quotes',
      };
    return {
      code,
      message: `refers to ${name}, which ${isEmpty ? 'is empty' : 'is not set in this stage'}`,
      remedy: `set ${name} in a layer of the stage, or write a fallback: \${${name}:-text}; write \\$ for a dollar sign`,
    };
  }

  #cycle(offer: Offer): ExpansionProblem {
    const chain = [...this.#open.slice(this.#open.indexOf(offer)), offer];
    const shown = chain.map(({ name, source }) => `${name} (${describeSource(source)})`).join(' → ');
    return {
      code: 'value/cycle',
      message: `cannot be expanded because values refer to each other in a circle: ${shown}`,
      remedy: 'write one of these values without a reference',
    };
  }
}

function tooMuch(message: string): ExpansionProblem {
  return { code: 'value/malformed', message, remedy: 'use fewer references' };
}

const nothing: Expanded = { text: new Secret(''), reach: 'public', tookIn: [] };

/** A password may contain a dollar sign, so the text after it is shown only if it looks like a name. */
function looksLikeName(name: string): boolean {
  return /^[A-Z][A-Z0-9]*(_[A-Z0-9]+)+$/.test(name);
}
