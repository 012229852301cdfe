import { once } from '../text/once.js';

/** How one character is escaped between its neighbours; undefined leaves it to the next rule, and in the end as it is. */
export type Escape = (character: string, next: string, before: string) => string | undefined;

/** Results of all escapes for one match: the different texts, and the one that each escape writes. */
interface Escaped {
  texts: string[];
  byWay: Uint16Array;
}

/**
 * All forms of a text under several ways of escaping. Most ways escape a text's few special characters alike. So each
 * character is escaped once for all texts, and a form is built only if it is new.
 */
export class Escaper {
  readonly #known = new Map<string, Escaped>();
  readonly #ways: () => readonly (readonly Escape[])[];

  /**
   * @param special characters that a rule may know, global; a match of several characters tells a rule the neighbours that it has to know
   * @param ways lists of rules; the first with a rule for a character decides. Made at first use: most calls encode nothing so.
   */
  constructor(
    readonly special: RegExp,
    ways: () => readonly (readonly Escape[])[],
  ) {
    this.#ways = once(ways);
  }

  /** Each form once. */
  *forms(text: string): Generator<string, void, undefined> {
    const matches = [...text.matchAll(this.special)];
    const distinct = [...new Set(matches.map(([match]) => match))];
    const escaped = new Map(distinct.map((match) => [match, this.#escaped(match)]));
    for (const way of this.#differing([...escaped.values()])) {
      let form = '';
      let at = 0;
      for (const { 0: match, index } of matches) {
        const { texts, byWay } = escaped.get(match) as Escaped;
        form += text.slice(at, index) + texts[byWay[way] as number];
        at = index + match.length;
      }
      yield form + text.slice(at);
    }
  }

  /** The first of the ways that write all of some matches alike. */
  #differing(all: readonly Escaped[]): number[] {
    let groups = new Uint16Array(this.#ways().length);
    let firsts = [0];
    for (const { texts, byWay } of all) {
      if (texts.length === 1) continue;
      const known = new Map<number, number>();
      firsts = [];
      groups = groups.map((group, way) => {
        const key = group * texts.length + (byWay[way] as number);
        const same = known.get(key);
        if (same !== undefined) return same;
        known.set(key, firsts.length);
        return firsts.push(way) - 1;
      });
    }
    return firsts;
  }

  #escaped(match: string): Escaped {
    const known = this.#known.get(match);
    if (known) return known;
    const texts: string[] = [];
    const byWay = Uint16Array.from(this.#ways(), (rules) => {
      const text = escapeMatch(match, rules);
      return texts.includes(text) ? texts.indexOf(text) : texts.push(text) - 1;
    });
    this.#known.set(match, { texts, byWay });
    return { texts, byWay };
  }
}

function escapeMatch(match: string, rules: readonly Escape[]): string {
  let text = '';
  let before = '';
  for (let at = 0; at < match.length; at += before.length) {
    const character = String.fromCodePoint(match.codePointAt(at) as number);
    const next = match[at + character.length] ?? '';
    text += firstOf(rules, character, next, before);
    before = character;
  }
  return text;
}

function firstOf(rules: readonly Escape[], character: string, next: string, before: string): string {
  for (const rule of rules) {
    const escaped = rule(character, next, before);
    if (escaped !== undefined) return escaped;
  }
  return character;
}
