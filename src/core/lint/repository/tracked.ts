import { parseEnvFile } from '../../envfile/parse.js';
import { ignoreLineFor } from '../../files/ignore-line.js';
import { keyFileKind } from '../../files/keys.js';
import { isEnvLike, isLocalFile, valueFileOf } from '../../files/value-files.js';
import { isPlaceholder } from '../../resolve/value-rules.js';
import { quoted } from '../../text/display.js';
import { joinWords, someWords } from '../../text/nearest.js';
import { tokensIn } from '../../tokens/in-text.js';
import type { LintFinding } from '../model.js';
import { narrowNames, type RepositoryFacts } from './facts.js';

const MOST_NAMES = 4;

/** Files with secrets that version control has, or would take at the next `git add .`. */
export function trackedRules(facts: RepositoryFacts): LintFinding[] {
  if (!facts.isVersioned) return [];
  return [...trackedFiles(facts), ...notIgnored(facts)];
}

function trackedFiles(facts: RepositoryFacts): LintFinding[] {
  return [...facts.tracked].sort().flatMap((path): LintFinding[] => {
    const names = secretNamesOf(facts, path);
    const what = names.length > 0 ? `values of ${named(names)}` : isKey(facts, path) ? 'a private key' : undefined;
    if (what === undefined) return [];
    const rule = ignoreLineFor(path);
    return [
      {
        code: 'repo/tracked',
        message: `git tracks ${path}, which contains ${what}`,
        remedy: `run \`git rm --cached ${quoted(path)}\`, add the line ${rule.line} to ${rule.file}, and rotate the values: they stay in the history`,
        place: { path, inside: [] },
      },
    ];
  });
}

function isKey(facts: RepositoryFacts, path: string): boolean {
  const kind = keyFileKind(path);
  // Templates commit the key store of debug builds, whose password is public.
  if (kind === undefined || kind === 'store') return kind === 'store' && !/(^|\/)debug\.(keystore|jks)$/.test(path);
  return tokensIn(facts.text(path) ?? '').some(({ shape }) => shape.kind === 'secret');
}

/** The build, server and undeclared names with a value in an env file, except placeholders. */
function secretNamesOf(facts: RepositoryFacts, path: string): string[] {
  // A file that several stages use under different keys is a layer of each.
  const [layer, ...others] = facts.stages.flatMap(({ layers }) => layers).filter((one) => one.path === path);
  if (layer && !/\.env($|\.)/.test(path))
    return narrowNames(facts, [
      ...new Set([layer, ...others].flatMap(({ offers }) => offers.map(({ name }) => name))),
    ]).filter((name) => facts.contract.variables.has(name));
  if (!isEnvLike(path) && !layer) return [];
  const { entries } = parseEnvFile(Buffer.from(facts.text(path) ?? ''));
  const filled = entries.filter(({ value }) =>
    value.some((part) => part.kind === 'reference' || (part.text.trim() !== '' && !isPlaceholder({}, part.text))),
  );
  return narrowNames(facts, [...new Set(filled.map(({ name }) => name))]);
}

function notIgnored(facts: RepositoryFacts): LintFinding[] {
  const layers = new Map(
    facts.stages.flatMap(({ layers }) =>
      layers.flatMap((layer) => (layer.path === undefined ? [] : [[layer.path, layer] as const])),
    ),
  );
  const others = facts.paths.filter((path) => !layers.has(path) && isEnvLike(path));
  return [...layers.keys(), ...others].flatMap((path): LintFinding[] => {
    if (facts.tracked.has(path) || facts.isIgnored(path)) return [];
    const rule = ignoreLineFor(path);
    const isLocal = valueFileOf(path)?.isLocal === true || isLocalFile(path);
    const isAbsent = layers.get(path)?.state === 'absent';
    const names = isAbsent ? [] : secretNamesOf(facts, path);
    if (!isLocal && names.length === 0) return [];
    const why = isAbsent
      ? 'and does not exist yet: once created, the next `git add .` adds it'
      : names.length > 0
        ? `and contains values of ${named(names)}`
        : 'and is a local file';
    return [
      {
        code: 'repo/not-ignored',
        message: `${path} is not ignored by git, ${why}`,
        remedy: `add the line ${rule.line} to ${rule.file}`,
        place: { path, inside: [] },
      },
    ];
  });
}

/** Files that were env files or keys once, and values of today in any version of any file. */
export function historyRules(facts: RepositoryFacts): LintFinding[] {
  const files = facts.past
    .filter(({ path }) => !facts.tracked.has(path))
    .map(
      ({ path, first, last }): LintFinding => ({
        code: 'repo/in-history',
        message: `the git history contains ${path}, from ${first.id} (${first.day}) to ${last.id} (${last.day})`,
        remedy: 'rotate every value in it: existing clones keep the file even if the history is rewritten',
        place: { path, inside: [] },
      }),
    );
  const values = facts.pastValues.map(
    ({ variable, stages, path, first, last }): LintFinding => ({
      code: 'repo/in-history',
      variable,
      message: `the git history contains the ${joinWords(stages)} value of ${variable}: ${path}, first in ${first.id} (${first.day}), last changed in ${last.id} (${last.day})`,
      remedy: `rotate ${variable}: every clone contains it`,
      place: { path, inside: [] },
    }),
  );
  return [...values, ...files];
}

function named(names: readonly string[]): string {
  return someWords(names, MOST_NAMES);
}
