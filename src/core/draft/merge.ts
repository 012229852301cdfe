import { isMap, isScalar, type Node, type Pair, type YAMLMap } from 'yaml';
import type { Contract } from '../contract/contract.js';
import { layersOf } from '../contract/scopes.js';
import type { RawFinding } from '../findings/finding.js';
import { yamlDocument } from '../text/yaml.js';
import type { Draft } from './draft.js';
import { layerText } from './material.js';
import { bundleText, stageText, variableText } from './write.js';

/** Entries of a draft that a contract lacks. */
export function newIn(draft: Draft, contract: Contract): Draft {
  const known = new Set<string>();
  const prefixes = [...contract.bundles.values()].flatMap(({ prefixes }) => prefixes);
  for (const { name, aka, names } of contract.variables.values())
    for (const one of [name, ...aka, ...Object.values(names), ...prefixes.map((prefix) => prefix + name)])
      known.add(one);
  const folders = [...contract.bundles.values()].flatMap(({ code, output }) => [...code, ...output]);
  const isKnownBundle = ({ name, code, output }: Draft['bundles'][number]) =>
    contract.bundles.has(name) || [...code, ...output].some((path) => folders.includes(path));
  return {
    stages: draft.stages.filter(({ name, isTold }) => isTold && !contract.stages.has(name)),
    bundles: draft.bundles.filter((bundle) => !isKnownBundle(bundle)),
    variables: draft.variables.filter(({ name }) => !known.has(name)),
    passes: [],
    unread: draft.unread.filter((name) => !known.has(name)),
    undecided: draft.undecided.filter((one) => !isDecided(one, contract)),
  };
}

/** Tells whether a contract has what an item of a draft asks for. */
function isDecided({ variable, variant, facts }: RawFinding, contract: Contract): boolean {
  if (variable !== undefined) return contract.variables.has(variable);
  const outputs = [...contract.bundles.values()].flatMap(({ output }) => output);
  if (variant === 'native-copies') return (facts.copies as string[]).every((path) => outputs.includes(path));
  return variant === 'page-settings' && layersOf(contract).some(({ name }) => name === facts.path);
}

/** Value files that no stage of a contract names, though they are for one that it has. */
export function unlisted(draft: Draft, contract: Contract): { stage: string; layers: string[] }[] {
  const listed = new Set(
    layersOf(contract).map((layer) =>
      layer.kind === 'file' ? layerText({ path: layer.name, ...(layer.key && { key: layer.key }) }) : layer.name,
    ),
  );
  return draft.stages.flatMap(({ name, layers }) => {
    if (!contract.stages.has(name)) return [];
    const found = [...layers, ...draft.bundles.flatMap((bundle) => bundle.layers[name] ?? [])];
    const missing = [...new Set(found)].filter((layer) => layer !== 'process' && !listed.has(layer));
    return missing.length > 0 ? [{ stage: name, layers: missing }] : [];
  });
}

/**
 * The contract's text with the new entries at the end of their sections; every byte of what was there stays.
 * @throws Error if a section is written in one line, `{ ... }`: there is no line to add to
 */
export function mergedText(text: string, additions: Draft): string {
  const sections: [string, (indent: number) => string[]][] = [
    ['stages', (indent) => additions.stages.map((one) => stageText(one, indent))],
    ['bundles', (indent) => additions.bundles.map((one) => bundleText(one, indent))],
    ['variables', (indent) => additions.variables.map((one) => variableText(one, indent))],
  ];
  return sections.reduce((merged, [section, entries]) => addTo(merged, section, entries), text);
}

export class InlineSection extends Error {
  constructor(readonly section: string) {
    super(section);
  }
}

function addTo(text: string, section: string, entries: (indent: number) => string[]): string {
  if (entries(0).length === 0) return text;
  const { contents } = yamlDocument(text);
  const pair = (contents as YAMLMap).items.find(({ key }) => isScalar(key) && key.value === section) as
    | Pair<Node, Node | null>
    | undefined;
  const ended = text === '' || text.endsWith('\n') ? text : `${text}\n`;
  if (!pair) return `${ended}\n${section}:\n${entries(2).join('')}`;
  const { value } = pair;
  const isEmpty =
    value === null || (isScalar(value) && value.value === null) || (isMap(value) && value.items.length === 0);
  if (isEmpty) {
    const keyEnd = (pair.key.range?.[1] ?? 0) + 1;
    const lineEnd = lineEndAt(text, Math.max(keyEnd, value?.range?.[1] ?? 0));
    return `${text.slice(0, keyEnd)}\n${entries(2).join('')}${text.slice(lineEnd)}`;
  }
  if (!isMap(value) || value.flow) throw new InlineSection(section);
  const [first, last] = [value.items[0], value.items.at(-1)] as Pair<Node, Node | null>[];
  if (!first || !last) throw new InlineSection(section);
  const indent = columnOf(text, first.key.range?.[0] ?? 0);
  const at = lineEndAt(text, last.value?.range?.[1] ?? last.key.range?.[1] ?? 0);
  const before = text.slice(0, at);
  return `${before}${before.endsWith('\n') ? '' : '\n'}${entries(indent).join('')}${text.slice(at)}`;
}

function columnOf(text: string, at: number): number {
  return at - (text.lastIndexOf('\n', at - 1) + 1);
}

/** Behind the line that ends a value; the range of a block value may end after its line feed already. */
function lineEndAt(text: string, at: number): number {
  if (text[at - 1] === '\n') return at;
  const feed = text.indexOf('\n', at);
  return feed < 0 ? text.length : feed + 1;
}
