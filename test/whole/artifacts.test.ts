import { readdirSync } from 'node:fs';
import { compileString } from 'assemblyscript/asc';
import { describe, expect, test } from 'vitest';
import { ferryProject, secrets } from '../support/adder.js';

const key = secrets.FARE_SIGNING_KEY;
const token = secrets.SOURCE_MAP_UPLOAD_TOKEN;
const inspect = ['inspect', '--stage', 'production'];

interface Said {
  variable: string;
  encoding: string[];
  place: { path: string; inside: string[]; line: number; column: number };
  origin?: { path: string; line: number; column: number };
}

/** A leak: plain, and as an authorization header. */
const fares = `// Fares.\nexport const signed = (order) => [order, '${key}', '${btoa(`quay:${key}`)}'];\n`;
const sources = {
  'package.json': '{ "type": "module" }',
  'src/main.js': "import { signed } from './fares.js';\nconsole.log(signed(location.href));\n",
  'src/fares.js': fares,
};

/** Kinds of source maps, with the bundler options: a script that builds all of them into dist/KIND. */
const bundlers: Record<string, string> = {
  vite: `import { build } from 'vite';
for (const [kind, sourcemap] of [['beside', true], ['inline', 'inline'], ['hidden', 'hidden'], ['none', false]])
  await build({ logLevel: 'error', build: { sourcemap, outDir: 'dist/' + kind, lib: { entry: 'src/main.js', formats: ['es'], fileName: 'main' } } });`,
  rollup: `import { rollup } from 'rollup';
for (const [kind, sourcemap] of [['beside', true], ['inline', 'inline'], ['hidden', 'hidden'], ['none', false]]) {
  const bundle = await rollup({ input: 'src/main.js' });
  await bundle.write({ dir: 'dist/' + kind, sourcemap });
}`,
  rolldown: `import { rolldown } from 'rolldown';
for (const [kind, sourcemap] of [['beside', true], ['inline', 'inline'], ['hidden', 'hidden'], ['none', false]]) {
  const bundle = await rolldown({ input: 'src/main.js' });
  await bundle.write({ dir: 'dist/' + kind, sourcemap, minify: true });
}`,
  esbuild: `import { build } from 'esbuild';
for (const [kind, sourcemap] of [['beside', true], ['inline', 'inline'], ['hidden', 'external'], ['both', 'both'], ['none', false]])
  await build({ entryPoints: ['src/main.js'], outdir: 'dist/' + kind, bundle: true, minify: true, sourcemap });`,
  ...Object.fromEntries(
    [
      ['webpack', 'webpack'],
      ['rspack', '@rspack/core'],
    ].map(([name, module]) => [
      name,
      `import bundler from '${module}';
const make = bundler.rspack ?? bundler;
for (const [kind, devtool] of [['beside', 'source-map'], ['inline', 'inline-source-map'], ['hidden', 'hidden-source-map'], ['bare', 'nosources-source-map'], ['eval', 'eval-source-map'], ['none', false]])
  await new Promise((resolve, reject) => make({ mode: 'production', devtool, entry: './src/main.js', output: { path: process.cwd() + '/dist/' + kind } },
    (error, stats) => (error || stats.hasErrors() ? reject(error ?? stats.toString()) : resolve())));`,
    ]),
  ),
};

/** For each kind of map: where else the leak is, and for how many hits in the script the line is known. */
const kinds: Record<string, { inMaps: string[]; untraced?: true }> = {
  none: { inMaps: [], untraced: true },
  beside: { inMaps: ['.js.map » fares.js'] },
  hidden: { inMaps: ['.js.map » fares.js'] },
  inline: { inMaps: ['.js » data:application/json » fares.js'] },
  both: { inMaps: ['.js » data:application/json » fares.js', '.js.map » fares.js'] },
  bare: { inMaps: [] },
  eval: { inMaps: ['.js » data:application/json » fares.js'], untraced: true },
};

/** A place without what is by chance in it. */
function shapeOf({ place: { path, inside } }: Said): string {
  const names = [path.replace(/^.*?(\.js(\.map)?)$/, '$1'), ...inside];
  return names.map((one) => one.replace(/@\d+$/, '').replace(/^.*(fares\.js).*$/, '$1')).join(' » ');
}

describe.each(Object.entries(bundlers))('what %s builds', (_, script) => {
  test('the leak is found in the script and in its map, of whatever kind, and traced to its line', () => {
    const project = ferryProject({ ...sources, 'build.js': script }).withPackages();
    expect(project.node('build.js')).toMatchObject({ code: 0 });
    const { report } = project.json(inspect);
    expect(report.coverage.unread).toEqual([]);
    const leaks: Said[] = report.findings.filter(({ variable }: Said) => variable === 'FARE_SIGNING_KEY');
    for (const kind of readdirSync(project.path('dist'))) {
      const { inMaps, untraced } = kinds[kind] as (typeof kinds)[string];
      const own = leaks.filter(({ place }) => place.path.startsWith(`dist/${kind}/`));
      for (const encoding of ['plain', 'base64']) {
        const shapes = own.filter((one) => one.encoding.join() === encoding).map(shapeOf);
        expect([kind, encoding, ...shapes.sort()]).toEqual([kind, encoding, '.js', ...inMaps]);
      }
      for (const one of own) {
        const isTraced = one.place.inside.length > 0 || one.place.path.endsWith('.map') || !untraced;
        const line = isTraced ? expect.objectContaining({ path: 'src/fares.js', line: 2 }) : undefined;
        expect([kind, shapeOf(one), one.origin]).toEqual([kind, shapeOf(one), line]);
      }
    }
    project.expectNone([key], project.adder(inspect));
  });
});

test('a site that is rendered ahead, with its compressed twins: a leak in a page is found in all three', () => {
  const project = ferryProject({
    ...sources,
    'index.html': '<!doctype html><main></main><script type="module" src="/src/main.js"></script>',
    'src/main.js': "document.querySelector('main').append(' ready');",
    'src/render.js': `export const render = (data) => \`<p title="\${data.token.replaceAll('"', '&quot;')}">\${data.pier}</p>\`;`,
    'build.js': `import { build } from 'vite';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { brotliCompressSync, gzipSync } from 'node:zlib';
await build({ logLevel: 'error' });
await build({ logLevel: 'error', build: { ssr: 'src/render.js', outDir: 'server' } });
const { render } = await import('./server/render.js');
const page = readFileSync('dist/index.html', 'utf8');
for (const pier of ['north', 'south']) {
  // Data that a careless page was given.
  const data = { pier, ...(pier === 'north' ? { token: process.env.TOKEN } : { token: 'none' }) };
  const json = JSON.stringify(data).replaceAll('/', '\\\\u002F');
  writeFileSync('dist/' + pier + '.html', page.replace('<main></main>', '<main>' + render(data) + '</main><script>window.page=' + json + '</script>'));
}
for (const path of readdirSync('dist', { recursive: true }).filter((path) => /\\.(html|js)$/.test(path))) {
  writeFileSync('dist/' + path + '.gz', gzipSync(readFileSync('dist/' + path)));
  writeFileSync('dist/' + path + '.br', brotliCompressSync(readFileSync('dist/' + path)));
}`.replaceAll('process.env.TOKEN', JSON.stringify(token)),
  }).withPackages();
  expect(project.node('build.js')).toMatchObject({ code: 0 });
  const { report } = project.json(inspect);
  const found = report.findings.map(({ place, encoding }: Said) => [
    [place.path, ...place.inside].join(' » '),
    encoding.join(),
  ]);
  const places = ['dist/north.html', 'dist/north.html.br » north.html', 'dist/north.html.gz » north.html'];
  expect(found.sort()).toEqual(places.flatMap((place) => ['html', 'js-string'].map((one) => [place, one])));
  expect(report.coverage).toMatchObject({ files: 12, members: 8, unread: [] });
  project.expectNone([token], project.adder(inspect));
});

test('WebAssembly with UTF-16 strings', async () => {
  const project = ferryProject({ 'dist/.keep': '' });
  const { error, binary } = await compileString(`export function sign(): string { return ${JSON.stringify(key)}; }`, {
    optimizeLevel: 3,
  });
  expect(error).toBeNull();
  project.write('dist/sign.wasm', binary as Uint8Array);
  const { report } = project.json(inspect);
  expect(report.findings.map(({ variable, encoding, place }: Said) => [variable, encoding, place.path])).toEqual([
    ['FARE_SIGNING_KEY', ['utf-16'], 'dist/sign.wasm'],
  ]);
  project.expectNone([key], project.adder(inspect));
});
