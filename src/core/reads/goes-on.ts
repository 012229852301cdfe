import type { Node } from '../syntax/parse.js';
import { isWrapper, unwrap } from '../syntax/walk.js';
import type { Read } from './read.js';

/** Tells whether code does without a value that is missing. A fallback is another property of a read. */
export function goesOnOf(node: Node, ancestors: readonly Node[]): Pick<Read, 'goesOn'> {
  const around = ancestors.filter((one) => !isWrapper(one));
  let value = node;
  for (const parent of around.reverse()) {
    if (isChained(value, parent)) return { goesOn: 'chained' };
    if (isTested(value, parent)) return { goesOn: 'tested' };
    // The last of several conditions is the result of all.
    if (parent.type !== 'LogicalExpression') return {};
    value = parent;
  }
  return {};
}

function isChained(value: Node, parent: Node): boolean {
  const part = parent.type === 'MemberExpression' ? parent.object : parent.type === 'CallExpression' && parent.callee;
  return parent.optional === true && unwrap(part as Node) === value;
}

/** Tells whether the expression around a value only asks if there is one. */
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
      return unwrap((parent.test ?? parent) as Node) === value;
    case 'CallExpression':
      return (parent.callee as Node).name === 'Boolean';
    default:
      return false;
  }
}
