import { type Document, isAlias, isCollection, isScalar, type Node, visit } from 'yaml';
import { limits } from '../limits/index.js';
import { yamlDocument } from '../text/yaml.js';

/** A problem of a YAML text, as a variant of `contract/unreadable`. Offsets are UTF-16 code units. */
export interface YamlProblem {
  variant: 'yaml' | 'alias' | 'aliases' | 'duplicate-key' | 'prototype-key';
  /** The parser's error code (variant `yaml` only). */
  problem?: string;
  start: number;
  end: number;
}

export interface ReadYaml {
  /** The tree with the places and sources of all nodes. Absent if the text cannot be parsed at all. */
  document?: Document;
  data?: unknown;
  problems: YamlProblem[];
}

// The parser recurses per level and takes quadratic time.
const DEEPEST = limits.yamlDepth.value;

/** Tells whether a text has more open brackets, or deeper indentation, than any settings file. */
export function isTooDeep(text: string): boolean {
  let depth = 0;
  for (const { 0: found } of text.matchAll(/[[{]+|[\]}]+|\n +/g)) {
    if (found[0] === '\n') {
      if (found.length > 8 * DEEPEST) return true;
    } else if (found[0] === '[' || found[0] === '{') depth += found.length;
    else depth = Math.max(0, depth - found.length);
    if (depth > DEEPEST) return true;
  }
  return false;
}

const tooDeep: YamlProblem = { variant: 'yaml', problem: 'TOO-DEEP', start: 0, end: 1 };

/** Parses YAML 1.2. Never throws: endless aliases and nesting are problems like any other. */
export function readYaml(text: string): ReadYaml {
  const document = isTooDeep(text) ? undefined : documentOf(text);
  if (!document) return { problems: [tooDeep] };
  // Warnings of the parser, such as an unknown tag, are errors in a contract.
  const problems = [...document.errors, ...document.warnings].map(({ code, pos: [start, end] }) => ({
    variant: 'yaml' as const,
    problem: code,
    start,
    end,
  }));
  if (problems.length > 0) return { document, problems };
  const unusable = [...unknownAliases(document), ...unusableKeys(document), ...keysTwice(document)];
  if (unusable.length > 0) return { document, problems: unusable };
  try {
    return { document, data: document.toJS({ maxAliasCount: MOST_ALIASES }), problems: [] };
  } catch {
    return { document, problems: [tooManyAliases(document)] };
  }
}

function documentOf(text: string): Document | undefined {
  try {
    return yamlDocument(text, { uniqueKeys: false });
  } catch {
    // The parser calls itself for each level.
    return undefined;
  }
}

/** How much aliases may multiply a document (the parser counts uses times size). */
const MOST_ALIASES = 1000;

function unknownAliases(document: Document): YamlProblem[] {
  const anchors = new Set<string>();
  const problems: YamlProblem[] = [];
  visit(document, {
    Node(_, node) {
      if (isAlias(node) && !anchors.has(node.source)) problems.push({ variant: 'alias', ...rangeOf(node) });
      else if (!isAlias(node) && 'anchor' in node && node.anchor) anchors.add(node.anchor);
    },
  });
  return problems;
}

/** The parser compares each key with all others of its map, which takes minutes for a map of 100,000. */
function keysTwice(document: Document): YamlProblem[] {
  const problems: YamlProblem[] = [];
  visit(document, {
    Map(_, { items }) {
      const seen = new Set<unknown>();
      for (const { key } of items) {
        if (!isScalar(key) || !seen.has(key.value)) seen.add(isScalar(key) ? key.value : key);
        else problems.push({ variant: 'duplicate-key', ...rangeOf(key) });
      }
    },
  });
  return problems;
}

/** Keys that no map of names can hold: JavaScript objects have a property of one name, and a map or list is none. */
function unusableKeys(document: Document): YamlProblem[] {
  const problems: YamlProblem[] = [];
  visit(document, {
    Pair(_, { key }) {
      if (isScalar(key) && key.value === '__proto__') problems.push({ variant: 'prototype-key', ...rangeOf(key) });
      else if (isCollection(key)) problems.push({ variant: 'yaml', problem: 'BLOCK_AS_IMPLICIT_KEY', ...rangeOf(key) });
    },
  });
  return problems;
}

function tooManyAliases(document: Document): YamlProblem {
  let first: Node | undefined;
  visit(document, {
    Alias(_, node) {
      first = node;
      return visit.BREAK;
    },
  });
  return { variant: 'aliases', ...(first ? rangeOf(first) : { start: 0, end: 1 }) };
}

function rangeOf({ range }: Node): { start: number; end: number } {
  return { start: range?.[0] ?? 0, end: range?.[1] ?? 1 };
}
