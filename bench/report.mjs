/** @param {number[]} numbers */
export function median(numbers) {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/** A table in Markdown. @param {string[]} heads @param {string[][]} rows */
export function table(heads, rows) {
  return [heads, heads.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
}
