// `adder inspect` with a history of 2,000 values against the same call without one: whole processes, 400 MB of files that packages
// ship, 40 present values. Exits 1 when the goal is missed.
import { randomBytes, randomInt } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { load } from '../scripts/load.mjs';
import { largeCorpus } from './corpus.mjs';
import { Goals, times } from './report.mjs';

const ROUNDS = 3;
const { entryName, makeEntry, sealEntry, sectionKeys, Secret } = await load('bench/history-entry.ts');

const work = mkdtempSync(join(tmpdir(), 'adder-bench-'));
const program = join(import.meta.dirname, '../dist/adder.cjs');
const env = { PATH: process.env.PATH, HOME: process.env.HOME, LC_ALL: 'C' };
const key = randomBytes(32);

const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789';
const signs = '!#$%&()*+,-./:;<=>?@[]^_{|}~';
const text = (alphabet, length) => Array.from({ length }, () => alphabet[randomInt(alphabet.length)]).join('');
const tokens = [
  () => text(letters, 32),
  () => randomBytes(20).toString('hex'),
  () => `sk_live_${text(letters, 24)}`,
  () => `postgres://desk:${text(letters, 24)}@db.saltmarsh.test:5432/ledger`,
];
const password = () => text(letters + signs, 28);

const corpus = largeCorpus(400 * 2 ** 20);
const without = project('without', []);
const withTokens = project('tokens', values(2000, 0));
const withPasswords = project('passwords', values(2000, 100));
const goals = new Goals();
for (const threads of [1, 2]) {
  const inspect = ['inspect', '--stage', 'production', '--threads', `${threads}`, corpus];
  const call = (folder) => [process.execPath, program, ...inspect, '--contract', join(folder, 'adder.yaml')];
  const [none, some, mixed] = times([without, withTokens, withPasswords].map(call), ROUNDS, env, work);
  goals.atMost(`2,000 recorded tokens, ${threads} thread(s), against no history, time`, some, none, 1.4);
  goals.atMost(`the same with 100 passwords of letters, digits and signs among them`, mixed, none, 1.4);
}
rmSync(work, { recursive: true });
goals.tell();

/** Values that the search keeps in its usual kinds: the others are rare, and make each search slower. */
function values(count, passwords) {
  return Array.from({ length: count }, (_, index) => {
    const isPassword = index < passwords;
    for (;;) {
      const entry = entryOf(`SECRET_${index}`, isPassword ? password() : tokens[index % tokens.length]());
      const { kind, stride } = entry.windows ?? {};
      if (kind === (isPassword ? 'dense' : 'run') && stride === 8) return entry;
    }
  });
}

function entryOf(variable, value) {
  const about = { variable, stage: 'production', reach: 'server', day: '2026-08-01' };
  return makeEntry(sectionKeys(key), { ...about, value: new Secret(value) });
}

/** A project with 40 values and a history. */
function project(name, entries) {
  const folder = join(work, name);
  const keys = sectionKeys(key);
  const history = join(folder, '.adder/history', keys.section);
  mkdirSync(history, { recursive: true });
  writeFileSync(join(folder, '.adder/key'), `${key.toString('hex')}\n`, { mode: 0o600 });
  for (const entry of entries) writeFileSync(join(history, entryName(keys, entry)), sealEntry(keys, entry));
  const names = Array.from({ length: 40 }, (_, index) => `PRESENT_${index}`);
  writeFileSync(
    join(folder, 'adder.yaml'),
    `adder: 1\nstages: { production: { layers: [.env] } }\nvariables:\n${names.map((one) => `  ${one}: server\n`).join('')}`,
  );
  writeFileSync(join(folder, '.env'), names.map((one) => `${one}=${text(letters, 32)}\n`).join(''));
  return folder;
}
