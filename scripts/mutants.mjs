// Changes conditions, numbers and texts of the core, one at a time, and tells which changes no test of the folder notices:
// `npm run mutants` for all folders, or `npm run mutants -- unpack mask`. Unchanged mutants are not tried again.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Stryker } from '@stryker-mutator/core';
import { createInstrumenter } from '@stryker-mutator/instrumenter';
import { createInjector } from 'typed-inject';

process.chdir(join(import.meta.dirname, '..'));

const all = ['contract', 'envfile', 'resolve', 'needles', 'mask', 'unpack', 'findings', 'receipt', 'conclude'];
/** Folders that make tables of escapes at first use. */
const withTables = ['needles', 'mask'];
/** Mutants of each folder, which this seed picks. */
const [MOST, SEED] = [Number(process.env.ADDER_MUTANTS ?? 300), 2026];

const rows = [];
for (const folder of process.argv.length > 2 ? process.argv.slice(2) : all) rows.push(await mutate(folder));
console.log(
  ['| folder | mutants | killed | survived | score |', '| --- | --- | --- | --- | --- |', ...rows].join('\n'),
);

async function mutate(folder) {
  process.env.ADDER_MUTANTS_OF = folder;
  const stryker = new Stryker({
    mutate: await sample(folder),
    testRunner: 'vitest',
    // The relation is lost for folders that no test imports by name.
    vitest: { configFile: 'vitest.mutants.config.mjs', related: false },
    // Tables that are made once are covered by whichever test comes first, so their folders are tried with all of their tests.
    coverageAnalysis: withTables.includes(folder) ? 'all' : 'perTest',
    // Code that runs when a module is loaded needs a new process for each mutant.
    ignoreStatic: !withTables.includes(folder),
    incremental: true,
    incrementalFile: `reports/mutants/${folder}.incremental.json`,
    reporters: ['json', 'progress-append-only'],
    jsonReporter: { fileName: `reports/mutants/${folder}.json` },
    concurrency: 2,
    timeoutMS: 20_000,
    dryRunTimeoutMinutes: 30,
    tempDirName: '.mutants',
    ignorePatterns: ['dist', 'reports', 'docs', 'bench', '.git', 'coverage'],
    disableTypeChecks: false,
    // The sandbox rewrites this file with a compiler that TypeScript 7 does not have.
    tsconfigFile: 'none',
    allowConsoleColors: false,
  });
  const results = await stryker.runMutationTest();
  const count = (...statuses) => results.filter(({ status }) => statuses.includes(status)).length;
  const [killed, survived] = [count('Killed', 'Timeout'), count('Survived', 'NoCoverage')];
  for (const { fileName, location, mutatorName, replacement, status } of results)
    if (status === 'Survived' || status === 'NoCoverage')
      console.log(
        `${fileName.replace(`${process.cwd()}/`, '')}:${location.start.line + 1}:${location.start.column + 1} ${mutatorName} ${JSON.stringify(replacement)} ${status}`,
      );
  return `| \`core/${folder}\` | ${killed + survived} | ${killed} | ${survived} | ${Math.round((100 * killed) / (killed + survived))} % |`;
}

/** Ranges that hold about as many mutants as are wanted. */
async function sample(folder) {
  const mutants = await mutantsIn(`src/core/${folder}`);
  const order = shuffled(mutants, SEED);
  const picked = [];
  let count = 0;
  for (const one of order) {
    if (count >= MOST) break;
    picked.push(one);
    count = mutants.filter((mutant) => picked.some((range) => isWithin(mutant, range))).length;
  }
  return picked.map(
    ({ fileName, location: { start, end } }) =>
      `${fileName}:${start.line + 1}:${start.column}-${end.line + 1}:${end.column}`,
  );
}

async function mutantsIn(folder) {
  const names = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.ts'));
  const files = names.map((name) => ({
    name: join(folder, name),
    content: readFileSync(join(folder, name), 'utf8'),
    mutate: true,
  }));
  const quiet = () => undefined;
  const logger = {
    trace: quiet,
    debug: quiet,
    info: quiet,
    warn: quiet,
    error: quiet,
    fatal: quiet,
    isDebugEnabled: () => false,
  };
  const injector = createInjector()
    .provideValue('logger', logger)
    .provideValue('getLogger', () => logger)
    .provideValue('options', {});
  const options = { plugins: null, excludedMutations: [], ignorers: [], mutationRange: undefined };
  const { mutants } = await createInstrumenter(injector).instrument(files, options);
  return mutants.map(({ fileName, location }) => ({ fileName, location }));
}

function isWithin(mutant, range) {
  if (mutant.fileName !== range.fileName) return false;
  const { start, end } = mutant.location;
  return isAtMost(range.location.start, start) && isAtMost(end, range.location.end);
}

function isAtMost(one, other) {
  return one.line < other.line || (one.line === other.line && one.column <= other.column);
}

/** The same order for the same seed (xorshift32, Marsaglia 2003). */
function shuffled(items, seed) {
  let state = seed;
  const keyed = items.map((item) => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return [state, item];
  });
  return keyed.sort(([a], [b]) => a - b).map(([, item]) => item);
}
