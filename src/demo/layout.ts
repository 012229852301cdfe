import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { basename, dirname, join, relative } from 'node:path';

const dashed = (words: string) => words.split(' ').join('-');

/** Made-up values, joined at run time so that the package passes its own inspection. */
export const madeUp = {
  productionKey: dashed('made-up fare-signing-key of-production 7f3a91'),
  stagingKey: dashed('made-up fare-signing-key of-staging 52c0de'),
  developmentKey: dashed('made-up fare-signing-key of-development 0b1e44'),
  ledgerUrl: `postgres://quay:${dashed('made-up ledger word')}@ledger.saltmarsh.test/ledger`,
  uploadToken: dashed('made-up upload-token c29a17'),
  adminWord: dashed('made-up admin-word of-staging'),
  paymentKey: ['sk', 'live', 'madeup00madeup00madeup00'].join('_'),
  testPaymentKey: ['sk', 'test', 'madeup00madeup00madeup00'].join('_'),
  publishableKey: ['pk', 'live', 'madeup00madeup00madeup00'].join('_'),
  // Random, as keys are: the history keeps no value that can be guessed.
  lastKey: ['7c1e9a04d2', 'b85f63e0a9', '7d4c1b6f28', 'e5d3094ab7'].join(''),
  nextKey: ['e4b07d9153', 'ac86f2d70b', '4e19c85a3f', '6672d1908c'].join(''),
  crewLedgerUrl: `postgres://crew:${['Qm7xT2vN9k', 'Lp4Rz8Ws3d'].join('')}@ledger.saltmarsh.test/fares`,
} as const;

/** A base64 credential as in an authorization header: user and key. */
const trialPass = Buffer.from(`quay:${madeUp.productionKey}`).toString('base64');

/**
 * Writes the demo project into an empty or new directory.
 * @param template the project's files; the prefix `dot.` of a file name becomes `.`, and `utf16.` before it encodes the
 * file as UTF-16
 */
export function layOut(template: string, folder: string): void {
  mkdirSync(folder, { recursive: true });
  cpSync(template, folder, { recursive: true });
  for (const path of filesBelow(folder)) {
    const text = readFileSync(path, 'utf8');
    const filled = text.replace(/\{\{(\w+)\}\}/g, (_, name: string) =>
      name === 'trialPass' ? trialPass : (Object.entries(madeUp).find(([one]) => one === name)?.[1] ?? ''),
    );
    const isWide = basename(path).startsWith('utf16.');
    if (filled !== text || isWide)
      writeFileSync(path, isWide ? `\ufeff${filled}` : filled, isWide ? 'utf16le' : 'utf8');
    const target = join(folder, relative(folder, path).replace(/(^|[\\/])(utf16\.)?dot\./g, '$1.'));
    if (target === path) continue;
    mkdirSync(dirname(target), { recursive: true });
    renameSync(path, target);
  }
  for (const name of readdirSync(folder)) if (name.startsWith('dot.')) rmSync(join(folder, name), { recursive: true });
}

export function isEmptyOrNew(folder: string): boolean {
  return !existsSync(folder) || (statSync(folder).isDirectory() && readdirSync(folder).length === 0);
}

/** Links the packages of another directory into the project. */
export function lendPackages(folder: string, nodeModules: string): void {
  symlinkSync(nodeModules, join(folder, 'node_modules'), 'junction');
}

function filesBelow(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((name) => join(folder, name))
    .filter((path) => statSync(path).isFile());
}
