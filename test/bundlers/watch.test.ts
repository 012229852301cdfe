import { type ChildProcess, fork } from 'node:child_process';
import { existsSync, rmSync } from 'node:fs';
import { afterEach, describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { bundlers, plugin } from '../support/bundlers.js';

/** How each bundler watches: statements that call `built()` after each build, with its error if there is one. */
const watching: Readonly<Record<string, string>> = {
  vite: `import { build } from 'vite';
const watcher = await build({ logLevel: 'silent', configFile: false, plugins, build: { minify: false, watch: {}, lib: { entry, formats: ['es'], fileName: 'main' } } });
${events('watcher')}`,
  rollup: `import { watch } from 'rollup';
const watcher = watch({ input: entry, plugins, output: { dir: 'dist' } });
${events('watcher')}`,
  rolldown: `import { watch } from 'rolldown';
const watcher = watch({ input: entry, plugins, output: { dir: 'dist' } });
${events('watcher')}`,
  webpack: `import bundler from 'webpack';\n${compiler()}`,
  rspack: `import { rspack as bundler } from '@rspack/core';\n${compiler()}`,
  esbuild: `import { context } from 'esbuild';
const end = { name: 'end', setup: (build) => build.onEnd(({ errors }) => built(errors[0]?.text)) };
const builds = await context({ entryPoints: [entry], bundle: true, outdir: 'dist', format: 'esm', logLevel: 'silent', plugins: [...plugins, end] });
await builds.watch();`,
};

function events(watcher: string): string {
  return `${watcher}.on('event', ({ code, error }) => {
  if (code === 'ERROR') built(error.message);
  else if (code === 'END') built();
});`;
}

function compiler(): string {
  return `bundler({ mode: 'production', optimization: { minimize: false }, entry, target: 'web', plugins }).watch({}, (error, stats) =>
  built(error?.message ?? stats.toJson({ all: false, errors: true }).errors[0]?.message));`;
}

let running: ChildProcess | undefined;

afterEach(() => {
  running?.kill('SIGKILL');
});

describe.each(bundlers)('a watch build of $name', ({ name, object, prefix }) => {
  const value = (number: number) => `https://api${number}.saltmarsh.example`;

  test('has each new value, says what is wrong with one, and goes on after a layer was away', async () => {
    const project = new TestProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [.env, .env.local] } }
bundles: { desk: { toolchain: ${name}, code: [src], output: [dist] } }
variables: { FERRY_API_URL: { reach: public, form: url } }
`,
      '.env': `FERRY_API_URL=${value(1)}\n`,
      '.env.local': `FERRY_API_URL=${value(2)}\n`,
      'package.json': '{ "type": "module", "private": true }',
      'src/main.js': `globalThis.seen = ${object}.${prefix}FERRY_API_URL;\n`,
      'watch.mjs': `import adder from ${JSON.stringify(plugin(name))};
const entry = './src/main.js';
const plugins = [adder({ stage: 'production' })];
const built = (problem) => process.send(problem ?? '');
${watching[name]}
`,
    }).withPackages();
    running = fork(project.path('watch.mjs'), { cwd: project.folder, stdio: 'ignore' });
    const messages: string[] = [];
    running.on('message', (message) => messages.push(String(message)));
    const hasValue = (number: number) => {
      const path = project.path('dist/main.js');
      return existsSync(path) && project.read('dist/main.js').includes(value(number));
    };
    await expect.poll(() => hasValue(2), { timeout: 20_000 }).toBe(true);
    project.write('.env.local', 'FERRY_API_URL=no-address\n');
    await expect.poll(() => messages.join('\n'), { timeout: 20_000 }).toMatch(/FERRY_API_URL/);
    expect(messages.join('\n')).not.toContain('no-address');
    project.write('.env.local', `FERRY_API_URL=${value(3)}\n`);
    await expect.poll(() => hasValue(3), { timeout: 20_000 }).toBe(true);
    rmSync(project.path('.env.local'));
    await expect.poll(() => hasValue(1), { timeout: 20_000 }).toBe(true);
    project.write('.env.local', `FERRY_API_URL=${value(4)}\n`);
    await expect.poll(() => hasValue(4), { timeout: 20_000 }).toBe(true);
    project.write('.env.local', `FERRY_API_URL=${value(5)}\n`);
    await expect.poll(() => hasValue(5), { timeout: 20_000 }).toBe(true);
  }, 130_000);
});
