import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readsIn } from '../../../src/core/reads/index.js';

/** Each read as `kind object name "the text that is pointed at"`, with its fallback. */
function told(path: string, text: string, objects?: string[]): string[] {
  return readsIn(path, text, objects).reads.map(({ kind, object, name, nameStart, nameEnd, optional, fallback }) => {
    const at = text.slice(nameStart, nameEnd);
    const more = [
      optional && 'optional',
      fallback && `or ${fallback.text ?? '?'} (${text.slice(fallback.start, fallback.end)})`,
    ];
    return [`${kind} ${object} ${name ?? '-'} at ${at}`, ...more.filter(Boolean)].join(', ');
  });
}

describe('reads of JavaScript and TypeScript', () => {
  test.each<[code: string, reads: string[]]>([
    ['import.meta.env.A', ['member import.meta.env A at A']],
    ['process.env.A!.trim()', ['member process.env A at A']],
    ['process.env["A"] + process.env[`B`]', ['constant process.env A at "A"', 'constant process.env B at `B`']],
    ['const K = "A"; f(process.env[K])', ['key process.env A at K']],
    ['process.env[key]', ['computed process.env - at key']],
    ['import.meta.env?.A', ['member import.meta.env A at A, optional']],
    ['(process.env as Env).A', ['member process.env A at A']],
    [
      'const { A, B: b = "x", ...rest } = process.env',
      [
        'destructured process.env A at A',
        'destructured process.env B at B, or x ("x")',
        'whole process.env - at ...rest',
      ],
    ],
    ['const { env: { A } } = process', ['destructured process.env A at A']],
    ['const { env } = import.meta; env.A', ['alias import.meta.env A at A']],
    ['const e = process.env; f(e.A, e)', ['alias process.env A at A', 'whole process.env - at e']],
    ['function f() { return e.A } const e = process.env', ['alias process.env A at A']],
    ['const e = process.env; function f(e) { return e.A }', ['whole process.env - at process.env']],
    ['const host = process; host.env.A', ['alias process.env A at A']],
    ['const host = import.meta; f(host.env.A, host.url)', ['alias import.meta.env A at A']],
    ['import { env } from "node:process"; env.A', ['alias process.env A at A']],
    ['import process from "process"; process.env.A', ['member process.env A at A']],
    ['console.log(process.env)', ['whole process.env - at process.env']],
    ['f({ ...import.meta.env })', ['spread import.meta.env - at import.meta.env']],
    ['<A {...process.env} />', ['spread process.env - at process.env']],
    ['"A" in process.env', ['in process.env A at "A"']],
    ['process.env.A = "x"; delete process.env.B', ['assigned process.env A at A', 'assigned process.env B at B']],
    ['process.env.A ?? "http://x"', ['member process.env A at A, or http://x ("http://x")']],
    ['process.env.A || other()', ['member process.env A at A, or ? (other())']],
    ['globalThis.process.env.A', ['member globalThis.process.env A at A']],
    [
      'import { PUBLIC_A as a } from "$env/static/public"; const url = a ?? "http://x"; (a) => a || "y"',
      ['import $env/static/public PUBLIC_A at PUBLIC_A, or http://x ("http://x")'],
    ],
    ['import { PUBLIC_A } from "$env/static/public"', ['import $env/static/public PUBLIC_A at PUBLIC_A']],
    ['import { env } from "$env/dynamic/public"; env.A', ['alias $env/dynamic/public A at A']],
    // Code that looks like a read but is none.
    ['function f(process) { return process.env.A }', []],
    ['{ const process = {}; process.env.A }', []],
    ['for (const process of list) process.env.A', []],
    ['try {} catch (process) { process.env.A }', []],
    ['"process.env.A" // process.env.B', []],
    ['my.process.env.A', []],
    ['type T = typeof process.env.A', []],
    ['const e = import.meta.env; function f(e) { return e.A }', []],
  ])('%s', (code, reads) => expect(told('a.tsx', code)).toEqual(reads));

  test.each<[code: string, form: string | undefined]>([
    ['process.env.A', undefined],
    ['process.env?.A', undefined],
    ['process?.env?.A', 'optional'],
    ['(process.env).A', 'parentheses'],
    ['(process).env.A', 'parentheses'],
    ['(process.env as any).A', 'parentheses'],
    ["process['env'].A", 'brackets'],
    ['process\n  .env.A', 'pieces'],
    ['process.env/* x */.A', 'pieces'],
  ])('the object of %j', (code, form) => {
    expect(readsIn('a.ts', code).reads.map(({ objectForm }) => objectForm)).toEqual([form]);
  });

  test.each<[code: string, isGuarded: boolean]>([
    ["typeof process !== 'undefined' && process.env.A", true],
    ["typeof process != 'undefined' && x && process.env.A", true],
    ["x && 'object' === typeof process && process.env.A", true],
    ["typeof process !== 'undefined' ? process.env.A : ''", true],
    ["typeof process === 'undefined' ? '' : process.env.A", true],
    ["if (typeof process !== 'undefined') { f(() => process.env.A) }", true],
    ["if (typeof process === 'undefined' || x) {} else f(process.env.A)", true],
    ["if (typeof process === 'undefined' && x) {} else f(process.env.A)", false],
    ["typeof process === 'undefined' && process.env.A", false],
    ["typeof process !== 'undefined' || process.env.A", false],
    ["typeof process !== 'undefined' ? '' : process.env.A", false],
    ["typeof window !== 'undefined' && process.env.A", false],
  ])('whether %j runs only where there is a process', (code, isGuarded) => {
    const [read] = readsIn('a.ts', code).reads.filter(({ name }) => name === 'A');
    expect(read?.isGuarded === true).toBe(isGuarded);
  });

  test.each<[code: string, specifiers: string[]]>([
    ["new Worker(new URL('./tides.ts', import.meta.url), { type: 'module' })", ['./tides.ts']],
    ["new Worker(new URL('tides', import.meta.url))", ['./tides']],
    ["f(new URL('../tides.worker.js', import.meta.url))", ['../tides.worker.js']],
    ["f(new URL('./logo.png', import.meta.url))", []],
    ["f(new URL('https://saltmarsh.example/a.js', import.meta.url))", []],
    ["f(new URL('./tides.js', location.href))", []],
  ])('the scripts that %j starts', (code, specifiers) => {
    expect(readsIn('a.ts', code).imports.map(({ specifier }) => specifier)).toEqual(specifiers);
  });

  test.each<[code: string, startedAs: string | undefined]>([
    ["new Worker(new URL('./tides.ts', import.meta.url), { type: 'module' })", 'worker'],
    ["new SharedWorker(/* webpackChunkName: 't' */ new URL('./tides.ts', import.meta.url))", 'worker'],
    ["navigator.serviceWorker.register(new URL('./tides.ts', import.meta.url))", 'service worker'],
    ["navigator.serviceWorker?.register(new URL('./tides.ts', import.meta.url))", 'service worker'],
    ["audio.addModule(new URL('./tides.ts', import.meta.url))", 'other'],
    ["const at = new Worker; new URL('./tides.ts', import.meta.url)", 'other'],
    ["import address from './tides.ts?url'", 'other'],
    ["import text from './tides.ts?raw'", 'other'],
    ["import address from './tides.ts?worker&url'", undefined],
    ["import Tides from './tides.ts?worker'", undefined],
    ["import { tides } from './tides.ts'", undefined],
  ])('how %j starts a script', (code, startedAs) => {
    expect(readsIn('a.ts', code).imports.map((one) => one.startedAs)).toEqual([startedAs]);
  });

  test.each<[code: string, goesOn: ('tested' | 'chained' | undefined)[]]>([
    ['if (import.meta.env.A) f()', ['tested']],
    ['if ((import.meta.env.A)) f()', ['tested']],
    ['if (ready && import.meta.env.A) f()', ['tested']],
    ['if (f(import.meta.env.A)) g()', [undefined]],
    ['const on = ready && import.meta.env.A;', [undefined]],
    ['while (import.meta.env.A) f()', ['tested']],
    ['for (; import.meta.env.A; ) f()', ['tested']],
    ['for (const one of [import.meta.env.A]) f(one)', [undefined]],
    ['const on = Boolean(import.meta.env.A);', ['tested']],
    ['const on = !!import.meta.env.A;', ['tested']],
    ['f(typeof import.meta.env.A)', ['tested']],
    ['import.meta.env.A && f()', ['tested']],
    ['import.meta.env.A === "x" ? 1 : 2', ['tested']],
    ['import.meta.env.A > 3 ? 1 : 2', [undefined]],
    ['f(on ? import.meta.env.A : 1)', [undefined]],
    ['f(import.meta.env.A ? 1 : 2)', ['tested']],
    ['import.meta.env.A?.trim()', ['chained']],
    ['import.meta.env.A.trim?.()', [undefined]],
    ['import.meta.env?.A.trim()', [undefined]],
    ['f(import.meta.env.A)', [undefined]],
    ['const a = import.meta.env.A;', [undefined]],
    ['import { PUBLIC_A } from "$env/static/public"; if (PUBLIC_A) f()', ['tested']],
    ['f(/* if ( */ import.meta.env.A)', [undefined]],
  ])('%s goes on without a value: %j', (code, expected) => {
    expect(readsIn('src/a.ts', code).reads.map(({ goesOn }) => goesOn)).toEqual(expected);
  });

  test('a contract names objects of its own, and calls', () => {
    const code = 'window.config.A; Deno.env.get("B"); Deno.env.get(name)';
    expect(told('a.ts', code, ['window.config', 'Deno.env.get()'])).toEqual([
      'member window.config A at A',
      'call Deno.env.get B at "B"',
      'computed Deno.env.get - at name',
    ]);
  });

  test.each<[title: string, entries: string[], code: string, reads: string[]]>([
    [
      'constants of a define option',
      ['__*__'],
      'f(__A__, { __B__ }, x.__C__, { __D__: 1 }); __E__ ?? "x"; const __F__ = 1; f(__F__)',
      ['member __*__ A at __A__', 'member __*__ B at __B__', 'member __*__ E at __E__, or x ("x")'],
    ],
    [
      'a module that a tool makes',
      ['virtual:env'],
      'import { A, B as b } from "virtual:env"',
      ['import virtual:env A at A', 'import virtual:env B at B'],
    ],
    [
      'a configuration, through its names, and as deep as keys are written',
      ['config().public.*', 'config().*'],
      'const c = config(event); f(c.public.seatMap, c.public.api.baseUrl.length, c.fareKey, c.public, c)',
      [
        'member config().public.* seatMap at seatMap',
        'member config().public.* api.baseUrl.length at api',
        'member config().* fareKey at fareKey',
      ],
    ],
    [
      'a destructured configuration',
      ['config().public.*', 'config().*'],
      'import { config } from "#app"; const { public: { seatMap, ...rest }, fareKey } = config(); const { tides = 1 } = config().public',
      [
        'destructured config().public.* seatMap at seatMap',
        'destructured config().* fareKey at fareKey',
        'destructured config().public.* tides at tides, or ? (1)',
      ],
    ],
    [
      'a configuration below what a function gives, through what leads to it',
      ['useSite().config.fields.*'],
      'const { config } = useSite(); const { config: { fields } } = useSite(); f(config.fields.tides, fields?.berth)',
      ['member useSite().config.fields.* tides at tides', 'member useSite().config.fields.* berth at berth'],
    ],
    [
      'an object that a package exports',
      ['Env'],
      "import { Env, Env as E } from '@stencil/core'; f(Env.A, E.C); const { B } = Env",
      ['alias Env A at A', 'alias Env C at C', 'destructured Env B at B'],
    ],
    ['an object of that name from elsewhere', ['Env'], "import { Env } from './env'; f(Env.A)", []],
    ['a global object of that name', ['Env'], 'f(Env.A)', []],
    ['a function of one’s own', ['config().public.*'], 'function config() {} config().public.seatMap', []],
  ])('%s', (_, entries, code, reads) => expect(told('a.ts', code, entries)).toEqual(reads));

  test.each([
    ['a.vue', '<template><p v-if="import.meta.env.A">{{ import.meta.env.B }}</p></template>', ['tested', undefined]],
    ['a.vue', '<template><p v-show="on" :title="import.meta.env.A" /></template>', [undefined]],
    [
      'a.svelte',
      '{#if import.meta.env.A}{import.meta.env.B}{:else if import.meta.env.C}x{/if}',
      ['tested', undefined, 'tested'],
    ],
  ])('a template of %s that asks for a value: %s', (path, text, expected) => {
    const { reads } = readsIn(path, text);
    expect(reads.map(({ goesOn }) => goesOn)).toEqual(expected);
    expect(reads.map(({ nameStart, nameEnd }) => text.slice(nameStart, nameEnd))).toEqual(
      reads.map(({ name }) => name),
    );
  });

  test('a template knows what its script calls an object', () => {
    const script = '<script setup>\nconst config = useRuntimeConfig()\n</script>';
    const page = `${script}<template><p :a="config.public.seatMap">{{ $config.public.tides }} {{ other.public.x }}</p></template>`;
    expect(told('a.vue', page, ['useRuntimeConfig().public.*', '$config.public.*'])).toEqual([
      'member useRuntimeConfig().public.* seatMap at seatMap',
      'member $config.public.* tides at tides',
    ]);
  });

  test('what a module loads', () => {
    const code = `import './a'; import type { T } from './t'; export * from './b'; export { x } from "./c"; import('./d');
const e = require('./e'); import(name)`;
    const { imports } = readsIn('a.ts', code);
    expect(imports.map(({ specifier, isDynamic }) => (isDynamic ? `(${specifier})` : specifier))).toEqual([
      './a',
      './b',
      './c',
      '(./d)',
      './e',
    ]);
  });

  test('a text that is no program is a problem with a place, and never a throw', () => {
    expect(readsIn('a.ts', 'const = process.env.A').problem).toMatchObject({ offset: 6 });
    fc.assert(
      fc.property(
        fc.string(),
        fc.constantFrom('a.ts', 'a.vue', 'a.html', 'a.astro', 'a.svelte', 'a.dart'),
        (text, path) => {
          readsIn(path, `process.env ${text} process.env.A {{ env }} <script>`);
        },
      ),
    );
  });
});

describe('reads of pages and components', () => {
  test.each<[path: string, text: string, reads: string[]]>([
    [
      'a.html',
      '<title>%A%</title><script>f(process.env.B)</script><script type="application/json">process.env.C</script>',
      ['placeholder import.meta.env A at A', 'member process.env B at B'],
    ],
    [
      'a.vue',
      '<template><a :href="$f(env.A)">{{ import.meta.env.B }}</a></template>\n<script setup lang="ts">\nconst x: string = import.meta.env.C\n</script>',
      ['member import.meta.env B at B', 'member import.meta.env C at C'],
    ],
    [
      'a.svelte',
      '<script>\nimport { PUBLIC_A } from "$env/static/public"\n</script>\n{#if import.meta.env.B}<p>{process.env.C ?? "x"}</p>{/if}',
      [
        'import $env/static/public PUBLIC_A at PUBLIC_A',
        'member import.meta.env B at B',
        'member process.env C at C, or x ("x")',
      ],
    ],
    [
      'a.astro',
      '---\nconst a = import.meta.env.A\n---\n<p>{import.meta.env.B}</p>',
      ['member import.meta.env A at A', 'member import.meta.env B at B'],
    ],
    [
      'a.astro',
      '<script src="/a.js" />\n<p title="a > b">{import.meta.env.A}</p>\n<SCRIPT>import.meta.env.B</SCRIPT\n><style>{x}</style>',
      ['member import.meta.env A at A', 'member import.meta.env B at B'],
    ],
    [
      'a.html',
      '<script data-a="</script>" type="module" src=/main.ts></script><script type="importmap">{</script><p>%A%',
      ['placeholder import.meta.env A at A'],
    ],
  ])('%s', (path, text, reads) => expect(told(path, text)).toEqual(reads));
});

describe('reads of Dart', () => {
  test.each<[code: string, reads: string[]]>([
    [`const a = String.fromEnvironment('A');`, ['call String.fromEnvironment A at A']],
    [
      `bool.fromEnvironment("A", defaultValue: false); int.fromEnvironment( 'B')`,
      ['call bool.fromEnvironment A at A', 'call int.fromEnvironment B at B'],
    ],
    ['String.fromEnvironment(name)', ['computed String.fromEnvironment - at String.fromEnvironment(']],
    [`'a \${String.fromEnvironment('A')} b'`, ['call String.fromEnvironment A at A']],
    [`r'\${String.fromEnvironment("A")}'`, []],
    [`// String.fromEnvironment('A')\n/* /* */ String.fromEnvironment('B') */`, []],
    [`'''\nString.fromEnvironment("A")\n'''`, []],
    [`'it\\'s'; String.fromEnvironment('A')`, ['call String.fromEnvironment A at A']],
  ])('%s', (code, reads) => expect(told('a.dart', code)).toEqual(reads));

  test('what a library loads', () => {
    const { imports } = readsIn('a.dart', `import 'b.dart' as b;\nexport "c.dart";\npart of 'd.dart';`);
    expect(imports.map(({ specifier }) => specifier)).toEqual(['b.dart', 'c.dart']);
  });
});
