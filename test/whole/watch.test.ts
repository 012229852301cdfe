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
    const until = (isDone: () => boolean, act = () => {}) =>
      expect
        .poll(
          () => {
            if (!isDone()) act();
            return isDone();
          },
          { timeout: 20_000, interval: 1500 },
        )
        .toBe(true);
    // A bundler that is about to watch again may miss a change, so each is written until it has an effect.
    const set = (text: string) => () => project.write('.env.local', `FERRY_API_URL=${text}\n`);
    await until(() => hasValue(2));
    await until(() => messages.join('\n').includes('FERRY_API_URL'), set('no-address'));
    expect(messages.join('\n')).not.toContain('no-address');
    await until(() => hasValue(3), set(value(3)));
    await until(
      () => hasValue(1),
      () => rmSync(project.path('.env.local'), { force: true }),
    );
    await until(() => hasValue(4), set(value(4)));
    await until(() => hasValue(5), set(value(5)));
  }, 130_000);
});
