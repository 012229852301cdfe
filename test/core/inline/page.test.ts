import { runInNewContext } from 'node:vm';
import { expect, test } from 'vitest';
import { Inliner } from '../../../src/core/inline/inline.js';
import { Secret } from '../../../src/core/secrets/secret.js';
import { inlineScripts } from '../../../src/core/syntax/inline-scripts.js';
import { contractOf } from '../../support/contract.js';

const contract = contractOf(`adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { TITLE: public, NOTICE: { reach: public, required: false }, SIGNING_KEY: server }
`);
const bundle = contract.bundles.get('desk') ?? expect.unreachable();
const inliner = new Inliner(contract, bundle, new Map([['TITLE', new Secret('"Ferries" & <b>piers</b>')]]));

test.each<[html: string, filled: string, problems: string[]]>([
  ['<title>%VITE_TITLE%</title>', '<title>&quot;Ferries&quot; & &lt;b&gt;piers&lt;/b&gt;</title>', []],
  ['<script>const t = "%VITE_TITLE%"</script>', '<script>const t = "\\"Ferries\\" & <b>piers\\u003c/b>"</script>', []],
  ['<a href="%BASE_URL%">%MODE%</a>', '<a href="%BASE_URL%">%MODE%</a>', []],
  [
    '<p>100% of %VITE_NOTICE%</p>',
    '<p>100% of %VITE_NOTICE%</p>',
    ['1:13 VITE_NOTICE has no value, so the page shows %VITE_NOTICE%'],
  ],
  [
    '<p>\n%VITE_SIGNING_KEY%</p>',
    '<p>\n%VITE_SIGNING_KEY%</p>',
    ['2:2 stops: VITE_SIGNING_KEY, a server-only variable, is read by a module that reaches the browser'],
  ],
])('%s', (html, filled, problems) => {
  const page = inliner.page('index.html', html);
  expect(page.html).toBe(filled);
  const lines = page.problems.map(
    ({ line, column, stops, message }) => `${line}:${column} ${stops ? 'stops: ' : ''}${message}`,
  );
  expect(lines).toEqual(problems);
});

test.each(["'", '"', '`'])('a value in a script of a page is the same in the quotes %s', (quote) => {
  const value = 'It\'s "50 %" of `$' + '{x}`\\ </script><!--\u2028\n';
  const one = new Inliner(contract, bundle, new Map([['TITLE', new Secret(value)]]));
  const { html } = one.page('index.html', `<script>seen(${quote}%VITE_TITLE%${quote})</script>`);
  const [script] = inlineScripts(html);
  const seen: unknown[] = [];
  runInNewContext(script?.code ?? '', { seen: (text: unknown) => seen.push(text) });
  expect(seen).toEqual([value]);
});

test.each([
  ['App.vue', '<script setup>\nconst t = import.meta.env.VITE_TITLE;\n</script>\n<template>{{ t }}</template>\n'],
  [
    'App.svelte',
    '<script lang="ts">\n  const t: string = import.meta.env.VITE_TITLE;\n</script>\n<p>{t} {import.meta.env.VITE_TITLE}</p>\n',
  ],
])('reads in a whole %s', (path, text) => {
  const { inlined, used } = inliner.module(path, text, false);
  expect(inlined?.code).not.toContain('import.meta.env');
  const literal = '"\\"Ferries\\" & <b>piers\\u003c/b>"';
  // A literal at the beginning of an expression could be a directive, so it has brackets.
  const restored = inlined?.code.replaceAll(`(${literal})`, literal).replaceAll(literal, 'import.meta.env.VITE_TITLE');
  expect(restored).toBe(text);
  expect(used[0]).toBe('TITLE');
});
