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
