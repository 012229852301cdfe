import { type Document, isMap, isPair, isScalar, LineCounter, type Node, parseDocument } from 'yaml';
import type { Code } from '../findings/codes.js';
import type { RawFinding } from '../findings/finding.js';
import { choice, type Form, forms } from '../forms/index.js';
import { MASK, Secret } from '../secret.js';
import { excerptOf } from '../text/frame.js';
import { LineMap, type Position } from '../text/positions.js';
import type { Bundle, Contract, Layer, Stage, Variable } from './contract.js';
import { type ContractProblem, crossCheck, describeIssues } from './problems.js';
import { contractSchema, type RawContract } from './schema.js';
import { toolchains } from './toolchains.js';

export interface ParsedContract {
  /** Absent when there are findings: a contract that is partly understood is not used. */
  contract?: Contract;
  findings: RawFinding[];
}

/**
 * Reads adder.yaml. Every problem comes in one go, each with its line.
 * @param text the file
 * @param path how findings name it
 */
export function parseContract(text: string, path: string): ParsedContract {
  const lineCounter = new LineCounter();
  const document = parseDocument(text, { lineCounter, prettyErrors: false, uniqueKeys: true });
  const source = new ContractSource(text, path, document);
  if (document.errors.length > 0) {
    return {
      findings: document.errors.map(({ message, pos: [start, end] }) =>
        source.finding(
          'contract/unreadable',
          message.replace(/\.$/, ''),
          'mend the YAML; indentation and quotes are the usual causes',
          start,
          end,
        ),
      ),
    };
  }
  const data: unknown = document.toJS() ?? {};
  const parsed = contractSchema.safeParse(data);
  if (!parsed.success)
    return { findings: describeIssues(parsed.error.issues, data).map((problem) => source.at(problem)) };
  const contract = settleContract(parsed.data, source);
  const problems = crossCheck(contract);
  return problems.length > 0 ? { findings: problems.map((problem) => source.at(problem)) } : { contract, findings: [] };
}

function settleContract(raw: RawContract, source: ContractSource): Contract {
  const variables = Object.entries(raw.variables).map(([name, value]) => settleVariable(name, value, source));
  return {
    path: source.path,
    stages: byName(
      Object.entries(raw.stages).map(([name, { layers }]): Stage => ({ name, layers: layers.map(settleLayer) })),
    ),
    bundles: byName(Object.entries(raw.bundles).map(([name, bundle]) => settleBundle(name, bundle))),
    variables: byName(variables),
    passes: raw.passes,
    levels: raw.levels,
  };
}

function settleLayer(name: string): Layer {
  return name === 'process' ? { kind: 'process', name } : { kind: 'file', name };
}

function settleBundle(name: string, raw: RawContract['bundles'][string]): Bundle {
  return { ...raw, name, prefix: raw.prefix ?? toolchains[raw.toolchain]?.prefix ?? '' };
}

function settleVariable(name: string, raw: RawContract['variables'][string], source: ContractSource): Variable {
  const at = source.keyPosition(['variables', name]);
  if (typeof raw === 'string') return { name, reach: raw, form: forms.text as Form, required: true, at };
  const { reach, required, about, min, bundles } = raw;
  const form = typeof raw.form === 'string' ? (forms[raw.form] as Form) : choice(raw.form.choice);
  return {
    name,
    reach,
    form,
    required,
    at,
    ...(about !== undefined && { about }),
    ...(min !== undefined && { min }),
    ...(bundles !== undefined && { bundles }),
    ...(raw.default !== undefined && {
      default: new Secret(source.scalarText(['variables', name, 'default'], raw.default)),
    }),
  };
}

function byName<T extends { name: string }>(items: T[]): Map<string, T> {
  return new Map(items.map((item) => [item.name, item]));
}

/** The text of the contract, for positions and for the lines that findings show. */
class ContractSource {
  readonly #lines: LineMap;
  readonly #bytes: Buffer;

  constructor(
    readonly text: string,
    readonly path: string,
    readonly document: Document,
  ) {
    this.#bytes = Buffer.from(text);
    this.#lines = new LineMap(this.#bytes);
  }

  at({ code, message, remedy, path, onKey }: ContractProblem): RawFinding {
    const [start, end] = this.#range(path, onKey ?? false);
    return this.finding(code, message, remedy, start, end);
  }

  /** @param start offset in UTF-16 units, as the YAML parser counts @param end the same, excluded */
  finding(code: Code, message: string, remedy: string, start: number, end: number): RawFinding {
    const position = this.#position(start);
    const length = Math.max(1, end - start);
    const line = this.#maskedLine(position.line);
    return {
      code,
      message,
      remedy,
      place: { path: this.path, inside: [], ...position },
      excerpt: excerptOf(
        position.line,
        line,
        position.column,
        Math.min(length, Math.max(1, line.length - position.column + 1)),
      ),
    };
  }

  keyPosition(path: readonly PropertyKey[]): Position {
    return this.#position(this.#range(path, true)[0]);
  }

  /** A default as it is written: `1.0` is not to become `1` on its way through a number. */
  scalarText(path: readonly PropertyKey[], value: string | number | boolean): string {
    const node = this.document.getIn(path, true);
    return typeof value !== 'string' && isScalar(node) && node.source ? node.source : String(value);
  }

  #position(offset: number): Position {
    return this.#lines.at(Buffer.byteLength(this.text.slice(0, offset)));
  }

  /** A key that is missing has no node, so its parent's place is given. */
  #range(path: readonly PropertyKey[], onKey: boolean): [number, number] {
    for (let length = path.length; length > 0; length--) {
      const parent = this.document.getIn(path.slice(0, length - 1), true);
      const pair = isMap(parent)
        ? parent.items.find(({ key }) => isScalar(key) && String(key.value) === String(path[length - 1]))
        : undefined;
      const value = this.document.getIn(path.slice(0, length), true) as Node | undefined;
      const useKey = onKey || length < path.length || !value?.range;
      const node = useKey && isPair(pair) ? (pair.key as Node) : value;
      if (node?.range) return [node.range[0], node.range[1]];
    }
    return [0, Math.max(0, this.text.indexOf('\n'))];
  }

  /** Defaults and examples may be secrets pasted where they do not belong: only a public variable's are shown. */
  #maskedLine(line: number): string {
    return this.#lines.text(line).replace(/((?:^|[\s{,])["']?default["']?\s*:\s*)([^\s].*)$/, (_, key) => key + MASK);
  }
}
