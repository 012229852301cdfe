/** A parser that calls itself for each level ends the process at some 4,000 levels; where less are counted, none is near. */
export const SAFE_DEPTH = 1500;

/** Depth that the operators inside each open bracket add. */
const chains = new Int32Array(SAFE_DEPTH + 2);

/** Effects of a character on the depth of a script. */
const [OTHER, LETTER, OPEN, CLOSE, RESTART, OPERATOR, BLANK, FEED] = [0, 1, 2, 3, 4, 5, 6, 7];

const kinds = Uint8Array.from({ length: 256 }, (_, code) => {
  const character = String.fromCharCode(code);
  if (/[\w$]/.test(character)) return LETTER;
  if ('([{'.includes(character)) return OPEN;
  if (')]}'.includes(character)) return CLOSE;
  if (';,'.includes(character)) return RESTART;
  if ('=?:!~+-*<>'.includes(character)) return OPERATOR;
  if (' \t\r'.includes(character)) return BLANK;
  return character === '\n' ? FEED : OTHER;
});

/**
 * How deep a script may nest, counted fast and rather too high: brackets, and in each of them what makes a parser call
 * itself without one (`a = b = c`, `a ? b : c ? d : e`, `!!!a`, `new new a`, `else if`, labels, elements of JSX).
 * A new statement begins anew. Strings and comments count as the rest does.
 */
export function nestingOf(text: string): number {
  if (text.length < SAFE_DEPTH) return 0;
  chains[0] = 0;
  let [depth, open, deepest] = [0, 0, 0];
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    // Beyond Latin-1 there are letters alone.
    const kind = code < 256 ? (kinds[code] as number) : LETTER;
    if (kind <= LETTER) continue;
    if (kind === OPERATOR || (kind === BLANK && isLetter(text, at - 1) && isLetter(text, at + 1))) {
      chains[depth] = (chains[depth] as number) + 1;
      open++;
    } else if (kind === OPEN) {
      if (++depth > SAFE_DEPTH) return depth;
      chains[depth] = 0;
    } else if (kind === CLOSE) {
      open -= chains[depth] as number;
      chains[depth] = 0;
      if (depth > 0) depth--;
      // `if (a) if (b)` nests, and a block that another statement follows does not.
      if (code === 0x29 && isLetter(text, at + 1)) {
        chains[depth] = (chains[depth] as number) + 1;
        open++;
      } else if (code === 0x7d && isLetter(text, at + 1) && text[at + 1] !== 'e') {
        open -= chains[depth] as number;
        chains[depth] = 0;
      }
    } else if (kind === RESTART || (kind === FEED && endsStatement(text, at))) {
      open -= chains[depth] as number;
      chains[depth] = 0;
    }
    if (depth + open > deepest) {
      deepest = depth + open;
      if (deepest > SAFE_DEPTH) return deepest;
    }
  }
  return deepest;
}

function isLetter(text: string, at: number): boolean {
  const code = text.charCodeAt(at);
  return code >= 128 || kinds[code] === LETTER;
}

/** Tells whether a line break can end a statement: no operator precedes or follows it. Comment lines end with it. */
function endsStatement(text: string, feed: number): boolean {
  let after = feed + 1;
  while (kinds[text.charCodeAt(after)] === BLANK) after++;
  const next = text[after];
  if (next === '*' || next === '/' || next === '\n') return true;
  let before = feed - 1;
  while (before > 0 && kinds[text.charCodeAt(before)] === BLANK) before--;
  if (kinds[text.charCodeAt(before)] === OPERATOR) return false;
  return next !== 'e' && kinds[text.charCodeAt(after)] !== OPERATOR;
}
