import { Document, isMap, isPair, isScalar, type Node, type Pair } from 'yaml';
import { finding, type RawFinding } from '../findings/finding.js';
import { placeBetween } from '../findings/place.js';
import type { Reach } from '../findings/reach.js';
import { choice, type Form, forms, list } from '../forms/index.js';
import { limits } from '../limits/index.js';
import { Secret } from '../secrets/secret.js';
import { excerptOf } from '../text/frame.js';
import { once } from '../text/once.js';
import { LineMap, type Position } from '../text/positions.js';
import { table } from '../text/table.js';
import { toolchainOf } from '../toolchains/index.js';
import { defaultPrefixes } from '../toolchains/toolchain.js';
import type { Bundle, Contract, HistoryRules, Layer, Stage, Variable } from './contract.js';
import { settleHost } from './host-schema.js';
import { type FitsPattern, fitsPattern } from './pattern.js';
import { type ContractProblem, crossCheck, describeIssues } from './problems.js';
import { ContractQuotes } from './quote.js';
import { contractSchema, type RawContract } from './schema.js';
import { openAccess } from './site-access.js';
import { type ReadYaml, readYaml } from './yaml.js';

export interface ParsedContract {
  /** Absent when there are findings: a contract that is partly understood is not used. */
  contract?: Contract;
  findings: RawFinding[];
}

/**
 * Parses adder.yaml. Reports all problems, each with its line.
 * @param text the file
 * @param path how findings name it @param fits matches the patterns of variables, within the host's limit of time
 */
export function parseContract(text: string, path: string, fits: FitsPattern = fitsPattern): ParsedContract {
  const read = readYaml(text);
  const source = new ContractSource(text, path, read);
  if (read.problems.length > 0) {
    const findings = read.problems.map(({ variant, problem = '', start, end }) =>
      source.placed(finding('contract/unreadable', variant, { problem }), start, end),
    );
    return { findings };
  }
  const data = read.data ?? {};
  const parsed = contractSchema.safeParse(data);
  if (!parsed.success)
    return { findings: describeIssues(parsed.error.issues, data).map((problem) => source.at(problem)) };
  const variables = Object.keys(parsed.data.variables).length;
  if (variables > limits.contractVariables.value) return { findings: [source.at(tooManyVariables(variables))] };
  const contract = settleContract(parsed.data, source, fits);
  const problems = crossCheck(contract);
  return problems.length > 0 ? { findings: problems.map((problem) => source.at(problem)) } : { contract, findings: [] };
}

function tooManyVariables(number: number): ContractProblem {
  const facts = { number, limit: limits.contractVariables.value };
  return { finding: finding('contract/unreadable', 'too-many-variables', facts), path: ['variables'], onKey: true };
}

function settleContract(raw: RawContract, source: ContractSource, fits: FitsPattern): Contract {
  const variables = Object.entries(raw.variables).map(([name, value]) => settleVariable(name, value, source, fits));
  return {
    path: source.path,
    stages: byName(
      Object.entries(raw.stages).map(
        ([name, { layers, 'build-as': buildAs }]): Stage => ({
          name,
          layers: layers.map(settleLayer),
          ...(buildAs && { buildAs }),
        }),
      ),
    ),
    ...(raw['default-stage'] !== undefined && { defaultStage: raw['default-stage'] }),
    bundles: byName(Object.entries(raw.bundles).map(([name, bundle]) => settleBundle(name, bundle))),
    variables: byName(variables),
    passes: raw.passes,
    levels: table(raw.levels),
    hosts: byName(Object.entries(raw.hosts).map(([name, host]) => settleHost(name, host))),
    history: settleHistory(raw.history),
    accept: raw.accept.map((one, index) => ({ at: source.keyPosition(['accept', index]), ...one })),
  };
}

const daysOf: Readonly<Record<string, number>> = { day: 1, week: 7, month: 30.44, year: 365.25 };

function settleHistory(raw: RawContract['history']): HistoryRules {
  if (raw === undefined || raw === 'required') return { isRequired: raw === 'required' };
  const [, number, unit = ''] = /^(\d+) (day|week|month|year)/.exec(raw.keep ?? '') ?? [];
  const keepDays = Math.round(Number(number) * (daysOf[unit] ?? 0));
  return { isRequired: raw.required, ...(number !== undefined && { keepDays }) };
}

type RawLayer = RawContract['stages'][string]['layers'][number];

function settleLayer(raw: RawLayer): Layer {
  if (raw === 'process') return { kind: 'process', name: raw };
  if (typeof raw === 'string') return { kind: 'file', name: raw, mustExist: false };
  if ('file' in raw) {
    const { file: name, 'must-exist': mustExist, key } = raw;
    return { kind: 'file', name, mustExist, ...(key !== undefined && { key }) };
  }
  // The arguments of a command may hold what is not to be shown, so its name is the program alone.
  return { kind: 'command', name: `command ${raw.command[0]}`, command: raw.command, seconds: raw.seconds };
}

function settleBundle(name: string, raw: RawContract['bundles'][string]): Bundle {
  const {
    'server-code': serverCode,
    'server-output': serverOutput,
    'source-maps': maps,
    prefix,
    reads,
    ...others
  } = raw;
  const { build, layers, served, ...same } = others;
  return {
    ...same,
    name,
    serverCode,
    forbidsMaps: maps === 'forbidden',
    served: table(
      Object.fromEntries(
        Object.entries(served).map(([stage, site]) => [
          stage,
          typeof site === 'string' ? { url: site, also: [], ...openAccess } : site,
        ]),
      ),
    ),
    ...(serverOutput && { serverOutput }),
    layers: new Map(Object.entries(layers).map(([stage, list]) => [stage, list.map(settleLayer)])),
    prefixes: prefix === undefined ? defaultPrefixes(toolchainOf(raw)) : [prefix].flat().filter((one) => one !== ''),
    ...(reads && { reads }),
    ...(build && { build }),
  };
}

type RawVariable = Exclude<RawContract['variables'][string], string>;

/** The settings of a variable that the contract declares by its reach alone. */
const plainVariable: Omit<Variable, 'name' | 'reach' | 'at'> = {
  form: forms.text as Form,
  required: true,
  https: false,
  same: false,
  delivery: 'inline',
  names: table({}),
  aka: [],
  secretParts: true,
  search: 'auto',
};

function settleVariable(name: string, raw: Reach | RawVariable, source: ContractSource, fits: FitsPattern): Variable {
  const at = source.variablePosition(name);
  if (typeof raw === 'string') return { ...plainVariable, name, reach: raw, at };
  const { form, default: value, example, 'secret-parts': secretParts, pattern, ...rest } = raw;
  const textOf = (key: string, given: string | number | boolean) => source.scalarText(name, key, given);
  const given = Object.fromEntries(Object.entries(rest).filter(([, one]) => one !== undefined)) as typeof rest;
  return {
    ...plainVariable,
    ...(given as Partial<Variable> & { reach: Reach }),
    names: table(given.names),
    name,
    at,
    secretParts,
    form: settleForm(form),
    ...(pattern !== undefined && { pattern: { source: pattern, fits } }),
    ...(value !== undefined && { default: new Secret(textOf('default', value)) }),
    ...(example !== undefined && { example: textOf('example', example) }),
  };
}

function settleForm(raw: RawVariable['form']): Form {
  if (typeof raw === 'string') return forms[raw] as Form;
  return 'choice' in raw ? choice(raw.choice) : list(settleForm(raw.list));
}

function byName<T extends { name: string }>(items: T[]): Map<string, T> {
  return new Map(items.map((item) => [item.name, item]));
}

function pairsByName(map: unknown): Map<string, Pair> {
  const items = isMap(map) ? map.items : [];
  return new Map(items.flatMap((pair) => (isScalar(pair.key) ? [[String(pair.key.value), pair] as const] : [])));
}

/** The text of the contract, for positions and for the lines that findings show. */
class ContractSource {
  readonly #lines: LineMap;
  readonly #bytes: Buffer;
  readonly #isAscii: boolean;
  readonly #quotes: ContractQuotes;
  readonly #document: Document;
  readonly #variables: () => ReadonlyMap<string, Pair>;

  constructor(
    readonly text: string,
    readonly path: string,
    read: ReadYaml,
  ) {
    const document = read.document ?? new Document();
    this.#document = document;
    // Collected once, because the library searches the whole map for each.
    this.#variables = once(() => pairsByName(document.get('variables', true)));
    this.#quotes = new ContractQuotes(text, read.document);
    this.#bytes = Buffer.from(text);
    this.#lines = new LineMap(this.#bytes);
    this.#isAscii = this.#bytes.length === text.length;
  }

  at({ finding: of, path, onKey }: ContractProblem): RawFinding {
    const [start, end] = this.#range(path, onKey ?? false);
    return this.placed(of, start, end);
  }

  /** @param start offset in UTF-16 units, as the YAML parser counts @param end the same, excluded */
  placed(of: RawFinding, start: number, end: number): RawFinding {
    const position = this.#position(start);
    const lineStart = this.text.lastIndexOf('\n', start - 1) + 1;
    const feed = this.text.indexOf('\n', lineStart);
    const lineEnd = feed < 0 ? this.text.length : feed;
    const quote = this.#quotes.line(lineStart, lineEnd, { start, end: Math.min(Math.max(start + 1, end), lineEnd) });
    return {
      ...of,
      place: placeBetween({ path: this.path }, position, this.#position(Math.max(start, end))),
      excerpt: excerptOf(position.line, quote.text.replace(/\r$/, ''), quote.start + 1, quote.end - quote.start),
    };
  }

  variablePosition(name: string): Position {
    const key = this.#variables().get(name)?.key;
    return this.#position(isScalar(key) ? (key.range?.[0] ?? 0) : 0);
  }

  keyPosition(path: readonly PropertyKey[]): Position {
    return this.#position(this.#range(path, true)[0]);
  }

  /** A default as it is written: `1.0` is not to become `1` on its way through a number. */
  scalarText(variable: string, key: string, value: string | number | boolean): string {
    if (typeof value === 'string') return value;
    const settings = this.#variables().get(variable)?.value;
    const node = isMap(settings) ? settings.get(key, true) : undefined;
    return isScalar(node) && node.source ? node.source : String(value);
  }

  #position(offset: number): Position {
    return this.#lines.at(this.#isAscii ? offset : Buffer.byteLength(this.text.slice(0, offset)));
  }

  /** A key that is missing has no node, so its parent's place is given. */
  #range(path: readonly PropertyKey[], onKey: boolean): [number, number] {
    for (let length = path.length; length > 0; length--) {
      const parent = this.#document.getIn(path.slice(0, length - 1), true);
      const pair = isMap(parent)
        ? parent.items.find(({ key }) => isScalar(key) && String(key.value) === String(path[length - 1]))
        : undefined;
      const value = this.#document.getIn(path.slice(0, length), true) as Node | undefined;
      const useKey = onKey || length < path.length || !value?.range;
      const node = useKey && isPair(pair) ? (pair.key as Node) : value;
      if (node?.range) return [node.range[0], node.range[1]];
    }
    return [0, Math.max(0, this.text.indexOf('\n'))];
  }
}
