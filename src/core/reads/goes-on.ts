import type { Node } from '../syntax/parse.js';
import { isWrapper, unwrap } from '../syntax/walk.js';
import type { Read } from './read.js';

/** Describes how code handles a missing value. Fallbacks are a property of their own. */
export function goesOnOf(node: Node, ancestors: readonly Node[]): Pick<Read, 'goesOn'> {
  const around = ancestors.filter((one) => !isWrapper(one));
  let value = node;
  for (const parent of around.reverse()) {
    if (isChained(value, parent)) return { goesOn: 'chained' };
    if (isTested(value, parent)) return { goesOn: 'tested' };
    // The right operand can be the result of the whole expression.
    if (parent.type !== 'LogicalExpression') return {};
    value = parent;
  }
  return {};
}

function isChained(value: Node, { type, optional, object, callee }: Node): boolean {
  if (optional !== true || !/^(Member|Call)Expression$/.test(type)) return false;
  return unwrap((type === 'MemberExpression' ? object : callee) as Node) === value;
}

/** Tells whether the parent expression tests the value. */
export function isTested(value: Node, parent: Node): boolean {
  switch (parent.type) {
    case 'UnaryExpression':
      return parent.operator === 'typeof' || parent.operator === '!';
    case 'LogicalExpression':
      return unwrap(parent.left as Node) === value;
    case 'BinaryExpression':
      return /^[!=]==?$/.test(parent.operator as string);
    case 'IfStatement':
    case 'ConditionalExpression':
    case 'WhileStatement':
    case 'DoWhileStatement':
    case 'ForStatement':
      return parent.test !== null && unwrap(parent.test as Node) === value;
    case 'CallExpression':
      return (parent.callee as Node).name === 'Boolean';
    default:
      return false;
  }
}
