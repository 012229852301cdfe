// One run of the search over a folder, as bench/search.mjs times it: node search-run.cjs BUILT NEEDLES FOLDER THREADS
// [lines | runs]: tells the lines, or looks for runs of token characters too.
// A needle stands on each line of NEEDLES, in base64.
const { closeSync, openSync, readdirSync, readFileSync, readSync, statSync } = require('node:fs');
const { join } = require('node:path');

const [built, needleFile, folder, threads, more] = process.argv.slice(2);
const wantsLines = more === 'lines';
// Threads start while the needles are read, as they do in Adder.
const { ScanThreads } = threads === '1' ? {} : require(join(built, 'scan-threads.cjs'));
const { ScanAheadOfTime } = threads === '1' ? {} : require(join(built, 'scan-ahead.cjs'));
const others = ScanThreads && new ScanThreads(Number(threads) - 1);
const { matcherFor } = require(join(built, 'matcher-for.cjs'));
const needles = readFileSync(needleFile, 'latin1')
  .split('\n')
  .map((line) => Buffer.from(line, 'base64'));
const runs = more === 'runs' ? require(join(built, 'token-runs.cjs')).tokenRuns : undefined;
const matcher = matcherFor(needles, undefined, runs);
const paths = readdirSync(folder).map((name) => join(folder, name));
let total = 0;
if (threads === '1') for (const path of paths) tell(path, alone(path));
else together();

function alone(path) {
  const starts = [];
  const file = openSync(path, 'r');
  matcher.start();
  for (;;) {
    const length = readSync(file, matcher.window, 0, matcher.window.length, null);
    if (length === 0) break;
    matcher.feed(length, (_, start) => starts.push(start));
  }
  closeSync(file);
  return starts;
}

async function together() {
  const files = paths.map((path) => {
    const { size, ctimeMs } = statSync(path);
    return { path, bytes: size, version: ctimeMs };
  });
  const starts = new Uint32Array(needles.length + 1);
  for (const [index, { length }] of needles.entries()) starts[index + 1] = starts[index] + length;
  const marks = { bytes: Buffer.concat(needles), starts };
  const table = { marks, kinds: needles.map(() => 'value'), matcher };
  const ahead = new ScanAheadOfTime(files, table, others);
  for (const path of paths) {
    const { scan } = await ahead.take(path, async () => false);
    tell(
      path,
      scan.hits.map(({ start }) => start),
    );
  }
  await others.end();
}

function tell(path, starts) {
  total += starts.length;
  if (!wantsLines || starts.length === 0) return;
  const bytes = readFileSync(path);
  const lines = new Set(starts.map((start) => bytes.lastIndexOf(10, start)));
  console.log(`${path}:${lines.size}`);
}
if (!wantsLines) process.on('exit', () => console.log(total));
