import { stringify } from 'yaml';
import { toolchainOf } from '../toolchains/index.js';
import { defaultPrefixes } from '../toolchains/toolchain.js';
import type { DraftBundle } from './bundles.js';
import type { Draft, DraftVariable } from './draft.js';
import { layerOfText } from './material.js';
import type { DraftStage } from './stages.js';

const WIDTH = 120;

/** A contract's text, each entry under a comment with its reason. */
export function contractText({ schema, stages, bundles, variables, passes }: Draft): string {
  const parts = [
    `${schema ? `# yaml-language-server: $schema=${schema}\n` : ''}# Drafted by \`adder draft\` from the files of this project. A comment above each entry gives the reasons. Unsure variables have
# the reach server, which no bundle gets. Review this file, then run \`adder values --all\`.
adder: 1
`,
    `stages:\n${stages.map((stage) => stageText(stage, 2)).join('')}`,
  ];
  if (bundles.length > 0) parts.push(`bundles:\n${bundles.map((bundle) => bundleText(bundle, 2)).join('')}`);
  parts.push(
    variables.length === 0
      ? 'variables: {}\n'
      : `variables:\n${variables.map((variable) => variableText(variable, 2)).join('\n')}`,
  );
  if (passes.length > 0) parts.push(`passes:\n${passes.map(passText).join('')}`);
  return parts.join('\n');
}

function passText({ name, because }: Draft['passes'][number]): string {
  return [...comment(because, WIDTH - 2).map((line) => `  ${line}\n`), `  - ${name}\n`].join('');
}

/** @param indent of the section's entries */
export function stageText({ name, layers, because }: DraftStage, indent: number): string {
  return entry(name, { layers: layers.map(layerEntry) }, [because], indent);
}

export function bundleText(bundle: DraftBundle, indent: number): string {
  const { name, runs, toolchain, code, serverCode, output, prefixes, build, layers, because } = bundle;
  const fields = {
    ...(runs !== 'browser' && { runs }),
    toolchain,
    ...(code.length > 0 && { code }),
    ...(serverCode.length > 0 && { 'server-code': serverCode }),
    ...(output.length > 0 && { output }),
    ...(!sameList(prefixes, defaultPrefixes(toolchainOf(bundle))) && { prefix: prefixText(prefixes) }),
    ...(build && { build }),
    ...(Object.keys(layers).length > 0 && { layers: mapValues(layers, (list) => list.map(layerEntry)) }),
  };
  return entry(name, fields, [because], indent);
}

/** A layer as the contract has it: its file, or the file with a key. */
function layerEntry(text: string): string | { file: string; key: string } {
  const { path, key } = layerOfText(text);
  return key === undefined ? path : { file: path, key };
}

function mapValues<T, R>(object: Readonly<Record<string, T>>, change: (value: T) => R): Record<string, R> {
  return Object.fromEntries(Object.entries(object).map(([key, value]) => [key, change(value)]));
}

function sameList(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((one, index) => one === b[index]);
}

function prefixText(prefixes: readonly string[]): string | readonly string[] {
  return prefixes.length > 1 ? prefixes : (prefixes[0] ?? '');
}

export function variableText(variable: DraftVariable, indent: number): string {
  const { name, reach, form, about, example, required, bundles, names, distinct, https, reasons } = variable;
  const more = {
    ...(form && { form }),
    ...(about && { about }),
    ...(example && { example }),
    ...(bundles && { bundles }),
    ...(names && { names }),
    ...(required !== undefined && { required }),
    ...(distinct && { distinct }),
    ...(https && { https }),
  };
  return entry(name, Object.keys(more).length === 0 ? reach : { reach, ...more }, reasons, indent);
}

/** An entry on one line where it fits, under its reasons. */
function entry(name: string, value: unknown, reasons: readonly string[], indent: number): string {
  const margin = ' '.repeat(indent);
  const comments = reasons.flatMap((reason) => comment(reason, WIDTH - indent)).map((line) => `${margin}${line}\n`);
  if (typeof value !== 'object') return `${comments.join('')}${margin}${field(name, value)}\n`;
  const fields = Object.entries(value as object).map(([key, one]) => field(key, one));
  const line = `${margin}${name}: { ${fields.join(', ')} }\n`;
  const block = [
    `${margin}${name}:\n`,
    ...Object.entries(value as object).flatMap(([key, one]) => blockField(key, one, `${margin}  `)),
  ];
  return [...comments, ...(line.length <= WIDTH ? [line] : block)].join('');
}

/** A field on a line, or a list that is too long for one with an item a line. */
function blockField(key: string, value: unknown, margin: string): string[] {
  const line = `${margin}${field(key, value)}\n`;
  if (line.length <= WIDTH || !Array.isArray(value)) return [line];
  const items = value.map((one) => `${margin}  - ${flowText(one)}\n`);
  return [`${margin}${key}:\n`, ...items];
}

/** `key: value`, valid on a line of its own and inside braces. */
function field(key: string, value: unknown): string {
  if (Array.isArray(value) && value.some(isObject)) return `${key}: [${value.map(flowText).join(', ')}]`;
  if (isObject(value)) return `${key}: ${flowText(value)}`;
  const text = stringify({ [key]: value }, { collectionStyle: 'flow', lineWidth: 0, flowCollectionPadding: false });
  return text.trim().slice(1, -1);
}

function isObject(value: unknown): value is object {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function flowText(value: unknown): string {
  if (!isObject(value)) return stringify(value, { lineWidth: 0 }).trim();
  const fields = Object.entries(value).map(([name, one]) => field(name, one));
  return `{ ${fields.join(', ')} }`;
}

/** A reason as comment lines. File names may contain line breaks, which are removed. */
function comment(text: string, width: number): string[] {
  const lines: string[] = [];
  for (const word of text.replace(/[\p{Cc}]+/gu, ' ').split(' ')) {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length + 1 <= width) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(lines.length === 0 ? `# ${word}` : `#   ${word}`);
  }
  return lines;
}
