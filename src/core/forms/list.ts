import type { Form } from './form.js';
import { text } from './text.js';

/** Comma-separated items without surrounding white space: `{ list: FORM }`, or `list` for any items. */
export function list(of: Form): Form {
  return {
    name: 'list',
    of,
    problem(value) {
      const items = listItems(value);
      for (const [index, item] of items.entries()) {
        const problem = item === '' ? 'is empty' : of.problem(item);
        if (problem) return `has an invalid item ${index + 1}: it ${problem}`;
      }
      return undefined;
    },
    valid: `text.split(',').map((item) => item.trim()).every((text) => text !== '' && (${of.valid}))`,
    measure: 'length',
    type: { typescript: `readonly (${of.type.typescript})[]`, dart: `List<${of.type.dart}>` },
    example: of === text ? 'north,south' : `${of.example},${of.example}`,
    foldable: false,
  };
}

export function listItems(value: string): string[] {
  return value.split(',').map((item) => item.trim());
}
