import { createRequire } from 'node:module';
import type { Comment, EcmaScriptModule, ParseResult, ParserOptions } from 'oxc-parser';
import type { ScriptLanguage } from '../files/languages.js';
import { loadBinary } from './binary-missing.js';
import { nestingOf, SAFE_DEPTH } from './depth.js';

/** A node of the syntax tree (ESTree, with the TypeScript and JSX extensions). Offsets are UTF-16 code units. */
export interface Node {
  type: string;
  start: number;
  end: number;
  [key: string]: unknown;
}

/** A source text that was parsed. Reading `program` builds the tree, which costs more than the parsing did. */
export interface Syntax {
  program: Node;
  module: EcmaScriptModule;
  comments: readonly Comment[];
  /** The first place at which the text is no JavaScript or TypeScript. */
  problem?: { message: string; offset: number };
}

let parser: typeof import('oxc-parser') | undefined;

/**
 * Loaded at first use: most calls of the program parse nothing.
 * @throws BinaryMissing
 */
function loaded(): typeof import('oxc-parser') {
  parser ??= loadBinary('oxc-parser', createRequire(import.meta.url)) as typeof import('oxc-parser');
  return parser;
}

/** True if the parser writes trees where this process reads them; undefined before the first text. */
let sharesMemory: boolean | undefined;

/**
 * Parses with trees in shared memory where Node.js has what that needs (22 and newer): as JSON, a tree takes longer than its parsing.
 * A system that limits the address space refuses: several gigabytes are reserved, and little of them is used.
 */
function parsed(name: string, text: string, options: ParserOptions): ParseResult {
  const { parseSync, rawTransferSupported } = loaded();
  sharesMemory ??= rawTransferSupported();
  if (sharesMemory)
    try {
      return parseSync(name, text, { ...options, experimentalRawTransfer: true } as ParserOptions);
    } catch {
      sharesMemory = false;
    }
  return parseSync(name, text, options);
}

const awaitCall = /(?<![\w$.])await\s*\(/;

/** Parses a source text; never throws, what is wrong is in `problem`. */
export function parseSyntax(text: string, kind: ScriptLanguage): Syntax {
  if (nestingOf(text) > SAFE_DEPTH && !survivesParsing(text, kind)) return unparsed(text);
  const parse = (sourceType: 'unambiguous' | 'module') => {
    const result = parsed(`source.${kind}`, text, { lang: kind, sourceType });
    return { result, error: result.errors.find(({ severity }) => severity === 'Error') };
  };
  const first = parse('unambiguous');
  // A module without imports and exports may still have an `await` at its top: a script has none, or takes it for a call.
  const maySay = first.error ? text.includes('await') : !first.result.module.hasModuleSyntax && awaitCall.test(text);
  const asModule = maySay ? parse('module') : undefined;
  const { result, error } = asModule && !asModule.error ? asModule : first;
  return {
    get program() {
      return result.program as unknown as Node;
    },
    get module() {
      return result.module;
    },
    get comments() {
      return result.comments;
    },
    ...(error && { problem: { message: error.message, offset: error.labels[0]?.start ?? 0 } }),
  };
}

/** Prefix of the message about a text that nests too deeply for the parser. */
export const TOO_DEEP = 'is nested too deeply to parse';

function unparsed(text: string): Syntax {
  return {
    program: { type: 'Program', start: 0, end: text.length, body: [] },
    module: { hasModuleSyntax: false, staticImports: [], staticExports: [], dynamicImports: [], importMetas: [] },
    comments: [],
    problem: { message: TOO_DEEP, offset: 0 },
  };
}

/**
 * Tells whether the parser survives a text that nests deeply. The parser's native stack cannot be guarded from here, so the host
 * provides a test in a process of its own; without one, such a text counts as not parsed.
 */
export type ParserProbe = (text: string, language: ScriptLanguage) => boolean;

let survivesParsing: ParserProbe = () => false;

/** Called once, when the world is made. */
export function setParserProbe(probe: ParserProbe): void {
  survivesParsing = probe;
}

/** The names of the fields that hold other nodes, by the type of the node. */
export function childKeys(): Readonly<Record<string, readonly string[]>> {
  return loaded().visitorKeys;
}
