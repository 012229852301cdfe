// Opens, reads and closes every file below a directory, and does nothing with it: node read-run.cjs DIRECTORY
const { closeSync, openSync, readdirSync, readSync } = require('node:fs');

const buffer = new Uint8Array(256 * 1024);
let total = 0;
read(process.argv[2]);
console.log(total);

function read(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = `${folder}/${entry.name}`;
    if (entry.isDirectory()) read(path);
    else readFile(path);
  }
}

function readFile(path) {
  const file = openSync(path, 'r');
  for (;;) {
    const length = readSync(file, buffer, 0, buffer.length, null);
    total += length;
    if (length < buffer.length) break;
  }
  closeSync(file);
}
