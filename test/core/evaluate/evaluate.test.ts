import { expect, test } from 'vitest';
import { evaluate } from '../../../src/core/evaluate/interpreter.js';
import { carriedBy, type Value } from '../../../src/core/evaluate/value.js';

/** A value in short: constants as JSON, `<A, B>` for what has values of the environment in it, `?` for the rest. */
function short(value: Value): string {
  switch (value.kind) {
    case 'known':
      return value.value === undefined ? 'undefined' : JSON.stringify(value.value);
    case 'object': {
      const open = value.others.length > 0 || value.spread.length > 0 ? [`...${carried(value)}`] : [];
      return `{${[...[...value.fields].map(([key, one]) => `${key}: ${short(one)}`), ...open].join(', ')}}`;
    }
    case 'list':
      return `[${[...value.items.map(short), ...(value.isOpen ? ['...'] : [])].join(', ')}]`;
    case 'choice':
      return value.of.map(short).sort().join(' | ');
    case 'json':
      return `json ${short(value.of)}`;
    default:
      return carried(value);
  }
}

function carried(value: Value): string {
  const names = [...carriedBy([value]).keys()].sort();
  return names.length > 0 ? `<${names.join(', ')}>` : '?';
}

const files: Record<string, string> = {
  'shared/names.js': "export const names = ['A', 'B']; export default (name) => process.env[name];",
  'common.cjs': 'exports.token = process.env.TOKEN; exports.here = __dirname;',
  'data.json': '{ "list": ["A"] }',
};
const load = (_: string, specifier: string) => {
  const path = specifier.replace('./', '');
  return files[path] === undefined ? undefined : { path, text: files[path] };
};

test.each<[text: string, value: string]>([
  // Constants, and what is made of them.
  ["export default 'a' + `b${1 + 1}`", '"ab2"'],
  ["const a = { b: ['c'] }; export default a.b[0].toUpperCase()", '"C"'],
  ["export default ['A', 'VITE_B'].filter((name) => /^VITE_/.test(name)).map((name) => name.slice(5))", '["B"]'],
  ["export default Object.entries({ a: 1 }).map(([key, value]) => `${key}=${value}`).join('&')", '"a=1"'],
  ['let n = 0; for (let i = 0; i < 3; i++) n += i; export default n', '3'],
  ['let n = 0; for (const one of [1, 2, 3]) { if (one === 2) continue; n += one } export default n', '4'],
  ["switch ('b') { case 'a': x(); case 'b': var found = 1; break; default: found = 2 } export default found", '1'],
  ['const { a = 1, ...rest } = { b: 2 }; export default [a, rest.b]', '[1, 2]'],
  ['function f(n) { return n === 0 ? 0 : f(n - 1) } export default f(9)', '0'],
  ["const m = new Map([['a', 1]]); m.set('b', 2); export default [m.get('b'), [...m.keys()]]", '[2, ["a", "b"]]'],
  ['class A { b = 1; constructor(c) { this.c = c } d() { return this.c } } export default new A(2).d()', '2'],
  ["import path from 'node:path'; export default path.resolve(__dirname, 'a', 'b')", '"a/b"'],
  ["import { join } from 'path'; export default join('a', process.env.A || 'b')", '"a/b" | <A>'],
  ["export default fileURLToPath(new URL('./out', import.meta.url))", '"out"'],
  // Values of the environment.
  ['export default process.env.A', '<A>'],
  ["export default process['env']['A'] ?? 'x'", '"x" | <A>'],
  ['const { A, B: b = 1 } = process.env; export default [A, b]', '[<A>, 1 | <B>]'],
  ["import { env } from 'node:process'; export default `${env.A}/${env.B}`.trim()", '<A, B>'],
  ["export default process.env.A === 'x' ? process.env.B : 'c'", '"c" | <B>'],
  ["export default process.env.A ? 'yes' : 'no'", '"no" | "yes"'],
  ["export default process.env.A.startsWith('x')", '?'],
  ['export default sha256(process.env.A)', '?'],
  ['export default JSON.stringify({ a: process.env.A })', 'json {a: <A>}'],
  ["const env = loadEnv(mode, '.', ''); export default env.A", '<A>'],
  ["const env = loadEnv(mode, '.'); export default [env.A, env.VITE_A]", '[undefined, <VITE_A>]'],
  ["export default load({ path: '.env.local' }).A", '<A>'],
  ["export default require('x').config().parsed", '<*>'],
  ["import { existsSync } from 'fs'; export default existsSync('.env') && 1", '1'],
  ["import * as fs from 'fs'; export default fs.existsSync('.env') ? process.env.A : 1", '1 | <A>'],
  // All names, or some.
  ['export default { ...process.env }', '{...<*>}'],
  ['export default { ...process.env, A: 1 }.A', '1'],
  ['export default { A: 1, ...process.env }.A', '1 | <A>'],
  ["export default Object.keys(process.env).filter((key) => key.startsWith('P_'))", '["P_A", "P_B"]'],
  [
    "const all = Object.keys(process.env).filter((key) => key.startsWith('P_')); export default all.reduce((sum, key) => { sum[key] = process.env[key]; return sum }, {})",
    '{P_A: <P_A>, P_B: <P_B>}',
  ],
  ['export default Object.keys(process.env)', '["P_A", "Q_A", "P_B", "*"]'],
  ['const all = {}; for (const key in process.env) all[key] = process.env[key]; export default all["*"]', '<*>'],
  ["export default Object.keys(loadEnv('', '', 'P_'))", '["P_A", "P_B", "P_*"]'],
  ["export default Object.fromEntries(['A', 'B'].map((n) => [`x.${n}`, process.env[n]]))", '{x.A: <A>, x.B: <B>}'],
  ["const d = {}; for (const n of ['A', 'B']) d[n] = process.env[n]; export default d", '{A: <A>, B: <B>}'],
  ["const d = {}; ['A'].forEach((n) => { d['k' + n] = process.env[n] }); export default d", '{kA: <A>}'],
  ['export default Object.assign({ a: 1 }, { b: process.env.B })', '{a: 1, b: <B>}'],
  // Conditions that are not known.
  ['let a = 1; if (process.env.X) a = 2; export default a', '1 | 2'],
  ['const a = { b: 1 }; if (x()) a.b = process.env.B; export default a', '{b: 1 | <B>}'],
  ['let a; if (x()) { let b = 1; b = 2; a = b } export default a', '2 | undefined'],
  ['const f = () => { if (x()) return 1; return process.env.A }; export default f()', '1 | <A>'],
  ['let a = 1; try { a = process.env.A } catch { a = 2 } export default a', '2 | <A>'],
  ['export default (({ mode }) => ({ mode, a: process.env.A }))()', '{mode: ?, a: <A>}'],
  // Modules.
  ["import get, { names } from './shared/names.js'; export default names.map(get)", '[<A>, <B>]'],
  ["const { token, here } = require('./common.cjs'); export default [token, here]", '[<TOKEN>, "."]'],
  ["import data from './data.json'; export default data.list", '["A"]'],
  ["export { names as default } from './shared/names.js'", '["A", "B"]'],
  ['module.exports = { a: 1 }', '{a: 1}'],
  ['exports.a = 1', '{a: 1}'],
  ["import x from './missing.js'; export default x.y", '?'],
  // Code that does not end, or is none.
  ['const f = () => f(); export default f()', '?'],
  ['while (true) {} export default 1', '?'],
  ['for (;;) {} export default 1', '?'],
  ['let n = 0; do n++; while (n < 3000); export default n', '3000'],
  ['let n = 0; while (x()) n++; export default n', '0 | 1'],
  ['export default {', '{}'],
])('%s is %s', (text, value) => {
  const how = { load, loaders: ['loadEnv'], names: ['P_A', 'Q_A', 'P_B'] };
  expect(short(evaluate('x.config.ts', text, {}, how).exported)).toBe(value);
});
