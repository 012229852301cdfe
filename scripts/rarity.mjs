// Makes the table of how seldom each byte follows each other one in build output, from what packages ship (others than
// those that bench/ searches) and from a native binary. Run by hand; the table is kept in the repository.
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { packageFiles } from '../bench/corpus.mjs';

const packages =
  'react-dom vue jquery lodash moment chart.js mermaid pdfjs-dist bootstrap katex ace-builds video.js hls.js sql.js';

/** More bits count as so many: two numbers fit into a byte. */
const MOST_BITS = 15;

/** Of each kind of file the same share, whatever there is more of. */
const groups = new Map();
for (const path of [...packageFiles('rarity', packages), process.execPath]) {
  const kind = /\.[mc]?(js|map|css|json|html|wasm)$/.exec(path)?.[1] ?? 'native';
  groups.set(kind, [...(groups.get(kind) ?? []), path]);
}
const shares = new Float64Array(256 * 256);
for (const paths of groups.values()) {
  const counts = new Float64Array(256 * 256);
  let total = 0;
  for (const path of paths) {
    const bytes = readFileSync(path);
    for (let at = 1; at < bytes.length; at++) counts[(bytes[at - 1] << 8) | bytes[at]]++;
    total += bytes.length;
  }
  counts.forEach((count, pair) => {
    shares[pair] += count / total / groups.size;
  });
}

/** What was never seen is not impossible. */
const LEAST = 1e-9;
const firsts = Float64Array.from({ length: 256 }, (_, byte) =>
  shares.subarray(byte << 8, (byte + 1) << 8).reduce((sum, share) => sum + share, LEAST),
);
const bitsOf = (share) => Math.round(Math.min(MOST_BITS, Math.max(0, -Math.log2(share))));
const bits = [
  ...[...firsts].map(bitsOf),
  ...[...shares].map((share, pair) => bitsOf((share + LEAST / 256) / firsts[pair >> 8])),
];
const packed = Uint8Array.from({ length: bits.length / 2 }, (_, at) => bits[2 * at] | (bits[2 * at + 1] << 4));
writeFileSync(
  join(import.meta.dirname, '../src/core/search/rarity-table.ts'),
  `// Made by scripts/rarity.mjs; rarity.ts says what it is.\nexport const table =\n  '${Buffer.from(packed).toString('base64')}';\n`,
);
console.log([...groups].map(([kind, { length }]) => `${length} ${kind}`).join(', '));
