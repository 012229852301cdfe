import { either, type Value } from './value.js';

/** A variable, and how many unknown conditions were around its declaration. */
interface Cell {
  value: Value;
  born: number;
}

/** The variables of a block, function or module. */
export class Scope {
  readonly #cells = new Map<string, Cell>();

  /** @param isFunction tells whether `var` declares here */
  constructor(
    readonly parent?: Scope,
    readonly isFunction = false,
  ) {}

  declare(name: string, value: Value, born: number): void {
    this.#cells.set(name, { value, born });
  }

  /** The scope of the function around. */
  owner(): Scope {
    return this.isFunction || !this.parent ? this : this.parent.owner();
  }

  value(name: string): Value | undefined {
    return this.#cell(name)?.value;
  }

  /** Writes a variable. Below more unknown conditions than at its declaration, it may keep its value. */
  assign(name: string, value: Value, unsure: number): void {
    const cell = this.#cell(name);
    if (cell) cell.value = unsure > cell.born ? either([cell.value, value]) : value;
  }

  #cell(name: string): Cell | undefined {
    return this.#cells.get(name) ?? (this.parent ? this.parent.#cell(name) : undefined);
  }
}
