/** Pairs of words that code compares with. */
const pairs: readonly (readonly [string, string])[] = [
  ['true', 'false'],
  ['1', '0'],
  ['yes', 'no'],
  ['on', 'off'],
];

/**
 * Another value for one that has no room for a marker, so that the outputs of two builds tell where it goes.
 * @param isValid tells whether a value is one that the contract allows
 * @param choices the words of a choice
 * @returns undefined if none is found
 */
export function otherValue(
  text: string,
  isValid: (candidate: string) => boolean,
  choices: readonly string[] = [],
): string | undefined {
  const candidates = [
    ...choices,
    ...pairs.flatMap((pair) => partner(pair, text)),
    ...otherNumbers(text),
    ...otherDigits(text),
    ...otherWords(text),
  ];
  return candidates.find((one) => one !== text && isValid(one));
}

function partner([one, other]: readonly [string, string], text: string): string[] {
  if (text === one) return [other];
  return text === other ? [one] : [];
}

function otherNumbers(text: string): string[] {
  const value = Number(text);
  return text.trim() === '' || !Number.isInteger(value) ? [] : [String(value + 1), String(value - 1)];
}

function otherDigits(text: string): string[] {
  return /\d/.test(text) ? [text.replaceAll(/\d/g, (digit) => String((Number(digit) % 9) + 1))] : [];
}

/** A word of other letters may be one that nothing knows, so it is the last thing to try. */
function otherWords(text: string): string[] {
  return /^[a-z][a-z-]*$/i.test(text)
    ? [text.replaceAll(/[a-z]/gi, (letter) => (letter.toLowerCase() === 'q' ? 'z' : 'q'))]
    : [];
}
