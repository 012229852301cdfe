/** The form of a public service's tokens, as the service documents it, or of a general kind of secret. */
export interface TokenShape {
  /** A noun phrase with its article: "a package registry token". */
  name: string;
  /** A secret one must stay unknown; a publishable one is made for pages and apps. */
  kind: 'secret' | 'publishable';
  /** Every token has one of these. Text is searched for them first, because nearly no text has any. */
  marks: readonly string[];
  /** Matches a whole token, in linear time. */
  pattern: RegExp;
  /** Pattern before the mark that belongs to the token. */
  before?: RegExp;
  /** The end of a token that starts at an offset, for tokens that an expression cannot limit. */
  endOf?(text: string, start: number): number | undefined;
  /** Rejects a text that only looks like a token, such as a placeholder or one with a wrong checksum. */
  accepts?(token: string): boolean;
  /** Readable content of the token, as phrases. */
  details?(token: string): string[];
}

/** Tells whether a text of a token's shape is an example: it ends with one character, again and again. No token of a service does. */
export function isExample(token: string): boolean {
  return /(.)\1{11,}$/.test(token);
}

/** A shape that must stay unknown. */
export function secret(name: string, marks: string, pattern: RegExp, more: Partial<TokenShape> = {}): TokenShape {
  return { name, kind: 'secret', marks: marks.split(' '), pattern, ...more };
}

/** A shape that is made to be public. */
export function publishable(name: string, marks: string, pattern: RegExp): TokenShape {
  return { name, kind: 'publishable', marks: marks.split(' '), pattern };
}
