import { deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { inspect } from '../../src/core/index.js';
import { TestProject } from '../support/adder.js';
import { encoders } from '../support/encoders.js';
import { runs } from '../support/runs.js';
import { zipOf } from '../support/unpack.js';

const SECRET = 'kQ7Zt9HqXv3sh1234xyzPq8RtW7aB3';

/** A contract of a project with one secret, declared in some way or not at all. */
const contract = (declared: string, layers: string) => `adder: 1
stages: { staging: { layers: [.env.staging] }, production: { layers: ${layers} } }
bundles: { desk: { toolchain: other, code: [src], output: [dist] } }
variables:
  VITE_API: public
${declared}`;

const declarations = {
  'required by all stages': '  SIGNING_KEY: { reach: server }\n',
  'required by another stage': '  SIGNING_KEY: { reach: server, required: [staging] }\n',
  'required by none': '  SIGNING_KEY: { reach: server, required: false }\n',
  'a build value': '  SIGNING_KEY: { reach: build }\n',
} as const;

/** Where the value is. `layer` holds a line as it is written; other sources hold the value. */
const sources = {
  'a layer': { path: '.env.local', layers: '[.env, .env.local]' },
  'the layer of another stage': { path: '.env.staging', layers: '[.env]' },
  'a file that is no layer': { path: 'ops/.env', layers: '[.env]' },
} as const;

/** Mistakes of the line that has the value. */
const lines = {
  nothing: `SIGNING_KEY=${SECRET}\n`,
  'an open quote': `SIGNING_KEY="${SECRET}\n`,
  'text behind a quote': `SIGNING_KEY="${SECRET}" and more\n`,
  'a command': `SIGNING_KEY=${SECRET}$(date)\n`,
  'a reference to nothing': `SIGNING_KEY=${SECRET}\${GONE}\n`,
  'no value': 'SIGNING_KEY=\n',
  'white space': "SIGNING_KEY='  '\n",
  'no line': '# none\n',
} as const;

/** How it is in the output, as texts that a build could ship. */
const plantings: Record<string, (text: string) => string> = {
  ...Object.fromEntries(
    encoders.flatMap(([title, encode]) =>
      typeof encode(SECRET) === 'string' ? [[title, (text: string) => String(encode(text))]] : [],
    ),
  ),
  'in three pieces': (text) => `k="${text.slice(0, 12)}"+"${text.slice(12, 22)}"+"${text.slice(22)}"`,
  'as numbers, one in a line': (text) =>
    `String.fromCharCode(\n${[...text].map((one) => `  ${one.charCodeAt(0)}`).join(',\n')}\n)`,
};

const containers: Record<string, (text: string) => [name: string, bytes: Uint8Array]> = {
  'a script': (text) => ['app.js', Buffer.from(text)],
  'a page': (text) => ['index.html', Buffer.from(`<!doctype html><script>${text}</script>`)],
  gzip: (text) => ['app.js.gz', gzipSync(text)],
  zip: (text) => ['app.zip', zipOf({ 'www/app.js': text })],
  'a source map': (text) => [
    'app.js.map',
    Buffer.from(JSON.stringify({ version: 3, sources: ['a.js'], sourcesContent: [text], mappings: '' })),
  ],
  'a stream after a head': (text) => [
    'app.bin',
    Buffer.concat([Buffer.from('HDR1'), Buffer.alloc(600), deflateSync(text), Buffer.alloc(600)]),
  ],
  'a data: URI': (text) => [
    'app.css',
    Buffer.from(`a{b:url(data:text/javascript;base64,${Buffer.from(text).toString('base64')})}`),
  ],
};

const oneOf = <T extends object>(table: T) => fc.constantFrom(...(Object.keys(table) as (keyof T & string)[]));

test('no run says yes over a secret that is there', async () => {
  const cases = fc.tuple(
    oneOf(declarations),
    oneOf(sources),
    oneOf(lines),
    oneOf(plantings),
    oneOf(containers),
    fc.boolean(),
  );
  await fc.assert(
    fc.asyncProperty(cases, async ([declared, source, line, planting, container, isGate]) => {
      const { path, layers } = sources[source];
      const [name, bytes] = containers[container]?.(plantings[planting]?.(SECRET) ?? '') ?? expect.unreachable();
      const text = contract(declarations[declared], layers);
      const files = {
        '.env': 'VITE_API=https://api.saltmarsh.example\n',
        '.env.staging': 'VITE_API=https://s.saltmarsh.example\n',
      };
      const all = { ...files, [path]: `${(files as Record<string, string>)[path] ?? ''}${lines[line]}` };
      const at = new TestProject({ 'adder.yaml': text, 'src/a.ts': 'export {}', ...all, [`dist/${name}`]: bytes });
      const { code, report } = at.json(isGate ? ['gate', 'production'] : ['inspect', '--stage', 'production']);
      const answer = report.answers.nothingLeaked.answer;
      expect([answer, code], 'the program').not.toEqual(['yes', 0]);
      // The library has no files besides the layers.
      if (source === 'a file that is no layer') return;
      const { answers } = await inspect({
        contract: text,
        stage: 'production',
        layers: all,
        artifacts: [{ path: `dist/${name}`, bytes }],
      });
      expect(answers?.nothingLeaked.answer, 'the library').not.toBe('yes');
    }),
    { numRuns: runs(600), seed: 31 },
  );
}, 300_000);
