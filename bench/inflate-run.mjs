// Inflates a zip, or all files of a directory, counts the bytes, and does nothing else, as bench/inspect.mjs times it:
// node inflate-run.mjs PATH
import { createReadStream, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { createBrotliDecompress, createGunzip } from 'node:zlib';

const path = process.argv[2];
const chunkSize = 256 * 1024;
let bytes = 0;
const count = async (stream) => {
  for await (const chunk of stream) bytes += chunk.length;
};
if (path.endsWith('.zip')) {
  const { openPromise } = await import('yauzl');
  const file = await openPromise(path);
  for await (const entry of file.eachEntry()) await count(await file.openReadStreamPromise(entry));
} else
  for (const name of readdirSync(path)) {
    const inflate = name.endsWith('.gz') ? createGunzip({ chunkSize }) : createBrotliDecompress({ chunkSize });
    await count(createReadStream(join(path, name), { highWaterMark: chunkSize }).pipe(inflate));
  }
console.log(bytes);
