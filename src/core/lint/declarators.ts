import { scriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { walk } from '../syntax/walk.js';
import { oncePer } from '../text/once.js';
import type { SourceText } from './model.js';

/** A variable's declarator in a script: `NAME = value` of `const NAME = value`. */
export interface Declarator {
  node: Node;
  isExported: boolean;
}

type Script = Pick<SourceText, 'path' | 'text'>;

/** All declarators of a script in source order, collected once for all reads in the script; none for other files. */
export const declaratorsOf = oncePer(collect);

function collect({ path, text }: Script): Declarator[] {
  const language = scriptLanguage(path);
  if (language === undefined) return [];
  const found: Declarator[] = [];
  walk(parseSyntax(text, language).program, (node, ancestors) => {
    if (node.type === 'VariableDeclarator')
      found.push({ node, isExported: ancestors.at(-2)?.type === 'ExportNamedDeclaration' });
    return undefined;
  });
  return found;
}
