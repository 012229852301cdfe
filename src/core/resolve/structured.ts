import { isMap, isScalar, isSeq, LineCounter, type Node, parseDocument } from 'yaml';
import type { RawFinding } from '../findings/finding.js';
import { Secret } from '../secret.js';
import type { Offer, ReadLayer } from './layers.js';

/**
 * A layer that is a JSON or YAML file. Nested keys become one name, joined with `_`; values are taken as they stand and
 * never expanded. No line of such a file is ever shown, as several values may stand on it.
 */
export function readStructuredLayer(name: string, path: string, text: string): ReadLayer {
  return new StructuredReader(name, path, text).read();
}

/**
 * `api.baseUrl` is `API_BASE_URL`: keys are joined with `_`, camel case is split, other signs become `_`, all upper-cased.
 */
export function joinedName(keys: readonly string[]): string {
  return keys
    .map((key) => key.replace(/([a-z0-9])([A-Z])/g, '$1_$2').replace(/([A-Z])([A-Z][a-z])/g, '$1_$2'))
    .join('_')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .toUpperCase();
}

class StructuredReader {
  readonly #offers = new Map<string, Offer>();
  readonly #findings: RawFinding[] = [];
  readonly #lines = new LineCounter();

  constructor(
    readonly name: string,
    readonly path: string,
    readonly text: string,
  ) {}

  read(): ReadLayer {
    this.#readDocument();
    return {
      name: this.name,
      state: 'read',
      path: this.path,
      offers: [...this.#offers.values()],
      findings: this.#findings,
    };
  }

  #readDocument(): void {
    const isJson = this.path.endsWith('.json');
    const document = parseDocument(this.text, {
      lineCounter: this.#lines,
      prettyErrors: false,
      uniqueKeys: false,
      ...(isJson && { schema: 'json' }),
    });
    const [error] = document.errors;
    if (error) {
      const message = `the file is not ${isJson ? 'JSON' : 'YAML'} from here on`;
      this.#say('file/syntax', error.pos[0], message, 'mend it; none of its values counts');
      return;
    }
    const { contents } = document;
    if (contents === null) return;
    if (isMap(contents)) this.#map(contents, []);
    else
      this.#say(
        'file/syntax',
        contents.range?.[0] ?? 0,
        'the file is not a map of names',
        'write names with their values',
      );
  }

  #map(map: Node, keys: readonly string[]): void {
    if (!isMap(map)) return;
    for (const { key, value } of map.items) {
      const offset = (key as Node).range?.[0] ?? 0;
      this.#value(value as Node | null, [...keys, isScalar(key) ? String(key.value) : ''], offset);
    }
  }

  #value(value: Node | null, keys: readonly string[], offset: number): void {
    if (isMap(value)) this.#map(value, keys);
    else if (isSeq(value)) this.#offer(keys, JSON.stringify(value.toJSON()), offset);
    else if (isScalar(value) && value.value !== null) {
      this.#offer(keys, typeof value.value === 'string' ? value.value : JSON.stringify(value.value), offset);
    } else if (value !== null && !isScalar(value)) {
      this.#say(
        'file/syntax',
        offset,
        `${joinedName(keys)} refers to another place of the file (*name)`,
        'write the value out',
      );
    }
  }

  #offer(keys: readonly string[], text: string, offset: number): void {
    const name = joinedName(keys);
    const { line, col } = this.#lines.linePos(offset);
    if (!/^[A-Z_][A-Z0-9_]*$/.test(name)) {
      this.#say(
        'file/syntax',
        offset,
        `the key does not become a name: "${name}"`,
        'a name does not start with a digit; rename the key',
      );
      return;
    }
    const earlier = this.#offers.get(name)?.source.line;
    if (earlier !== undefined) {
      this.#say(
        'value/duplicate',
        offset,
        `${name} is set again; line ${earlier} set it before, and this line wins`,
        'keep one of the two',
        name,
      );
    }
    this.#offers.set(name, {
      name,
      source: { layer: this.name, path: this.path, line, column: col },
      value: { kind: 'plain', text: new Secret(text) },
    });
  }

  #say(code: RawFinding['code'], offset: number, message: string, remedy: string, variable?: string): void {
    const { line, col } = this.#lines.linePos(offset);
    const place = { path: this.path, inside: [], line, column: col };
    this.#findings.push({ code, message, remedy, place, ...(variable && { variable }) });
  }
}
