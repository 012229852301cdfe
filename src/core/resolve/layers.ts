import type { EnvEntry, EnvFile } from '../envfile/ast.js';
import { parseEnvFile } from '../envfile/parse.js';
import { Secret } from '../secrets/secret.js';
import { isForeignName } from '../toolchains/known-names.js';
import { ambiguousFindings } from './ambiguous.js';
import { envExcerpt, envProblemFinding, type NameFacts, noFacts } from './env-findings.js';
import type { Offer, ReadLayer, ValueSource } from './layer.js';
import { rejectedLines } from './rejected.js';
import { readStructuredLayer } from './structured.js';

/**
 * @param path relative to the contract's directory, for origins and findings
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
      ...(entry.value.some(({ kind }) => kind === 'reference') && { raw: rawValue(file, entry) }),
    };
  });
  const rejected = rejectedLines(file, { layer: name, path });
  const [node, ...others] = file.nodes;
  const isUnreadable = node?.kind === 'broken' && others.length === 0 && file.problems[0]?.code === 'file/encoding';
  const problems = file.problems.map((problem) => envProblemFinding(file, path, problem, facts));
  const findings = [...problems, ...ambiguousFindings(file, path, facts)];
  const quote = ({ name: variable, source: { line, column } }: Offer) =>
    line && column ? envExcerpt(file, { line, column }, variable.length, facts, variable) : undefined;
  return { name, state: 'read', path, offers, rejected, findings, isUnreadable, quote };
}

function rawValue({ bytes }: EnvFile, { valueStart, valueEnd, quote }: EnvEntry): Secret {
  const text = Buffer.from(bytes.buffer, bytes.byteOffset + valueStart, valueEnd - valueStart).toString();
  return new Secret(quote === 'none' ? text : text.slice(1, -1));
}

/** Only names of the contract are read from the environment that Adder was started in. */
export function readProcessLayer(
  env: Readonly<Record<string, string | undefined>>,
  names: Iterable<string>,
): ReadLayer {
  const offers: Offer[] = [];
  const known = new Set(names);
  for (const name of known) {
    const text = Object.hasOwn(env, name) ? env[name] : undefined;
    if (text !== undefined)
      offers.push({ name, source: { layer: 'process' }, value: { kind: 'plain', text: new Secret(text) } });
  }
  const unread = Object.keys(env).filter((name) => !known.has(name) && !isForeignName(name));
  return { name: 'process', state: 'read', offers, findings: [], unread };
}

/** Parses the output of a command: JSON if it begins with a brace, an env file otherwise. No line of it is ever shown. */
export function readCommandLayer(name: string, output: Uint8Array): ReadLayer {
  const isJson = /^\s*\{/.test(Buffer.from(output.subarray(0, 256)).toString('latin1'));
  const layer = isJson
    ? readStructuredLayer(name, `${name}.json`, Buffer.from(output).toString())
    : readEnvFileLayer(name, name, output, noFacts);
  const withoutPath = ({ line, column }: ValueSource): ValueSource => ({
    layer: name,
    ...(line && { line }),
    ...(column && { column }),
  });
  const offers = layer.offers.map((offer) => ({ ...offer, source: withoutPath(offer.source) }));
  const rejected = layer.rejected?.map((line) => ({ ...line, source: withoutPath(line.source) })) ?? [];
  // No other program reads what a command prints.
  const findings = layer.findings
    .filter(({ code }) => code !== 'value/ambiguous')
    .map(({ place: _, excerpt: __, ...finding }) => ({ ...finding, layer: name }));
  return { name, state: 'read', offers, rejected, findings };
}

export function absentLayer(name: string, path: string): ReadLayer {
  return { name, state: 'absent', path, offers: [], findings: [] };
}
