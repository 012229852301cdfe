/** How one sign is written between its neighbours; undefined leaves it to the next rule, and in the end as it is. */
export type Escape = (sign: string, next: string, before: string) => string | undefined;

/** What all ways make of one match: the different texts, and which of them each way writes. */
interface Written {
  texts: string[];
  byWay: Uint16Array;
}

/**
 * All forms of a text that some ways of escaping give. Most ways write the few special signs of a text alike: so a sign is asked for
 * once for all texts, and a form is put together only where it is a new one.
 */
export class Escaper {
  readonly #known = new Map<string, Written>();

  /**
   * @param special signs that a rule may know, global; a match of several signs tells a rule the neighbours that it has to know
   * @param ways lists of rules; the first with a rule for a character decides
   */
  constructor(
    readonly special: RegExp,
    readonly ways: readonly (readonly Escape[])[],
  ) {}

  /** Each form once. */
  *forms(text: string): Generator<string, void, undefined> {
    const matches = [...text.matchAll(this.special)];
    const distinct = [...new Set(matches.map(([match]) => match))];
    const written = new Map(distinct.map((match) => [match, this.#written(match)]));
    for (const way of this.#differing([...written.values()])) {
      let form = '';
      let at = 0;
      for (const { 0: match, index } of matches) {
        const { texts, byWay } = written.get(match) as Written;
        form += text.slice(at, index) + texts[byWay[way] as number];
        at = index + match.length;
      }
      yield form + text.slice(at);
    }
  }

  /** The first of the ways that write all of some matches alike. */
  #differing(all: readonly Written[]): number[] {
    let groups = new Uint16Array(this.ways.length);
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

  #written(match: string): Written {
    const known = this.#known.get(match);
    if (known) return known;
    const texts: string[] = [];
    const byWay = Uint16Array.from(this.ways, (rules) => {
      const text = escaped(match, rules);
      return texts.includes(text) ? texts.indexOf(text) : texts.push(text) - 1;
    });
    this.#known.set(match, { texts, byWay });
    return { texts, byWay };
  }
}

function escaped(match: string, rules: readonly Escape[]): string {
  let text = '';
  let before = '';
  for (let at = 0; at < match.length; at += before.length) {
    const sign = String.fromCodePoint(match.codePointAt(at) as number);
    const next = match[at + sign.length] ?? '';
    text += firstOf(rules, sign, next, before);
    before = sign;
  }
  return text;
}

function firstOf(rules: readonly Escape[], sign: string, next: string, before: string): string {
  for (const rule of rules) {
    const written = rule(sign, next, before);
    if (written !== undefined) return written;
  }
  return sign;
}
