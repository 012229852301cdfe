import { scriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { isTypeOnly, walk } from '../syntax/walk.js';
import type { Range } from '../text/ranges.js';
import type { SourceText } from './model.js';

/**
 * Which imports of a file load their modules in the browser. TypeScript drops those that are only used as types, and frameworks
 * those that only the parts of a server use.
 */
export class LoadedImports {
  #program: Node | undefined;
  #used: ReadonlySet<string> | undefined;

  /** @param parts of the file, that run on the server */
  constructor(
    readonly file: Pick<SourceText, 'path' | 'text'>,
    readonly parts: readonly Range[],
  ) {}

  /** @param at an offset in the import */
  has(at: number): boolean {
    const kind = scriptLanguage(this.file.path);
    if (kind === undefined || (kind !== 'ts' && kind !== 'tsx' && this.parts.length === 0)) return true;
    this.#program ??= parseSyntax(this.file.text, kind).program;
    const statement = (this.#program.body as Node[]).find(({ start, end }) => start <= at && at < end);
    if (statement?.type !== 'ImportDeclaration') return true;
    const specifiers = statement.specifiers as Node[];
    if (specifiers.length === 0) return true;
    this.#used ??= this.#usedNames(this.#program);
    const used = this.#used;
    return specifiers.some(
      ({ importKind, local }) => importKind !== 'type' && used.has((local as Node).name as string),
    );
  }

  /** Names that code of the browser uses as values. */
  #usedNames(program: Node): Set<string> {
    const used = new Set<string>();
    walk(program, (node, ancestors) => {
      const isOnServer = this.parts.some(({ start, end }) => start <= node.start && node.end <= end);
      if (isOnServer || node.type === 'ImportDeclaration' || isTypeOnly(node)) return false;
      if (node.type !== 'Identifier' && node.type !== 'JSXIdentifier') return undefined;
      const parent = ancestors.at(-1);
      const isProperty =
        (parent?.type === 'MemberExpression' && parent.property === node && !parent.computed) ||
        (parent?.type === 'Property' && parent.key === node && !parent.shorthand);
      if (!isProperty) used.add(node.name as string);
      return undefined;
    });
    return used;
  }
}
