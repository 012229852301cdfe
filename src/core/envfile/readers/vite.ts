import { flatten, partsOf, REFERENCE, type Reader } from './reader.js';

/**
 * The env files of Vite's modes (measured with Vite 8): references are expanded in single quotes too, where `\$` is a dollar sign,
 * and each `#` outside of quotes begins a comment.
 */
export const vite: Reader = {
  name: 'Vite',
  isExpected: true,
  read(line, { quote, value }) {
    const own = flatten(value);
    if (quote === 'none') {
      const [text = ''] = own.split('#');
      return { text: text.trimEnd(), differences: ['takes # for the start of a comment'] };
    }
    const { value: written } = partsOf(line);
    if (quote === 'double') return { text: own, differences: [] };
    const text = written
      .slice(1, written.indexOf("'", 1))
      .replaceAll('\r\n', '\n')
      .replace(/(?<!\\)\$(?:\{[^{}]+\}|[A-Za-z_]\w*)/g, REFERENCE)
      .replaceAll('\\$', '$');
    return { text, differences: ['expands $ in single quotes too'] };
  },
};
