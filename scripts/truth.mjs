// `npm run truth [PROGRAMS] [SEED] [TOOLS] [FRAMEWORKS]`: builds generated programs with each tool and framework, runs them, and
// compares what they do with what Adder says. Without a seed, today's date is one, so that a nightly run sees other programs. A
// run of all of them, which takes hours, writes its result into docs/truth.md. `-` stands for no framework.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cache, versionsIn } from './field/prepare.mjs';
import { projects } from './field/projects.mjs';

const all = ['vite', 'esbuild', 'rolldown', 'rollup', 'webpack', 'rspack'];
const [
  programs = '2000',
  seed = new Date().toISOString().slice(0, 10).replaceAll('-', ''),
  tools = all.join(' '),
  frameworks = tools === all.join(' ') ? 'all' : '-',
] = process.argv.slice(2);
const isComplete = tools === all.join(' ') && frameworks === 'all';
const folder = mkdtempSync(join(tmpdir(), 'adder-truth-'));
const results = join(folder, 'results');
const { status } = spawnSync('npx', ['vitest', 'run', 'test/truth'], {
  stdio: 'inherit',
  shell: process.platform === 'win32',
  env: {
    ...process.env,
    ADDER_TRUTH_PROGRAMS: programs,
    ADDER_TRUTH_SEED: seed,
    ADDER_TRUTH_TOOLS: tools,
    ADDER_TRUTH_FRAMEWORKS: frameworks,
    // The tests have a temporary directory of their own.
    ADDER_FIELD_CACHE: cache,
    ADDER_TRUTH_RESULTS: results,
  },
});
if (isComplete) writeFileSync('docs/truth.md', pageOf(readFileSync(results, 'utf8')));
rmSync(folder, { recursive: true, force: true });
process.exitCode = status ?? 1;

/** @param {string} lines results of tools as JSON, one a line */
function pageOf(lines) {
  const require = createRequire(import.meta.url);
  const versionOf = (name) => {
    const project = projects.find((one) => one.name === name);
    if (project) return `${name}, ${versionsIn(join(cache, name), project.shows)}`;
    return `${name} ${require(`${name === 'rspack' ? '@rspack/core' : name}/package.json`).version}`;
  };
  const results = lines
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line));
  const rows = (asked) =>
    results
      .filter(([, , , kind]) => kind === asked)
      .map(([name, measured, wrong]) => `| ${versionOf(name)} | ${measured} | ${wrong} |`)
      .sort()
      .join('\n');
  return `<!-- Written by \`npm run truth\`. -->
# What is true of reads

\`npm run truth\` makes small programs from a seed. Each reads one variable in one of many ways (a literal
name, a key that is assigned later, a pattern with defaults, an alias, an import) in one position (an
argument, a class field, a line after one without a semicolon) of one place (the entry, an imported
module, a module with a server's name, a worker, a service worker, a script that is started by its
address, a package). Each is built by the real tool with
marked values, and run without a \`process\`, as in a browser.

What it does is compared with what Adder says and does:

- \`lint\` reports exactly the reads that do not work, and those that bring other values with them.
- With the plugin, the program does what it would do if the object were a real one, or the build stops
  with a message.
- After \`lint --fix\`, the read has its value, and nothing else changed.
- \`inspect\` reports the output of each program that throws because there is no \`process\`.

The last run, with the seed ${seed}:

| tool | programs | differences |
| --- | --- | --- |
${rows()}

A second generator makes configurations: define options and plugins for names, literal, computed in
loops, functions and classes, taken from imported modules, data files and env files, or the whole
environment; exported as objects and functions; in the usual place, or where only the build script says.
The variables that the app's code gets are compared with what \`lint\` says: it reports each server value
that a configuration passes on, at its line, each read of a public value that none passes on, and
nothing else. Where only a build can tell, it says so.

| tool | configurations | differences |
| --- | --- | --- |
${rows('configurations')}

Programs of the first generator are also put into real templates of frameworks, which load each of them
in Chromium:

| framework | programs | differences |
| --- | --- | --- |
${rows('frameworks')}

A third generator makes projects with several env files, prefixes, directories and modes, whose pages
read names in modules, inline scripts, texts and attributes. Each is drafted. \`adder values\` says the
value that a build gets, \`adder lint\` reports the names that it does not get and no others, and a
build through \`adder with\` gets the same values, or is refused:

| tool | projects | differences |
| --- | --- | --- |
${rows('env files')}

What these programs do not have: server code, the configurations of frameworks, and
three things that are known and left: texts that Rollup's \`replace\` changes although they are no code,
packages that read \`import.meta.env\` in webpack, and \`import.meta\` as a whole in a worker of Vite.
`;
}
