import assert from 'node:assert/strict';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';

const version = '21.2.24';
const framework = ['cli', 'build', 'core', 'common', 'compiler', 'compiler-cli', 'platform-browser'];
const stages = ['staging', 'production'];
const swap = (stage) => ({ fileReplacements: [{ replace: 'src/values.ts', with: `src/values.${stage}.ts` }] });

export default {
  title: 'a component framework whose builder swaps a module for each stage (docs/guides/per-stage-module.md)',
  packages: [...framework.map((name) => `@angular/${name}@${version}`), 'typescript@5.9', 'rxjs@7', 'tslib@2'],
  files: {
    'adder.yaml': `adder: 1
stages:
  development: { layers: [env/.env.development] }
  staging: { layers: [env/.env.staging, process], build-as: production }
  production: { layers: [env/.env.production, process], build-as: production }
bundles:
  seat-map:
    runs: browser
    toolchain: angular
    code: [src]
    entry: [src/main.ts]
    output: [dist]
    build: npx ng build --configuration {stage}
variables:
  FERRY_API_URL: { reach: public, form: url, distinct: true }
  SEATS: { reach: public, form: integer }
  FARE_SIGNING_KEY: { reach: server, min: 32, distinct: true }
`,
    ...Object.fromEntries(
      [
        ['development', 'http://localhost:4180', 12],
        ['staging', 'https://api.staging.saltmarsh.test', 120],
        ['production', 'https://api.saltmarsh.example', 240],
      ].map(([stage, address, seats]) => [
        `env/.env.${stage}`,
        `FERRY_API_URL=${address}\nSEATS=${seats}\nFARE_SIGNING_KEY=made-up-fare-signing-key-of-${stage}-0001\n`,
      ]),
    ),
    'angular.json': JSON.stringify({
      version: 1,
      cli: { analytics: false },
      projects: {
        'seat-map': {
          projectType: 'application',
          root: '',
          sourceRoot: 'src',
          architect: {
            build: {
              builder: '@angular/build:application',
              options: {
                browser: 'src/main.ts',
                index: 'src/index.html',
                tsConfig: 'tsconfig.json',
                outputPath: 'dist',
              },
              configurations: { development: {}, staging: swap('staging'), production: swap('production') },
            },
          },
        },
      },
    }),
    'tsconfig.json': JSON.stringify({
      compilerOptions: { target: 'ES2022', module: 'ES2022', moduleResolution: 'bundler', strict: true },
      files: ['src/main.ts'],
    }),
    'src/index.html':
      '<!doctype html><html lang="en"><head><title>Seats</title><base href="/"></head><body><seat-map></seat-map></body></html>',
    'src/main.ts': `import { Component, provideZonelessChangeDetection } from '@angular/core';
import { bootstrapApplication } from '@angular/platform-browser';
import { FERRY_API_URL, SEATS } from './values';

@Component({ selector: 'seat-map', template: '<p>{{ api }}</p><p>{{ seats + 1 }}</p>' })
class SeatMap {
  api = FERRY_API_URL;
  seats = SEATS;
}

bootstrapApplication(SeatMap, { providers: [provideZonelessChangeDetection()] });
`,
  },
  async tryOut(project) {
    const emit = (stage, file) => `emit module --with-values --stage ${stage} --save ${file}`;
    project.expect(0, emit('development', 'src/values.ts'));
    for (const stage of stages) project.expect(0, emit(stage, `src/values.${stage}.ts`));
    project.expect(0, `${emit('production', 'src/values.production.ts')} --check`);
    project.expect(0, 'lint');
    for (const stage of stages) {
      project.expect(0, `with ${stage}`);
      project.expect(0, 'inspect');
    }
    const folder = join(project.folder, 'dist/browser');
    const code = readdirSync(folder)
      .filter((name) => name.endsWith('.js'))
      .map((name) => project.read(`dist/browser/${name}`))
      .join('');
    assert.ok(code.includes('https://api.saltmarsh.example') && !code.includes('staging.saltmarsh'));
    // The builder's own switch was forgotten: the module of another stage is in what production ships.
    project.expect(0, 'with production -- npx ng build --configuration staging');
    assert.match(project.expect(1, 'inspect'), /contains the staging value of FERRY_API_URL/);
    // A value that changed since makes the written module stale.
    project.write('env/.env.production', project.read('env/.env.production').replace('240', '260'));
    project.expect(1, `${emit('production', 'src/values.production.ts')} --check`);
  },
};
