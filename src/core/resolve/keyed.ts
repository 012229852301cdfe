import { finding, type RawFinding } from '../findings/finding.js';
import { Secret } from '../secrets/secret.js';
import type { Offer, ReadLayer } from './layer.js';

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

/** Builds the layer of a file whose values have nested keys. */
export class KeyedLayer {
  readonly #offers = new Map<string, Offer>();
  readonly #findings: RawFinding[] = [];
  #hasKey = false;
  #isUnreadable = false;

  /**
   * @param at line and column of an offset in the file
   * @param key the only one whose values are offered, without the key in their names
   */
  constructor(
    readonly name: string,
    readonly path: string,
    readonly at: (offset: number) => { line: number; column: number },
    readonly key?: string,
  ) {}

  /** Tells whether keys lead to values of the layer. */
  covers([first]: readonly string[]): boolean {
    return this.key === undefined || first === this.key;
  }

  done(): ReadLayer {
    if (this.key !== undefined && !this.#hasKey && this.#findings.length === 0)
      this.reportWhole(0, finding('file/syntax', 'no-key', { path: this.path, key: this.key }));
    return {
      name: this.name,
      state: 'read',
      path: this.path,
      offers: [...this.#offers.values()],
      findings: this.#findings,
      isUnreadable: this.#isUnreadable,
    };
  }

  offer(keys: readonly string[], text: string, offset: number): void {
    if (!this.covers(keys)) return;
    this.#hasKey = true;
    const name = joinedName(this.key === undefined ? keys : keys.slice(1));
    if (name === '') return;
    if (!/^[A-Z_][A-Z0-9_]*$/.test(name)) {
      this.report(offset, finding('file/syntax', 'key', { name }));
      return;
    }
    const earlier = this.#offers.get(name)?.source.line;
    if (earlier !== undefined)
      this.report(offset, finding('value/duplicate', 'key', { name, line: earlier }, { variable: name }));
    const source = { layer: this.name, path: this.path, ...this.at(offset) };
    this.#offers.set(name, { name, source, value: { kind: 'plain', text: new Secret(text) } });
  }

  /** Reports what makes the whole file useless. */
  reportWhole(offset: number, of: RawFinding): void {
    this.#isUnreadable = true;
    this.report(offset, of);
  }

  report(offset: number, of: RawFinding): void {
    this.#findings.push({ ...of, place: { path: this.path, inside: [], ...this.at(offset) } });
  }
}
