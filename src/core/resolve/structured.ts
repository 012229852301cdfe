import { isMap, isScalar, isSeq, LineCounter, type Node, visit } from 'yaml';
import { isTooDeep } from '../contract/yaml.js';
import { finding } from '../findings/finding.js';
import { yamlDocument } from '../text/yaml.js';
import { joinedName, KeyedLayer } from './keyed.js';
import type { ReadLayer } from './layer.js';

/**
 * A JSON or YAML layer. Nested keys become one name, joined with `_`; values are literal and never expanded. No line of such
 * a file is ever shown, because it may contain several values.
 */
export function readStructuredLayer(name: string, path: string, text: string, key?: string): ReadLayer {
  return new StructuredReader(name, path, text, key).read();
}

class StructuredReader {
  readonly #lines = new LineCounter();
  readonly #layer: KeyedLayer;

  constructor(
    readonly name: string,
    readonly path: string,
    readonly text: string,
    key: string | undefined,
  ) {
    const at = (offset: number) => {
      const { line, col } = this.#lines.linePos(offset);
      return { line, column: col };
    };
    this.#layer = new KeyedLayer(name, path, at, key);
  }

  read(): ReadLayer {
    this.#readDocument();
    return this.#layer.done();
  }

  #readDocument(): void {
    const isJson = this.path.endsWith('.json');
    if (isTooDeep(this.text)) {
      this.#layer.reportWhole(0, finding('file/syntax', 'too-deep', {}));
      return;
    }
    const document = yamlDocument(this.text, {
      lineCounter: this.#lines,
      uniqueKeys: false,
      ...(isJson && { schema: 'json' }),
    });
    const [error] = document.errors;
    if (error) {
      const format = isJson ? 'JSON' : 'YAML';
      this.#layer.reportWhole(error.pos[0], finding('file/syntax', 'invalid', { format }));
      return;
    }
    const { contents } = document;
    if (contents === null) return;
    if (isMap(contents)) this.#map(contents, []);
    else this.#layer.reportWhole(contents.range?.[0] ?? 0, finding('file/syntax', 'no-map', {}));
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
    else if (isSeq(value) && !hasAlias(value)) this.#layer.offer(keys, JSON.stringify(value.toJSON()), offset);
    else if (isScalar(value) && value.value !== null) {
      this.#layer.offer(keys, typeof value.value === 'string' ? value.value : JSON.stringify(value.value), offset);
    } else if (value !== null && !isScalar(value) && this.#layer.covers(keys)) {
      this.#layer.report(offset, finding('file/syntax', 'alias', { name: joinedName(keys) }));
    }
  }
}

/** Lists of aliases can multiply a file without limit, and other readers may not support them. */
function hasAlias(node: Node): boolean {
  let found = false;
  visit(node, {
    Alias() {
      found = true;
      return visit.BREAK;
    },
  });
  return found;
}
