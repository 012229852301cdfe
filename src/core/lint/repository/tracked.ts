import { parseEnvFile } from '../../envfile/parse.js';
import { ignoreLineFor } from '../../files/ignore-line.js';
import { keyFileKind } from '../../files/keys.js';
import { isEnvLike, isLocalFile, valueFileOf } from '../../files/value-files.js';
import { finding } from '../../findings/finding.js';
import { isPlaceholder } from '../../resolve/value-rules.js';
import { groupBy } from '../../text/group-by.js';
import { tokensIn } from '../../tokens/in-text.js';
import type { LintFinding } from '../model.js';
import { narrowNames, type RepositoryFacts } from './facts.js';

/** The directory of Adder's state that version control may have. */
const HISTORY = 'history';

/** Files with secrets that version control has, or would take at the next `git add .`. */
export function trackedRules(facts: RepositoryFacts): LintFinding[] {
  if (!facts.isVersioned) return [];
  return [...trackedFiles(facts), ...trackedStates(facts), ...notIgnored(facts)];
}

function trackedFiles(facts: RepositoryFacts): LintFinding[] {
  return [...facts.tracked].sort().flatMap((path): LintFinding[] => {
    const names = secretNamesOf(facts, path);
    const about = { path, ignore: ignoreLineFor(path) };
    const at = { place: { path, inside: [] } };
    if (names.length > 0) return [finding('repo/tracked', 'values', { ...about, names }, at)];
    return isKey(facts, path) ? [finding('repo/tracked', 'key', about, at)] : [];
  });
}

/** Adder's own directories, once each: a clone would use the key that everybody has. The history of values is for everybody. */
function trackedStates({ tracked }: RepositoryFacts): LintFinding[] {
  const ofAdder = [...tracked].sort().flatMap((path) => {
    const [, folder = '', name = ''] = /^((?:.*\/)?\.adder)\/([^/]+)/.exec(path) ?? [];
    return name === '' || name === '.gitignore' ? [] : [{ path, folder, name }];
  });
  return [...groupBy(ofAdder, ({ folder }) => folder)].flatMap(([folder, all]): LintFinding[] => {
    const own = all.filter(({ name }) => name !== HISTORY);
    const path = own.find(({ name }) => name === 'key')?.path ?? own[0]?.path;
    if (path === undefined) return [];
    const parts = [...new Set(own.map(({ name }) => `${folder}/${name}`))];
    const about = { path, folder, parts, files: own.length, hasHistory: own.length < all.length };
    return [finding('repo/tracked', 'state', about, { place: { path, inside: [] } })];
  });
}

function isKey(facts: RepositoryFacts, path: string): boolean {
  const kind = keyFileKind(path);
  // Templates commit the key store of debug builds, whose password is public.
  if (kind === undefined || kind === 'store') return kind === 'store' && !/(^|\/)debug\.(keystore|jks)$/.test(path);
  return tokensIn(facts.text(path) ?? '').some(({ shape }) => shape.kind === 'secret');
}

/** The build, server and undeclared names with a value in an env file, except placeholders. */
export function secretNamesOf(facts: RepositoryFacts, path: string): string[] {
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
    const isLocal = valueFileOf(path)?.isLocal === true || isLocalFile(path);
    const isAbsent = layers.get(path)?.state === 'absent';
    const names = isAbsent ? [] : secretNamesOf(facts, path);
    if (!isLocal && names.length === 0) return [];
    const variant = isAbsent ? 'absent' : names.length > 0 ? 'values' : 'local';
    const about = { path, names, ignore: ignoreLineFor(path) };
    return [finding('repo/not-ignored', variant, about, { place: { path, inside: [] } })];
  });
}

/** Files that were env files or keys once, and values of today in any version of any file. */
export function historyRules(facts: RepositoryFacts): LintFinding[] {
  const files = facts.past
    .filter(({ path, names }) => !facts.tracked.has(path) && (!names || names.still.length + names.unknown.length > 0))
    .map(({ path, first, last, names }) =>
      finding('repo/in-history', 'file', { path, first, last, ...names }, { place: { path, inside: [] } }),
    );
  const said = new Set(facts.past.flatMap(({ path, names }) => (names?.still ?? []).map((name) => `${path}\0${name}`)));
  const values = facts.pastValues
    .filter(({ path, variable }) => !said.has(`${path}\0${variable}`))
    .map(({ variable, stages, path, first, last, recorded }) => {
      const about = { variable, stages, path, first, last, recorded };
      return finding('repo/in-history', 'value', about, { place: { path, inside: [] } });
    });
  return [...values, ...files];
}
