import { describe, expect, test } from 'vitest';
import { indirectReads, readsIn } from '../../../src/core/reads/index.js';

/** Each indirect read as `path: kind object name "the text that is pointed at"`. */
function told(files: Readonly<Record<string, string>>): string[] {
  const sources = Object.entries(files).map(([path, text]) => ({ path, text, ...readsIn(path, text) }));
  return [...indirectReads(sources)].flatMap(([path, reads]) =>
    reads.map(({ kind, object, name, nameStart, nameEnd }) => {
      const at = files[path]?.slice(nameStart, nameEnd);
      return `${path}: ${kind} ${object} ${name} at ${at}`;
    }),
  );
}

const helper =
  'export function needed(name) { const value = process.env[name]; if (!value) throw name; return value; }';

describe('functions of the project that look names up', () => {
  test.each<[title: string, files: Record<string, string>, reads: string[]]>([
    ['in the same module', { 'a.js': `${helper}\nneeded('A')` }, ["a.js: lookup process.env A at 'A'"]],
    [
      'an arrow function',
      { 'a.ts': 'const get = (k: string) => import.meta.env[k]; get(`A`)' },
      ['a.ts: lookup import.meta.env A at `A`'],
    ],
    [
      'a second parameter',
      { 'a.js': 'const get = (fall, k) => process.env[k] ?? fall; get("x", "A")' },
      ['a.js: lookup process.env A at "A"'],
    ],
    [
      'one that passes the name on',
      { 'a.js': `${helper}\nconst or = (n) => needed(n) || ''; or('A')` },
      ["a.js: lookup process.env A at 'A'"],
    ],
    [
      'an import',
      { 'h.js': helper, 'a.js': "import { needed } from './h'; needed('A')" },
      ["a.js: lookup process.env A at 'A'"],
    ],
    [
      'an import under another name',
      { 'h.js': helper, 'a.js': "import { needed as n } from '@/h'; n('A')" },
      ["a.js: lookup process.env A at 'A'"],
    ],
    [
      'an export list',
      { 'h.js': `${helper.slice(7)}\nexport { needed };`, 'a.js': "import { needed } from './h'; needed('A')" },
      ["a.js: lookup process.env A at 'A'"],
    ],
    [
      'a default export',
      { 'h.js': helper.replace('export', 'export default'), 'a.js': "import needed from './h'; needed('A')" },
      ["a.js: lookup process.env A at 'A'"],
    ],
    ['a statement of its own', { 'a.js': 'process.env[key]; const { [key]: a } = process.env' }, []],
    ['no name that is not constant', { 'a.js': `${helper}\nneeded(a)` }, []],
    ['no function of that name from elsewhere', { 'h.js': helper, 'a.js': "function needed() {} needed('A')" }, []],
    [
      'no function that is not exported',
      { 'h.js': helper.slice(7), 'a.js': "import { needed } from './h'; needed('A')" },
      [],
    ],
    ['no other parameter', { 'a.js': 'const get = (a, k) => process.env[k]; get("A")' }, []],
  ])('%s', (_, files, reads) => expect(told(files)).toEqual(reads));
});

describe('schemas that check the whole object', () => {
  test.each<[title: string, files: Record<string, string>, reads: string[]]>([
    [
      'in the same module',
      { 'a.ts': 'const s = z.object({ A: z.string(), b: 1 }); s.parse(process.env)' },
      ['a.ts: schema process.env A at A'],
    ],
    [
      'without a name',
      { 'a.ts': "z.object({ 'A_B': z.url() }).safeParse(import.meta.env)" },
      ["a.ts: schema import.meta.env A_B at 'A_B'"],
    ],
    [
      'in the same call',
      { 'a.ts': 'make({ client: { A: z.string() }, from: process.env })' },
      ['a.ts: schema process.env A at A'],
    ],
    [
      'an import',
      { 's.ts': 'export const s = object({ A: text });', 'a.ts': "import { s } from './s'; s.parse(process.env)" },
      ['s.ts: schema process.env A at A'],
    ],
    [
      'a spread object',
      { 'a.ts': 'const s = object({ A: text }); s.parse({ ...process.env })' },
      ['a.ts: schema process.env A at A'],
    ],
    ['no keys that are added to the object', { 'a.ts': "run('x', { env: { ...process.env, A: a } })" }, []],
    ['no texts', { 'a.ts': "run('x', { env: process.env, A: 'b' })" }, []],
    ['no keys in a function', { 'a.ts': 'use(process.env, () => ({ A: a }))' }, []],
  ])('%s', (_, files, reads) => expect(told(files)).toEqual(reads));
});
