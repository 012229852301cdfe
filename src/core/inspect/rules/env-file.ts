import { parseEnvFile } from '../../envfile/parse.js';
import { isEnvLike, mayBeEnvLike } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import { placeBetween } from '../../findings/place.js';
import { limits } from '../../limits/index.js';
import type { MarkHit } from '../../search/scan.js';
import { type ArtifactRule, type Surroundings, subject } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kind of marks that are beginnings of lines in an env file. */
const LINE = 'env-line';

/** Number of consecutive NAME=value lines that count as an env file. */
const FEWEST_LINES = 3;
/** Bytes on each side of a line that belong to the same file. */
const REACH = 16 * 1024;

/** A line as env files have it, and what may be between two of them. */
const entryLine = /^\s*(?:export\s+)?([A-Z][A-Z0-9_]{2,})\s*=/;
const otherLine = /^\s*(?:#.*)?$/;

/** A whole env file: under its own name, under another one, or as text in a script or program. */
export const envFiles: ArtifactRule = {
  codes: ['leak/env-file'],
  marks: ({ names }) =>
    // In scripts, a line break is an escape.
    marksFor(
      LINE,
      names.flatMap((name) => [`\n${name}=`, `\\n${name}=`]),
    ),
  wants: ({ fileName }) => isNamed(fileName),
  async check(hits, surroundings) {
    const { content, inspected } = surroundings;
    if (inspected.audience === 'cache' || content.original !== undefined) return [];
    const named = isNamed(content.fileName) ? await namesInFile(surroundings) : [];
    const onServer = inspected.audience === 'server';
    const more = { ...subject(inspected), ...(onServer && { level: 'warning' as const }) };
    if (named.length > 0) {
      const place = { ...content.where };
      return [finding('leak/env-file', 'file', { number: named.length, onServer }, { ...more, place })];
    }
    const names = linesAround(hits, surroundings);
    const [first] = hits;
    if (!first || names.length < FEWEST_LINES) return [];
    const [start, end] = await content.positions([first.start, first.end]);
    const place = start && end ? placeBetween(content.where, start, end) : { ...content.where };
    return [finding('leak/env-file', 'lines', { names, onServer }, { ...more, place })];
  },
};

/** Tells whether a file's name is that of an env file with values. */
function isNamed(fileName: string): boolean {
  return mayBeEnvLike(fileName) && isEnvLike(fileName);
}

/** The names that a file with an env file's name sets; none if it is something else. */
async function namesInFile({ content }: Surroundings): Promise<string[]> {
  if (content.size > limits.optionalFileBytes.value) return [];
  const file = parseEnvFile(Buffer.from(await content.text()));
  const isOther = file.problems.length > file.entries.length;
  return isOther ? [] : [...file.names];
}

/** The names in the lines around a hit, as far as each is a line of an env file. */
function linesAround([first]: readonly MarkHit[], { content }: Surroundings): string[] {
  if (!first) return [];
  const from = Math.max(0, first.start - REACH);
  const text = Buffer.from(content.read(from, first.end + REACH)).toString('latin1');
  const at = first.start - from;
  const isEscaped = text.startsWith('\\n', at);
  const lineBreak = isEscaped ? /(?:\\r)?\\n/ : /\r?\n/;
  // In a string of a script, the lines end with the string.
  const quotes = isEscaped ? /["'`]/ : /\0/;
  const after = (text.slice(at + (isEscaped ? 2 : 1)).split(quotes)[0] ?? '').split(lineBreak);
  const before = (text.slice(0, at).split(quotes).at(-1) ?? '').split(lineBreak).reverse();
  return [...namesIn(before).reverse(), ...namesIn(after)];
}

function namesIn(lines: readonly string[]): string[] {
  const names: string[] = [];
  for (const line of lines) {
    const name = entryLine.exec(line)?.[1];
    if (name !== undefined) names.push(name);
    else if (!otherLine.test(line)) break;
  }
  return names;
}
