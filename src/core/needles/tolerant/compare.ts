import { type Written, ways, writtenForms } from './written.js';

/** How far a value agrees with a text around one of its places. Offsets are in the text, of one character per byte. */
export interface Agreement {
  start: number;
  end: number;
  /** The first character (code point) of the value that is there. */
  first: number;
  /** Number of characters that are there. */
  characters: number;
  /** True if all of them are. */
  isWhole: boolean;
  /** The encodings of the characters, by the table of {@link ways}; empty if all are as they are. */
  encoding: string[];
}

/** A place in the text with the encodings that explain the way to it. */
interface State {
  at: number;
  /** The encodings that explain every escaped character so far; all bits before the first one. */
  every: number;
  /** True if some character is escaped. */
  isEscaped: boolean;
}

const ALL = (1 << ways.length) - 1;

/**
 * Compares a value with a text outward from a place, character by character; each may be written in any way of the table, also
 * differently from its neighbours.
 * @param characters the value's code points
 * @param text one character per byte
 * @param from where the character `index` of the value begins in the text @param index of that character
 */
export function compareAround(characters: readonly string[], text: string, from: number, index: number): Agreement {
  const right = walk(characters, text, from, index, 1);
  const left = walk(characters, text, from, index - 1, -1);
  const count = right.count + left.count;
  return {
    start: left.state.at,
    end: right.state.at,
    first: index - left.count,
    characters: count,
    isWhole: count === characters.length,
    encoding: explain(left.state, right.state),
  };
}

/**
 * Tells whether a text, from a place to its end, could be the beginning of a value that is not yet complete, in any mixture of
 * the ways.
 * @param known number of the value's characters that are known to precede the place
 */
export function couldBegin(characters: readonly string[], text: string, from: number, known = 0): boolean {
  let places = [from];
  for (let index = known; index < characters.length; index++) {
    const forms = writtenForms(characters[index] as string);
    const next = new Set<number>();
    for (const at of places) for (const { text: form } of forms) if (fits(form, text, at)) next.add(at + form.length);
    if (next.size === 0) return false;
    places = [...next];
    if (places.some((at) => at > text.length)) return true;
  }
  return false;
}

/** Tells whether a byte is a character as it is, which begins no way to write another one: of ASCII, all but `\\`, `&`, `%` and `+`. */
export function beginsNoEscape(code: number): boolean {
  return code >= 0x20 && code < 0x7f && code !== 0x5c && code !== 0x26 && code !== 0x25 && code !== 0x2b;
}

/** Tells whether a byte begins a way to write a character that {@link beginsNoEscape}: all begin with `\\`, `&`, `%` or `+`. */
export function mayEscape(code: number): boolean {
  return code === 0x5c || code === 0x26 || code === 0x25 || code === 0x2b;
}

/** The first bytes of all ways to write a character. */
export function firstBytesOf(character: string): string[] {
  return [...new Set(writtenForms(character).map(({ text }) => text.slice(0, 1)))];
}

/** Tells whether a text has a form at a place, or ends within it. */
function fits(form: string, text: string, at: number): boolean {
  if (form.charCodeAt(0) !== text.charCodeAt(at)) return at === text.length;
  return text.length - at < form.length ? form.startsWith(text.slice(at)) : text.startsWith(form, at);
}

/** Follows all ways to read the text at once, and stops where none fits. */
function walk(
  characters: readonly string[],
  text: string,
  from: number,
  index: number,
  step: 1 | -1,
): { state: State; count: number } {
  let states: State[] = [{ at: from, every: ALL, isEscaped: false }];
  let count = 0;
  for (let at = index; at >= 0 && at < characters.length; at += step) {
    const next = advance(states, writtenForms(characters[at] as string), text, step);
    if (next.length === 0) break;
    states = next;
    count++;
  }
  // The whole escape wins: `&amp;` over its `&`.
  const [farthest] = states.sort((a, b) => step * (b.at - a.at));
  return { state: farthest as State, count };
}

function advance(states: readonly State[], forms: readonly Written[], text: string, step: 1 | -1): State[] {
  const next = new Map<number, State>();
  for (const { at, every, isEscaped } of states)
    for (const { text: form, ways: explained } of forms) {
      const start = step === 1 ? at : at - form.length;
      if (start < 0 || !text.startsWith(form, start)) continue;
      const reached = step === 1 ? start + form.length : start;
      const state =
        explained === 0
          ? { at: reached, every, isEscaped }
          : { at: reached, every: every & explained, isEscaped: true };
      const twin = next.get(reached);
      if (!twin || rank(state) > rank(twin)) next.set(reached, state);
    }
  return [...next.values()];
}

/** Prefers characters as they are, then those that one encoding explains. */
function rank({ every, isEscaped }: State): number {
  return isEscaped ? (every === 0 ? 0 : 1) : 2;
}

function explain(left: State, right: State): string[] {
  if (!left.isEscaped && !right.isEscaped) return [];
  const both = left.every & right.every;
  const one = ways.find((_, index) => both & (1 << index));
  if (one !== undefined) return [one];
  const some = ways.filter(
    (_, index) => (left.isEscaped && left.every & (1 << index)) || (right.isEscaped && right.every & (1 << index)),
  );
  return some.length > 0 ? [...some] : ['mixed'];
}
