import type * as z from 'zod/mini';
import { isEnvFileName } from '../files/file-kinds.js';
import { finding, type RawFinding } from '../findings/finding.js';
import { reveal } from '../secrets/secret.js';
import { nearest } from '../text/nearest.js';
import type { FactsOf, VariantOf } from '../words/catalogue.js';
import type { Contract, Layer, Variable } from './contract.js';
import { type Host, hostProblems } from './hosts.js';
import { isPlainName, shownName } from './quote.js';
import { knownKeys } from './schema.js';
import { isSecretInPlain } from './site-access.js';

/** A problem, with the path of its entry. */
export interface ContractProblem {
  finding: RawFinding;
  path: readonly PropertyKey[];
  /** Point at the key and not at its value. */
  onKey?: boolean;
}

type Issue = z.core.$ZodIssue;

/** Zod's issues in Adder's words, each at the entry it is about. No text repeats a value that is free text. */
export function describeIssues(issues: readonly Issue[], data: unknown): ContractProblem[] {
  return withoutMisspelt(issues, data).flatMap((issue) => describeIssue(issue, data));
}

/** A misspelt key and the missing one that it should be are one mistake. */
function withoutMisspelt(issues: readonly Issue[], data: unknown): Issue[] {
  const isMisspelt = (parent: readonly PropertyKey[], key: PropertyKey | undefined) =>
    issues.some(
      (issue) =>
        issue.code === 'unrecognized_keys' &&
        entryName(issue.path) === entryName(parent) &&
        issue.keys.some((one) => nearest(one, [String(key)]).length > 0),
    );
  return issues.filter(
    ({ path }) => path.length === 0 || valueAt(data, path) !== undefined || !isMisspelt(path.slice(0, -1), path.at(-1)),
  );
}

function describeIssue(issue: Issue, data: unknown): ContractProblem[] {
  const name = entryName(issue.path);
  switch (issue.code) {
    case 'unrecognized_keys':
      return issue.keys.map((key) => unknownKey(key, issue.path));
    case 'invalid_union':
      return describeUnion(issue, data);
    case 'invalid_key':
      return [
        unreadable(
          'name',
          { name: shownName(issue.path.at(-1)), rule: issue.issues[0]?.message ?? 'choose another name' },
          issue.path,
          true,
        ),
      ];
    case 'invalid_value':
      return [invalidValue(name, issue.values, valueAt(data, issue.path), issue.path)];
    case 'invalid_type':
      return [wrongType(name, issue.expected, valueAt(data, issue.path), issue.path)];
    default:
      return [unreadable('invalid', { entry: name, rule: issue.message }, issue.path)];
  }
}

type UnionIssue = Extract<Issue, { code: 'invalid_union' }>;

/** Reports only the branch of a union that is closest to the input. */
function describeUnion(issue: UnionIssue, data: unknown): ContractProblem[] {
  const value = valueAt(data, issue.path);
  return isMap(value) ? describeMap(issue, data) : describeWord(issue, value, data);
}

/** For a map: the branch that takes maps and has the fewest complaints about this one. */
function describeMap(issue: UnionIssue, data: unknown): ContractProblem[] {
  const takesMaps = issue.errors.filter((branch) =>
    branch.every(({ path, code }) => path.length > 0 || code === 'unrecognized_keys'),
  );
  const [nearestBranch = issue.errors[0] ?? []] = takesMaps.sort((a, b) => complaints(a) - complaints(b));
  return describeIssues(inPlaceOf(issue, nearestBranch), data);
}

function complaints(branch: readonly Issue[]): number {
  return branch.reduce((sum, issue) => sum + (issue.code === 'unrecognized_keys' ? issue.keys.length : 1), 0);
}

/** For anything else: the known words, the rule for a string, or the first branch. */
function describeWord(issue: UnionIssue, value: unknown, data: unknown): ContractProblem[] {
  const name = entryName(issue.path);
  const atItself = issue.errors.flat().filter(({ path }) => path.length === 0);
  const words = atItself.flatMap((inner) => (inner.code === 'invalid_value' ? inner.values : []));
  if (words.length > 1) return [invalidValue(name, words, value, issue.path)];
  const rule = atItself.find(({ code }) => code === 'invalid_format');
  if (rule) return [unreadable('invalid', { entry: name, rule: rule.message }, issue.path)];
  return inPlaceOf(issue, issue.errors[0] ?? []).flatMap((inner) => describeIssue(inner, data));
}

/** A branch's issues with paths from the whole contract. */
function inPlaceOf(union: UnionIssue, branch: readonly Issue[]): Issue[] {
  return branch.map((inner) => ({ ...inner, path: [...union.path, ...inner.path] }));
}

function isMap(value: unknown): value is object {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function unknownKey(key: string, path: readonly PropertyKey[]): ContractProblem {
  const inner = ['form', 'layers', 'list', 'set', 'change', 'scopes'].find((key) => path.includes(key));
  const kind = path.length === 0 ? 'contract' : (inner ?? String(path[0]));
  const where = path.length === 0 ? 'the contract' : entryName(path);
  const known = [...(knownKeys()[kind] ?? [])];
  return {
    finding: finding('contract/unknown-key', 'key', {
      entry: where,
      key: shownName(key),
      near: nearest(key, known),
      known,
    }),
    path: [...path, key],
    onKey: true,
  };
}

function invalidValue(
  name: string,
  values: readonly unknown[],
  given: unknown,
  path: readonly PropertyKey[],
): ContractProblem {
  const known = values.map(String);
  if (given === undefined) return unreadable('missing-word', { entry: name, known }, path);
  if (name === 'adder') return unreadable('version', { version: known[0] ?? '' }, path);
  const near = typeof given === 'string' ? likelyWords(given, known) : [];
  return unreadable('word', { entry: name, known, near }, path);
}

/** Names that other tools and languages have for our forms. */
const synonyms: Readonly<Record<string, string>> = {
  ...{ bool: 'flag', boolean: 'flag', switch: 'flag', string: 'text', str: 'text', int: 'integer' },
  ...{ float: 'number', double: 'number', decimal: 'number', uri: 'url', array: 'list', object: 'json' },
  ...{ hostname: 'host', domain: 'host', enum: 'choice', datetime: 'date', certificate: 'pem', key: 'pem' },
};

function likelyWords(given: string, known: readonly string[]): string[] {
  const synonym = synonyms[given.toLowerCase()];
  return synonym !== undefined && known.includes(synonym) ? [synonym] : nearest(given, known);
}

function wrongType(name: string, expected: string, given: unknown, path: readonly PropertyKey[]): ContractProblem {
  const article = /^[aeiou]/.test(expected) ? 'an' : 'a';
  const kind =
    expected === 'record' || expected === 'object'
      ? 'a map of names'
      : expected === 'array'
        ? 'a list'
        : `${article} ${expected}`;
  return unreadable(given === undefined ? 'missing' : 'type', { entry: name, kind }, path);
}

type Unreadable = 'contract/unreadable';

function unreadable<V extends VariantOf<Unreadable>>(
  variant: V,
  facts: FactsOf<Unreadable, V>,
  path: readonly PropertyKey[],
  onKey = false,
): ContractProblem {
  return { finding: finding('contract/unreadable', variant, facts), path, onKey };
}

/** `variables.FARE_KEY.reach` */
function entryName(path: readonly PropertyKey[]): string {
  return path.length === 0
    ? 'the contract'
    : path.map((key) => (typeof key === 'number' ? String(key) : shownName(key))).join('.');
}

function valueAt(data: unknown, path: readonly PropertyKey[]): unknown {
  let value = data;
  for (const key of path)
    value =
      typeof value === 'object' && value !== null && Object.hasOwn(value, key)
        ? (value as Record<PropertyKey, unknown>)[key]
        : undefined;
  return value;
}

/** Checks that the schema cannot make: names that refer to other entries, and defaults against their form. */
export function crossCheck(contract: Contract): ContractProblem[] {
  const variables = [...contract.variables.values()];
  const ofBundles = variables.flatMap(({ name, bundles = [] }) =>
    unknownNames(bundles, contract.bundles.keys(), 'bundle', ['variables', name, 'bundles']),
  );
  const ofNames = variables.flatMap(({ name, names }) =>
    unknownNames(Object.keys(names), contract.bundles.keys(), 'bundle', ['variables', name, 'names'], true),
  );
  const ofHttps = variables.flatMap(({ name, https }) =>
    typeof https === 'boolean'
      ? []
      : unknownNames(https, contract.stages.keys(), 'stage', ['variables', name, 'https']),
  );
  const ofLayers = [...contract.bundles.values()].flatMap(({ name, layers }) =>
    unknownNames([...layers.keys()], contract.stages.keys(), 'stage', ['bundles', name, 'layers'], true),
  );
  const ofServed = [...contract.bundles.values()].flatMap(({ name, served }) => [
    ...unknownNames(Object.keys(served), contract.stages.keys(), 'stage', ['bundles', name, 'served'], true),
    ...Object.entries(served).flatMap(([stage, { headers }]) =>
      Object.entries(headers)
        .filter(([header, value]) => isSecretInPlain(header, value))
        .map(([header]) =>
          unreadable('secret-header', { name: header }, ['bundles', name, 'served', stage, 'headers', header]),
        ),
    ),
  ]);
  const ofKeys = [
    ...[...contract.stages].flatMap(([name, { layers }]) => keysOfEnvFiles(layers, ['stages', name, 'layers'])),
    ...[...contract.bundles].flatMap(([name, bundle]) =>
      [...bundle.layers].flatMap(([stage, layers]) => keysOfEnvFiles(layers, ['bundles', name, 'layers', stage])),
    ),
  ];
  const ofStages = variables.flatMap(({ name, required }) =>
    typeof required === 'boolean'
      ? []
      : unknownNames(required, contract.stages.keys(), 'stage', ['variables', name, 'required']),
  );
  const noStage = contract.stages.size === 0 ? [unreadable('no-stage', {}, ['stages'], true)] : [];
  return [
    ...noStage,
    ...unknownNames(
      contract.defaultStage === undefined ? [] : [contract.defaultStage],
      contract.stages.keys(),
      'stage',
      [],
    ).map((problem) => ({ ...problem, path: ['default-stage'] })),
    ...ofBundles,
    ...ofStages,
    ...ofNames,
    ...ofHttps,
    ...ofLayers,
    ...ofServed,
    ...ofKeys,
    ...[...contract.hosts.values()].flatMap((host) => checkHost(contract, host)),
    ...checkOldNames(variables),
    ...variables.flatMap(checkDefault),
  ];
}

function checkHost(contract: Contract, host: Host): ContractProblem[] {
  const path = ['hosts', host.name];
  return [
    ...unknownNames(host.stages ?? [], contract.stages.keys(), 'stage', [...path, 'stages']),
    ...unknownNames(Object.keys(host.stageNames), contract.stages.keys(), 'stage', [...path, 'stage-names'], true),
    ...hostProblems(host).map(({ variant, facts = { name: '', known: [] }, path: at }) =>
      unreadable(variant, facts, [...path, ...at]),
    ),
  ];
}

/** An env file has no keys to choose from. */
function keysOfEnvFiles(layers: readonly Layer[], path: readonly PropertyKey[]): ContractProblem[] {
  return layers.flatMap((layer, index) => {
    if (layer.kind !== 'file' || layer.key === undefined || !isEnvFileName(layer.name)) return [];
    return [unreadable('env-file-key', { name: layer.name }, [...path, index, 'key'], true)];
  });
}

function unknownNames(
  names: readonly string[],
  known: Iterable<string>,
  kind: string,
  path: readonly PropertyKey[],
  asKeys = false,
): ContractProblem[] {
  const all = [...known];
  const shown = all.filter(isPlainName);
  return names.flatMap((name, index) => {
    const at = [...path, asKeys ? name : index];
    const facts = { kind, name: shownName(name), near: nearest(name, shown), known: shown };
    return all.includes(name) ? [] : [unreadable('unknown-name', facts, at, asKeys)];
  });
}

/** An older name that another variable has, under either of its names, could mean both. */
function checkOldNames(variables: readonly Variable[]): ContractProblem[] {
  const taken = new Map(variables.map(({ name }) => [name, name]));
  return variables.flatMap(({ name, aka }) =>
    aka.flatMap((old, index) => {
      const other = taken.get(old);
      taken.set(old, name);
      const path = ['variables', name, 'aka', index];
      return other === undefined ? [] : [unreadable('taken-name', { name: old, other }, path)];
    }),
  );
}

function checkDefault(variable: Variable): ContractProblem[] {
  if (!variable.default) return [];
  const problem = variable.form.problem(reveal(variable.default));
  const path = ['variables', variable.name, 'default'];
  if (!problem) return [];
  const { example, name: form } = variable.form;
  return [unreadable('default', { name: variable.name, problem, example, form }, path)];
}
