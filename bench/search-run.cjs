// One run of the matcher over a folder, as bench/search.mjs times it: node search-run.cjs MATCHER NEEDLES FOLDER [lines]
const { closeSync, openSync, readdirSync, readFileSync, readSync } = require('node:fs');
const { join } = require('node:path');

const [matcherFile, needleFile, folder, wantsLines] = process.argv.slice(2);
const { matcherFor } = require(matcherFile);
const needles = readFileSync(needleFile, 'latin1')
  .trimEnd()
  .split('\n')
  .map((line) => Buffer.from(line, 'latin1'));
const matcher = matcherFor(needles);
let total = 0;
for (const name of readdirSync(folder)) {
  const path = join(folder, name);
  const starts = [];
  const file = openSync(path, 'r');
  matcher.start();
  for (;;) {
    const length = readSync(file, matcher.window, 0, matcher.window.length, null);
    if (length === 0) break;
    matcher.feed(length, (_, start) => starts.push(start));
  }
  closeSync(file);
  total += starts.length;
  if (wantsLines && starts.length > 0) {
    const bytes = readFileSync(path);
    const lines = new Set(starts.map((start) => bytes.lastIndexOf(10, start)));
    console.log(`${path}:${lines.size}`);
  }
}
if (!wantsLines) console.log(total);
