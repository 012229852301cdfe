/** Replaces a value in every output that must not show it. */
export const MASK = '[masked]';

const inspectSymbol = Symbol.for('nodejs.util.inspect.custom');

/**
 * A value on its way through Adder. It prints as a mask wherever text is made of it by accident: String(), template
 * strings, JSON.stringify, util.inspect and so console.log. Only {@link reveal} opens it, so that every place which
 * handles a bare value is found by searching for that name.
 */
export class Secret {
  readonly #text: string;

  constructor(text: string) {
    this.#text = text;
  }

  /** The one way to the text; call it through {@link reveal}. */
  static open(secret: Secret): string {
    return secret.#text;
  }

  toString(): string {
    return MASK;
  }

  toJSON(): string {
    return MASK;
  }

  [Symbol.toPrimitive](): string {
    return MASK;
  }

  [inspectSymbol](): string {
    return MASK;
  }
}

/** Opens a value. The caller is responsible for where the text goes. */
export function reveal(secret: Secret): string {
  return Secret.open(secret);
}

/** Tells whether two values are the same text. */
export function sameSecret(a: Secret, b: Secret): boolean {
  return reveal(a) === reveal(b);
}
