import type { Contract } from '../../contract/contract.js';
import { isSource } from '../../files/languages.js';
import { isEnvLike, valueFileOf } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import type { PastValue } from '../../history/history.js';
import type { Resolution } from '../../resolve/resolve.js';
import { reveal } from '../../secrets/secret.js';
import { withoutArticle } from '../../text/display.js';
import { textPlaces } from '../../text/positions.js';
import { tokensIn } from '../../tokens/in-text.js';
import { strengthOf } from '../../tokens/strength.js';
import type { LintFinding } from '../model.js';
import type { RepositoryFacts, SecretInFile } from './facts.js';
import { WholeValues } from './whole-values.js';

/** Files of packages' checksums, in which everything looks random. */
const lockFile =
  /(^|\/)(package-lock\.json|npm-shrinkwrap\.json|yarn\.lock|pnpm-lock\.yaml|bun\.lockb?|Cargo\.lock|composer\.lock|pubspec\.lock|Podfile\.lock|Gemfile\.lock|poetry\.lock)$/;

/** Files that are never text, by their extension: reading every image of a repository takes long. */
const mediaFile =
  /\.(png|jpe?g|gif|webp|avif|ico|icns|mp[34]|m4[av]|webm|mov|ogg|wav|woff2?|ttf|otf|eot|pdf|zip|gz|br|7z|jar|wasm|node|dll|so|dylib|exe|apk|aab|ipa|psd)$/i;

/** Tells whether no other rule reads a tracked file: it is neither source code nor an env file, key or layer. */
export function isOtherText(path: string, layers: ReadonlySet<string>): boolean {
  if (layers.has(path) || isEnvLike(path) || lockFile.test(path) || mediaFile.test(path)) return false;
  return !isSource(path) || valueFileOf(path)?.kind === 'example';
}

/** Searches text files for secrets of the contract, and for strings with a secret's shape. */
export class SecretSearch {
  readonly #values: WholeValues;
  /** Values that are secrets by their text or name; the others are settings, which any text may contain. */
  readonly #secrets = new Set<string>();

  constructor(contract: Contract, stages: readonly Resolution[], past: readonly PastValue[]) {
    for (const { stage, values } of stages)
      for (const { variable, value } of values.values())
        if (value && variable.reach !== 'public' && strengthOf(variable.name, reveal(value)) === 'secret')
          this.#secrets.add(`${variable.name}\0${stage.name}`);
    this.#values = new WholeValues(contract, stages, past);
  }

  /** The first place of each secret. A file with NUL bytes is not text. */
  hits(path: string, content: Uint8Array): SecretInFile[] {
    if (content.subarray(0, 8192).includes(0)) return [];
    const text = Buffer.from(content.buffer, content.byteOffset, content.length).toString('latin1');
    // Most files have no hit, and need no list of lines.
    let lineOf: ReturnType<typeof textPlaces> | undefined;
    // Offsets are bytes here, and columns UTF-16 code units.
    const placeOf = (start: number) => {
      const from = text.lastIndexOf('\n', start - 1) + 1;
      lineOf ??= textPlaces(text);
      return { line: lineOf(start).line, column: Buffer.from(content.subarray(from, start)).toString().length + 1 };
    };
    const found = new Map<string, SecretInFile>();
    for (const { owner, start } of this.#values.in(content)) {
      const { variable, stage = '', recorded } = owner;
      if ((recorded || this.#secrets.has(`${variable}\0${stage}`)) && !found.has(variable))
        found.set(variable, { path, variable, ...(recorded && { recorded }), ...placeOf(start) });
    }
    const isKnown = (start: number) => [...found.values()].some((one) => one.line === placeOf(start).line);
    for (const { shape, start } of tokensIn(text))
      if (shape.kind === 'secret' && !isKnown(start) && !found.has(shape.name))
        found.set(shape.name, { path, shape: shape.name, ...placeOf(start) });
    return [...found.values()];
  }
}

/** Secrets in tracked text files: documentation, settings, scripts of other languages. */
export function contentRules({ inFiles }: RepositoryFacts): LintFinding[] {
  return inFiles.map(({ path, variable, shape = '', recorded, line, column }) => {
    const at = { place: { path, inside: [], line, column } };
    return variable === undefined
      ? finding('repo/tracked', 'token', { path, shape: withoutArticle(shape) }, at)
      : finding('repo/tracked', 'value', { path, variable, recorded }, at);
  });
}
