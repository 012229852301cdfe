import { type Facts, looseOutput } from './conclude/facts.js';
import { conclude } from './conclude/index.js';
import type { Contract, Layer, Stage } from './contract/contract.js';
import { settableNames } from './contract/names.js';
import { parseContract } from './contract/parse.js';
import { rulesOf } from './contract/rules.js';
import type { CheckedFile, ContainedValue } from './findings/contents.js';
import { bundleFacts } from './inspect/bundle-facts.js';
import { containedValues } from './inspect/contained.js';
import { unknownSecrets } from './inspect/expected.js';
import { memoryArtifact } from './inspect/memory-artifact.js';
import { planSearch } from './inspect/plan.js';
import type { BundleFacts } from './inspect/rule.js';
import { ArtifactSearch } from './inspect/search.js';
import type { ArtifactResult } from './inspect/visit.js';
import { findingsReport } from './report/findings.js';
import type { FindingsReport } from './report/findings-report.js';
import { readFileLayer } from './resolve/file-layer.js';
import type { ReadLayer } from './resolve/layer.js';
import { absentLayer, readCommandLayer, readProcessLayer } from './resolve/layers.js';
import { type Resolution, reachOf, resolveStage } from './resolve/resolve.js';
import { describe } from './words/describe.js';
import { remedyText } from './words/remedy.js';

/** An artifact in memory. */
export interface ArtifactBytes {
  /** Its path as findings show it, with `/`. The name tells formats and languages that have no signature. */
  path: string;
  bytes: Uint8Array | string;
  /** Who gets it; `browser` if absent, which means everybody. */
  for?: 'browser' | 'server' | 'cache';
  /** The bundle of the contract that it belongs to. */
  bundle?: string;
  /** The text of its source map, if that is not inside of it. */
  sourceMap?: string;
}

export interface InspectInput {
  /** A contract, or the text of `adder.yaml`. */
  contract: Contract | string;
  /** The stage that the artifacts should be for. */
  stage: string;
  /**
   * The layers by their names in the contract: the text of a file, what a command printed, or for `process` an object. Layers that are
   * absent have no values. Give those of all stages: a leaked value need not be one of this stage.
   */
  layers: Readonly<Record<string, string | Readonly<Record<string, string | undefined>>>>;
  artifacts: Iterable<ArtifactBytes>;
  /** As 2026-11-27, for acceptances that have expired; if absent, none has. */
  today?: string;
}

/**
 * Searches artifacts in memory, as `adder inspect PATH...` searches files: the same rules, the same report, which the printers of the
 * program and `adder show` read. It answers whether something leaked; whether values are missing or old, only a whole output with its code
 * and receipts can tell.
 * @throws Error if the contract has a mistake, or no such stage or bundle
 */
export async function inspect({
  contract: given,
  stage,
  layers,
  artifacts,
  today = '',
}: InspectInput): Promise<FindingsReport> {
  const contract = typeof given === 'string' ? contractIn(given) : given;
  if (!contract.stages.has(stage)) throw new Error(`the contract has no stage ${stage}`);
  const resolutions = [...contract.stages.values()].map((one) => resolved(contract, one, layers));
  const asked = resolutions.filter((one) => one.stage.name === stage);
  const plan = planSearch(contract, stage, resolutions);
  const search = new ArtifactSearch(plan);
  const checked = new Checked();
  for (const one of artifacts) {
    const { path, bytes, for: audience = 'browser', sourceMap } = one;
    const content = typeof bytes === 'string' ? Buffer.from(bytes) : bytes;
    const artifact = memoryArtifact(path, content, audience, sourceMap);
    const facts = one.bundle === undefined ? undefined : { bundle: one.bundle, facts: factsOf(contract, one.bundle) };
    const about = { stage, audience, withOrigins: true, ...facts };
    checked.add(one, await search.search(artifact, about));
  }
  const { notSearched, names } = unknownSecrets(stage, asked, resolutions);
  const unsearched = [...plan.notSearched, ...notSearched];
  const facts: Facts = {
    stage,
    variables: [...contract.variables.values()].map(({ name, reach }) => ({ name, reach })),
    coverage: { ...checked.coverage, ...(unsearched.length > 0 && { notSearched: unsearched }) },
    withoutValue: names,
    outputs: [looseOutput(checked.findings)],
    since: [],
    isAll: false,
    shards: [],
  };
  const contents = { variables: facts.variables, files: checked.files, values: checked.values };
  const result = conclude({ ...facts, contents });
  return findingsReport({ command: 'inspect', stage }, [result], rulesOf(contract), today);
}

/** Findings so far. */
class Checked {
  readonly findings: ArtifactResult['findings'] = [];
  readonly files: CheckedFile[] = [];
  readonly values: ContainedValue[] = [];
  readonly coverage = { files: 0, members: 0, bytes: 0, unread: [] as ArtifactResult['unread'] };

  add({ path, bytes, bundle, for: audience = 'browser' }: ArtifactBytes, result: ArtifactResult): void {
    const about = bundle === undefined ? {} : { bundle };
    this.findings.push(...result.findings);
    this.coverage.files++;
    this.coverage.members += result.members;
    this.coverage.bytes += result.bytes;
    this.coverage.unread.push(...result.unread);
    this.files.push({ path, bytes: Buffer.byteLength(bytes), members: result.members, ...about, for: audience });
    this.values.push(...containedValues(result.present, { ...about, path }, (inside) => [...inside]));
  }
}

function contractIn(text: string): Contract {
  const { contract, findings } = parseContract(text, 'adder.yaml');
  if (contract) return contract;
  const lines = findings.map((finding) => {
    const { message, remedy } = describe(finding);
    return `adder.yaml:${finding.place?.line ?? 1} ${message} → ${remedyText(remedy)}`;
  });
  throw new Error(lines.join('\n'));
}

function resolved(contract: Contract, stage: Stage, layers: InspectInput['layers']): Resolution {
  return resolveStage(
    contract,
    stage,
    stage.layers.map((layer) => layerOf(contract, layer, layers)),
  );
}

function layerOf(contract: Contract, layer: Layer, layers: InspectInput['layers']): ReadLayer {
  const given = Object.hasOwn(layers, layer.name) ? layers[layer.name] : undefined;
  if (given === undefined) return absentLayer(layer.name, layer.name);
  if (typeof given !== 'string') {
    const names = [...contract.variables.values()].flatMap((variable) => settableNames(contract, variable));
    return readProcessLayer(given, names);
  }
  if (layer.kind === 'command') return readCommandLayer(layer.name, Buffer.from(given));
  const facts = {
    isPublic: (variable: string) => reachOf(contract, variable) === 'public',
    isDeclared: (variable: string) => contract.variables.has(variable),
  };
  return readFileLayer(layer.name, Buffer.from(given), facts, layer.kind === 'file' ? layer.key : undefined);
}

function factsOf(contract: Contract, name: string): BundleFacts {
  const bundle = contract.bundles.get(name);
  if (!bundle) throw new Error(`the contract has no bundle ${name}`);
  return bundleFacts(bundle);
}
