import type { Template } from '../envfile/ast.js';
import { parseEnvFile } from '../envfile/parse.js';
import type { Excerpt, RawFinding } from '../findings/finding.js';
import { Secret } from '../secret.js';
import type { Position } from '../text/positions.js';
import { ambiguousFindings } from './ambiguous.js';
import { envExcerpt, envProblemFinding, type NameFacts, noFacts } from './env-findings.js';
import { readStructuredLayer } from './structured.js';

/** Where a value came from. `process` has neither path nor line. */
export interface Source {
  layer: string;
  path?: string;
  line?: number;
  column?: number;
}

/** A value as one layer offers it, before references are expanded. */
export interface Offer {
  name: string;
  source: Source;
  /** Env files hold templates; what the process gives is taken as it stands. */
  value: { kind: 'template'; template: Template; at(offset: number): Position } | { kind: 'plain'; text: Secret };
}

/** An offer's value where it is the same for every reader: one with references in it is each tool's own to expand. */
export function literalText({ value }: Offer): Secret | undefined {
  if (value.kind === 'plain') return value.text;
  const texts = value.template.map((part) => (part.kind === 'text' ? part.text : undefined));
  return texts.includes(undefined) ? undefined : new Secret(texts.join(''));
}

/** The values of offers that are the same for every reader, with their names. */
export function literalValues(offers: readonly Offer[]): { name: string; value: Secret; from: Source }[] {
  return offers.flatMap((offer) => {
    const value = literalText(offer);
    return value ? [{ name: offer.name, value, from: offer.source }] : [];
  });
}

/** What became of a layer, for the listing under the values. */
export interface ReadLayer {
  name: string;
  state: 'read' | 'absent';
  path?: string;
  offers: readonly Offer[];
  findings: readonly RawFinding[];
  /** The line on which an offer of this layer stands, as far as it may be shown. */
  quote?(offer: Offer): Excerpt | undefined;
}

/**
 * @param path relative to the contract's folder, for origins and findings
 * @param facts which names and values may be shown in the lines that findings quote
 */
export function readEnvFileLayer(name: string, path: string, bytes: Uint8Array, facts: NameFacts): ReadLayer {
  const file = parseEnvFile(bytes);
  const offers = file.entries.map((entry): Offer => {
    const { line, column } = file.at(entry.nameStart);
    return {
      name: entry.name,
      source: { layer: name, path, line, column },
      value: { kind: 'template', template: entry.value, at: file.at },
    };
  });
  const problems = file.problems.map((problem) => envProblemFinding(file, path, problem, facts));
  const findings = [...problems, ...ambiguousFindings(file, path, facts)];
  const quote = ({ name: variable, source: { line, column } }: Offer) =>
    line && column ? envExcerpt(file, { line, column }, variable.length, facts, variable) : undefined;
  return { name, state: 'read', path, offers, findings, quote };
}

/** Only names of the contract are read from the environment that Adder was started in. */
export function readProcessLayer(
  env: Readonly<Record<string, string | undefined>>,
  names: Iterable<string>,
): ReadLayer {
  const offers: Offer[] = [];
  for (const name of names) {
    const text = Object.hasOwn(env, name) ? env[name] : undefined;
    if (text !== undefined)
      offers.push({ name, source: { layer: 'process' }, value: { kind: 'plain', text: new Secret(text) } });
  }
  return { name: 'process', state: 'read', offers, findings: [] };
}

/** What a command printed: JSON where it begins with a brace, an env file otherwise. No line of it is ever shown. */
export function readCommandLayer(name: string, output: Uint8Array): ReadLayer {
  const isJson = /^\s*\{/.test(Buffer.from(output.subarray(0, 256)).toString('latin1'));
  const layer = isJson
    ? readStructuredLayer(name, `${name}.json`, Buffer.from(output).toString())
    : readEnvFileLayer(name, name, output, noFacts);
  const withoutPath = ({ line, column }: Source): Source => ({
    layer: name,
    ...(line && { line }),
    ...(column && { column }),
  });
  const offers = layer.offers.map((offer) => ({ ...offer, source: withoutPath(offer.source) }));
  // Nobody else reads what a command prints.
  const findings = layer.findings
    .filter(({ code }) => code !== 'value/ambiguous')
    .map(({ place: _, excerpt: __, ...finding }) => ({ ...finding, message: `${name}: ${finding.message}` }));
  return { name, state: 'read', offers, findings };
}

export function absentLayer(name: string, path: string): ReadLayer {
  return { name, state: 'absent', path, offers: [], findings: [] };
}

/** `.env.staging:3`, or `the process's environment`. */
export function describeSource({ path, line, layer }: Source): string {
  if (path === undefined) return layer === 'process' ? "the process's environment" : layer;
  return line === undefined ? path : `${path}:${line}`;
}
