// `npm run strangers [NAMES]`: builds the projects of test/strangers with their real tools, compares what Adder says before and after
// with the truth that was written by hand, follows every remedy that can be followed without knowing the project, and writes
// its part of docs/support.md.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { parse } from 'yaml';

// A program of its own, so that the field suite can run at the same time.
process.env.ADDER_FIELD_CACHE ??= join(tmpdir(), 'adder-strangers');
const { writePart } = await import('./field/support.mjs');
const { cache, copyProgram, prepare, program, run, write } = await import('./field/prepare.mjs');

const names = process.argv.slice(2);
copyProgram();
const { byFolder, follow, isFollowed } = await tests();
const chosen = Object.entries(byFolder).filter(([name]) => names.length === 0 || names.includes(name));

/** The projects with their truth, and what follows remedies. */
async function tests() {
  const outfile = join(mkdtempSync(join(tmpdir(), 'adder-strangers-')), 'tests.cjs');
  const contents = `export { byFolder } from './test/strangers/all.ts';
export { follow, isFollowed } from './test/remedies/followers.ts';`;
  await build({
    stdin: { contents, resolveDir: '.', loader: 'ts' },
    ...{ bundle: true, platform: 'node', format: 'cjs', outfile, logLevel: 'error' },
  });
  return createRequire(import.meta.url)(outfile);
}

/** One project during a run. */
class Stranger {
  constructor(name, truth) {
    this.name = name;
    this.truth = truth;
    this.folder = prepare({ name: `stranger-${name}`, make: { files: truth.files }, install: [] });
    // Env files are in no commit.
    for (const [path, text] of Object.entries(truth.files)) write(this.folder, path, text);
  }

  adder(...args) {
    return run(this.folder, process.execPath, [program, ...args]);
  }

  /** @returns errors and warnings of a command */
  findings(folder, ...args) {
    const { stdout, text } = run(folder, process.execPath, [program, ...args, '--format', 'json']);
    if (!stdout.startsWith('{')) throw new Error(`adder ${args.join(' ')}: ${text.slice(-1500)}`);
    return JSON.parse(stdout).findings.filter(({ level }) => level !== 'note');
  }

  get bundles() {
    return Object.entries(parse(readFileSync(join(this.folder, 'adder.yaml'), 'utf8')).bundles ?? {});
  }

  /** A copy to be changed, with the packages of this one. */
  copy() {
    const folder = mkdtempSync(join(tmpdir(), 'adder-stranger-'));
    cpSync(this.folder, folder, { recursive: true, filter: (path) => !path.endsWith('/node_modules') });
    symlinkSync(join(this.folder, 'node_modules'), join(folder, 'node_modules'));
    return folder;
  }
}

const shown = ({ level, code, place, variable, stage }, by) =>
  [
    level,
    code,
    by === 'values' ? stage : place?.path.replace(/[^/]*(?=\.\w+$)/, by === 'inspect' ? '*' : '$&'),
    variable,
  ]
    .filter(Boolean)
    .join(' ');

function same(what, found, truth) {
  const [a, b] = [[...found].sort(), [...truth].sort()];
  if (JSON.stringify(a) !== JSON.stringify(b))
    throw new Error(`${what}: ${JSON.stringify(a)} instead of ${JSON.stringify(b)}`);
}

/** The steps, in their order. Each throws with what is not as the truth has it. */
const steps = {
  draft(at) {
    const begun = Date.now();
    const { code, text } = at.adder('draft');
    if (code !== 0) throw new Error(text);
    const contract = parse(readFileSync(join(at.folder, 'adder.yaml'), 'utf8'));
    const reaches = Object.entries(contract.variables ?? {}).map(([name, one]) => `${name} ${one.reach ?? one}`);
    same(
      'reach',
      reaches,
      Object.entries(at.truth.reaches).map((one) => one.join(' ')),
    );
    at.begun = begun;
  },
  lint(at) {
    at.found = at.findings(at.folder, 'lint').map((one) => ['lint', one]);
    at.seconds = (Date.now() - at.begun) / 1000;
    same(
      'lint',
      at.found.map(([, one]) => shown(one, 'lint')),
      [...at.truth.lint, ...(at.truth.tracked ?? [])],
    );
  },
  values(at) {
    const found = at.findings(at.folder, 'values', '--all');
    at.found.push(...found.map((one) => ['values --all', one]));
    same(
      'values',
      found.map((one) => shown(one, 'values')),
      at.truth.values ?? [],
    );
  },
  build(at) {
    const built = at.bundles.filter(([, { build: command }]) => command);
    at.built = built
      .filter(([name]) => at.adder('with', 'production', '--bundle', name).code === 0)
      .map(([name]) => name);
    same('builds', at.built, Object.keys(at.truth.builds ?? {}));
    return built.length === 0 ? '' : undefined;
  },
  inspect(at) {
    for (const name of at.built) {
      const found = at.findings(at.folder, 'inspect', '--stage', 'production', '--bundle', name);
      same(
        name,
        found.map((one) => shown(one, 'inspect')),
        at.truth.builds?.[name] ?? [],
      );
    }
    return at.built.length === 0 ? '' : undefined;
  },
  trial(at) {
    const built = at.bundles.filter(([, { build: command, runs }]) => command && runs !== 'server');
    const out = new Set();
    for (const [name] of built)
      for (const { code, variable } of at.findings(at.folder, 'trial', 'production', '--bundle', name))
        if (code === 'trial/lets-out') out.add(variable);
    same('let out', out, at.truth.letsOut ?? []);
    return built.length === 0 ? '' : undefined;
  },
  remedies(at) {
    let [applied, helped] = [0, 0];
    const wrong = [];
    for (const [check, one] of at.found) {
      if (!isFollowed(one)) continue;
      applied++;
      const folder = at.copy();
      const type = (line) => typed(folder, line);
      const read = (path) => readFileSync(join(folder, path), 'utf8');
      follow({ read, write: (path, text) => write(folder, path, text), type }, one);
      const known = new Set(at.found.map(([, { fingerprint }]) => fingerprint));
      const after = at.findings(folder, ...check.split(' '));
      const bad = after.filter(({ fingerprint }) => fingerprint === one.fingerprint || !known.has(fingerprint));
      if (bad.length === 0) helped++;
      else wrong.push(`${one.remedy}: ${bad.map(({ message }) => message).join('; ')}`);
      rmSync(folder, { recursive: true });
    }
    if (wrong.length > 0) throw new Error(wrong.join('\n'));
    return applied === 0 ? '' : `${helped} of ${applied}`;
  },
};

/** Runs a line as somebody types it, with `adder` in the path. */
function typed(folder, line) {
  const bin = join(cache, 'program', 'bin');
  write(bin, 'adder', `#!/bin/sh\nexec '${process.execPath}' '${program}' "$@"\n`);
  spawnSync('chmod', ['+x', join(bin, 'adder')]);
  const env = { ...process.env, PATH: `${bin}:${process.env.PATH}` };
  const { status, stderr } = spawnSync('sh', ['-c', line], { cwd: folder, env, encoding: 'utf8' });
  if (status !== 0) throw new Error(`${line}: ${stderr}`);
}

const rows = [];
let failed = 0;
for (const [name, truth] of chosen) {
  const at = new Stranger(name, truth);
  const cells = Object.entries(steps).map(([step, check]) => {
    try {
      return check(at) ?? 'yes';
    } catch (error) {
      failed++;
      console.log(`${name}: ${step}: ${error.message}`);
      return '**no**';
    }
  });
  const first = at.found?.length > 0 ? `${at.seconds.toFixed(1)} s` : '';
  rows.push([truth.name, ...cells, first]);
  console.log(`${name}: ${cells.join(', ')} ${first}`);
}
const heads = ['project', ...Object.keys(steps), 'first finding'];
const table = [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
if (names.length === 0)
  writePart(
    'strangers',
    `## Projects with the mistakes of people

The projects of \`test/strangers\` have code of several kinds and the mistakes of people, and a truth that was written by hand:
the reach of every variable, the bundles, and what each command must say and must not say. \`npm test\` drafts and lints them;
\`npm run strangers\` installs their tools and builds them. This is its last result.

| step | what is compared with the truth |
| --- | --- |
| draft | the reach of every variable |
| lint, values | every error and warning, and that there is no other |
| build | which bundles \`adder with production\` builds with the drafted contract |
| inspect | every error and warning about each output |
| trial | which build and server values a build with made-up values lets out |
| remedies | of the remedies that can be followed without knowing the project, how many removed their finding and brought no other |
| first finding | time from a clone with its packages to the first true finding: \`adder draft\`, then \`adder lint\` |

${table}
`,
  );
process.exitCode = failed > 0 ? 1 : 0;
