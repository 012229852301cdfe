import cells from '../text/width.js';

export { cells };

/** Breaks a text between words so that no line is wider than `width`; a longer word stays whole. */
export function wrap(text: string, width: number): string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(' ')) {
    const longer = line === '' ? word : `${line} ${word}`;
    if (line !== '' && cells(longer) > width) {
      lines.push(line);
      line = word;
    } else line = longer;
  }
  return [...lines, line];
}

export function padEnd(text: string, width: number): string {
  return text + ' '.repeat(Math.max(0, width - cells(text)));
}

/** Items by a key of theirs, in the order in which the keys turn up. */
export function groupBy<T>(items: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const known = found.get(key);
    if (known) known.push(item);
    else found.set(key, [item]);
  }
  return found;
}
