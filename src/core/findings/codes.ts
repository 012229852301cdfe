import { table } from '../text/table.js';
import type { Code, FactName } from '../words/catalogue.js';
import type { Question } from './check.js';

export type { Code } from '../words/catalogue.js';

/** All levels, from the gravest. */
export const levels = ['error', 'warning', 'note'] as const;
export type Level = (typeof levels)[number];

/** Properties that identify a finding besides its own facts. `place`: its file and the containers
 * around it, without digests in names. */
type Context = 'variable' | 'stage' | 'bundle' | 'place' | 'encoding';

/** One kind of finding. Its words are in the catalogue, `core/words`. */
interface CodeEntry<C extends Code = Code> {
  /** The usual level. A rule may give another one, and the contract decides. */
  level: Level;
  /**
   * The facts that make two findings the same one over time, and so are in the fingerprint. Never a line, a count, a date or a
   * text, which change while the problem stays.
   */
  identity: readonly (Context | FactName<C>)[];
  /** The question of an inspection that such a finding answers with no. */
  answer?: Question;
}

/** Every kind of finding. The reference page is generated from this table and the catalogue. */
export const codes: { readonly [C in Code]: CodeEntry<C> } = table({
  'contract/unreadable': { level: 'error', identity: ['place', 'entry', 'name', 'problem', 'kind'] },
  'contract/unknown-key': { level: 'error', identity: ['place', 'entry', 'key'] },
  'contract/risky-public': { level: 'error', identity: ['variable', 'place'] },
  'contract/undecided': {
    level: 'note',
    identity: ['variable', 'place', 'stage', 'stages', 'names', 'path', 'url', 'setting', 'near'],
  },
  'contract/expired-acceptance': { level: 'warning', identity: ['place', 'code', 'where'] },
  'contract/unused-acceptance': { level: 'warning', identity: ['place', 'code', 'where'] },
  'file/syntax': { level: 'error', identity: ['variable', 'place', 'name', 'key'] },
  'file/encoding': { level: 'error', identity: ['place'] },
  'file/read-by-tool': { level: 'warning', identity: ['bundle', 'place', 'name', 'names'] },
  'value/withheld': { level: 'warning', identity: ['bundle', 'place', 'name'] },
  'value/missing': { level: 'error', identity: ['variable', 'stage', 'bundle'] },
  'value/malformed': { level: 'error', identity: ['variable', 'bundle', 'place'] },
  'value/empty': { level: 'error', identity: ['variable', 'stage', 'bundle', 'place'] },
  'value/untidy': { level: 'warning', identity: ['variable', 'place', 'name'] },
  'value/shadowed': { level: 'warning', identity: ['variable', 'place'] },
  'value/duplicate': { level: 'warning', identity: ['variable', 'place', 'name'] },
  'value/ambiguous': { level: 'warning', identity: ['variable', 'place', 'reader'] },
  'value/undeclared': { level: 'warning', identity: ['variable', 'place'] },
  'value/cycle': { level: 'error', identity: ['variable', 'place'] },
  'value/not-distinct': { level: 'error', identity: ['variable', 'stages'] },
  'value/not-same': { level: 'error', identity: ['variable', 'stages'] },
  'value/old-name': { level: 'warning', identity: ['variable', 'place', 'old'] },
  'value/placeholder': { level: 'warning', identity: ['variable', 'stage', 'place'] },
  'value/unknown-reference': { level: 'error', identity: ['variable', 'place', 'name'] },
  'value/widened': { level: 'error', identity: ['variable', 'place', 'inner'] },
  'repo/misnamed': { level: 'warning', identity: ['place', 'layer'] },
  'code/server-read': { level: 'error', identity: ['variable', 'bundle', 'place', 'name', 'to'] },
  'code/unknown-name': { level: 'error', identity: ['variable', 'bundle', 'place', 'name'] },
  'code/unreachable-read': { level: 'warning', identity: ['variable', 'bundle', 'place', 'name', 'object'] },
  'code/whole-object': { level: 'warning', identity: ['variable', 'bundle', 'place', 'name', 'object', 'to'] },
  'code/no-server': { level: 'warning', identity: ['place'] },
  'code/hard-coded': { level: 'warning', identity: ['variable', 'bundle', 'place', 'url'] },
  'code/fallback': { level: 'warning', identity: ['variable', 'bundle', 'place', 'name'] },
  'code/switched-by-comment': { level: 'warning', identity: ['place', 'name'] },
  'code/secret-in-code': { level: 'error', identity: ['variable', 'place', 'shape'] },
  'code/unset': { level: 'warning', identity: ['variable', 'bundle', 'place'] },
  'code/unused': { level: 'note', identity: ['variable', 'place'] },
  'code/unread': { level: 'warning', identity: ['place'] },
  'repo/tracked': { level: 'error', identity: ['variable', 'place', 'shape'] },
  'repo/not-ignored': { level: 'warning', identity: ['place'] },
  'repo/in-history': { level: 'error', identity: ['variable', 'place'] },
  'repo/example-drift': { level: 'warning', identity: ['variable', 'place', 'name', 'names'] },
  'repo/packed': {
    level: 'error',
    identity: ['bundle', 'place', 'path', 'script', 'pattern', 'asset', 'name', 'stored'],
  },
  'repo/pipeline-gap': { level: 'warning', identity: ['variable', 'stage', 'place', 'name'] },
  'repo/workspace': { level: 'warning', identity: ['configuration', 'file', 'place'] },
  'repo/literal-in-pipeline': { level: 'error', identity: ['variable', 'place', 'name'] },
  'repo/dependency-reads': { level: 'note', identity: ['bundle', 'place', 'package'] },
  'leak/known-value': {
    level: 'error',
    identity: ['variable', 'bundle', 'place', 'encoding'],
    answer: 'nothingLeaked',
  },
  'leak/setting': { level: 'note', identity: ['variable', 'bundle', 'part'], answer: 'nothingLeaked' },
  'leak/part-of-value': {
    level: 'error',
    identity: ['variable', 'bundle', 'place', 'encoding', 'part'],
    answer: 'nothingLeaked',
  },
  'leak/token-shape': { level: 'error', identity: ['bundle', 'place', 'shape'], answer: 'nothingLeaked' },
  'leak/random-text': { level: 'warning', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'leak/env-file': { level: 'error', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'leak/private-file': { level: 'error', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'leak/env-dump': { level: 'error', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'leak/name': { level: 'note', identity: ['variable', 'bundle'], answer: 'nothingLeaked' },
  'leak/build-machine': { level: 'warning', identity: ['bundle'], answer: 'nothingLeaked' },
  'leak/source-in-map': { level: 'warning', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'stale/receipt': { level: 'error', identity: ['variable', 'bundle', 'place', 'builtFor'], answer: 'current' },
  'stale/past-value': { level: 'error', identity: ['variable', 'bundle', 'place'], answer: 'current' },
  'stale/missing-value': { level: 'warning', identity: ['variable', 'bundle', 'place'], answer: 'allThere' },
  'stale/runtime-file': { level: 'error', identity: ['variable', 'bundle', 'place'], answer: 'current' },
  'read/unreplaced': { level: 'error', identity: ['variable', 'bundle', 'place'], answer: 'allThere' },
  'stage/foreign-value': {
    level: 'error',
    identity: ['variable', 'stage', 'bundle', 'place', 'encoding'],
    answer: 'current',
  },
  'stage/local-address': { level: 'warning', identity: ['variable', 'bundle', 'place', 'address'], answer: 'current' },
  'stage/development-build': { level: 'warning', identity: ['bundle', 'place'], answer: 'current' },
  'serve/missing-file': { level: 'error', identity: ['bundle', 'place', 'url'], answer: 'allThere' },
  'serve/late-runtime-file': { level: 'error', identity: ['bundle', 'place'], answer: 'allThere' },
  'serve/blocked-runtime-file': { level: 'error', identity: ['bundle', 'place'], answer: 'allThere' },
  'serve/cached-runtime-file': { level: 'warning', identity: ['bundle', 'place'] },
  'serve/wrong-type': { level: 'error', identity: ['bundle', 'place', 'kind'], answer: 'allThere' },
  'serve/cross-origin': { level: 'error', identity: ['bundle', 'place'], answer: 'allThere' },
  'serve/long-cache': { level: 'warning', identity: ['bundle', 'place'] },
  'serve/kept-by-worker': { level: 'warning', identity: ['bundle', 'place', 'url'] },
  'serve/out-of-date': { level: 'error', identity: ['bundle', 'place', 'builtFor'], answer: 'current' },
  'serve/mixed-builds': { level: 'error', identity: ['bundle', 'place'], answer: 'current' },
  'serve/env-file': { level: 'error', identity: ['bundle', 'place'], answer: 'nothingLeaked' },
  'serve/secret-in-answer': {
    level: 'error',
    identity: ['variable', 'bundle', 'place', 'header', 'encoding'],
    answer: 'nothingLeaked',
  },
  'serve/lost-in-browser': { level: 'error', identity: ['variable', 'bundle', 'place'], answer: 'allThere' },
  'host/missing': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/misspelt': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/different': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/malformed': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/wrong-scope': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/exposed': { level: 'error', identity: ['variable', 'stage', 'host', 'name'] },
  'host/extra': { level: 'note', identity: ['stage', 'host', 'name'] },
  'trial/lets-out': { level: 'error', identity: ['variable', 'stage', 'bundle', 'from'] },
  'trial/undeclared': { level: 'error', identity: ['stage', 'bundle', 'name'] },
  'trial/absent': { level: 'error', identity: ['variable', 'stage', 'bundle', 'place'] },
  'trial/other-file': { level: 'error', identity: ['variable', 'stage', 'bundle', 'path'] },
  'trial/unused': { level: 'note', identity: ['variable', 'stage', 'bundle'] },
  'trial/refutes': { level: 'note', identity: ['variable', 'bundle', 'place'] },
  'trial/asked': { level: 'warning', identity: ['bundle', 'name'] },
});

/** A code; its first part is the group. */
export const codePattern = /^(contract|file|value|code|repo|leak|stale|stage|read|serve|host|trial)\/[a-z]+(-[a-z]+)*$/;

/** Sorts the gravest first. */
export function compareLevels(a: Level, b: Level): number {
  return levels.indexOf(a) - levels.indexOf(b);
}

/** Tells whether a finding of this level makes the run fail under `--fail-on`. */
export function isAtLeast(level: Level, failOn: Level | 'never'): boolean {
  return failOn !== 'never' && compareLevels(level, failOn) <= 0;
}
