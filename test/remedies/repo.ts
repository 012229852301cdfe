import { expect } from 'vitest';
import { clean, commit, contractWith } from './project.js';
import { accept, append, edit, type Situation, type } from './situation.js';

const production = '.env.production';
const workflow = '.github/workflows/release.yml';

/** A workflow that builds production. @param env lines of the step's environment */
function building(...env: string[]): Record<string, string> {
  const lines = env.map((line) => `          ${line}\n`).join('');
  return {
    [workflow]: `on: push
jobs:
  release:
    runs-on: ubuntu-latest
    steps:
      - run: npx adder with production -- node build.mjs
${lines === '' ? '' : `        env:\n${lines}`}`,
  };
}

/** A workspace whose configurations have a file of values each. @param endings of the files; production has the first one */
function workspace(production: string, ...others: string[]): string {
  const exchange = (ending: string) => ({
    fileReplacements: [
      { replace: 'src/environments/environment.ts', with: `src/environments/environment.${ending}.ts` },
    ],
  });
  const configurations = Object.fromEntries([
    ['production', exchange(production)],
    ...others.map((name) => [name, exchange(name)] as const),
  ]);
  const build = {
    builder: '@angular/build:application',
    options: { browser: 'src/main.ts' },
    configurations,
    defaultConfiguration: 'production',
  };
  const desk = { projectType: 'application', root: '', sourceRoot: 'src', architect: { build } };
  return JSON.stringify({ version: 1, projects: { desk } }, undefined, 2);
}

/** Every code about the repository: one situation, and what its remedy says to do. */
export const ofRepositories: readonly Situation[] = [
  {
    code: 'repo/tracked',
    variant: 'values',
    files: { ...clean, '.gitignore': 'node_modules\ndist\n.env\n.env.staging\n' },
    before: commit,
    check: 'lint',
    says: /^run `git rm --cached \.env\.production`, add the line \.env\.production to \.gitignore, and rotate/,
    follow: (at) => {
      append(at, '.gitignore', '.env.production');
      edit(at, production, /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-production-0041');
    },
  },
  {
    code: 'repo/tracked',
    variant: 'state',
    files: {
      ...clean,
      [production]: (clean[production] as string).replace(
        /FARE_SIGNING_KEY=.*/,
        'FARE_SIGNING_KEY=8f2c71d05be94a36c7d1e08b5f3a92647c1d0e5b',
      ),
    },
    before: `${commit} && adder retire FARE_SIGNING_KEY --stage production && git add -f .adder && git commit -qm two`,
    check: 'lint',
    says: /^run `git rm -r --cached \.adder\/key` and `adder key --rotate`/,
    follow: (at) => expect(at.adder(['history']).stdout).toContain('FARE_SIGNING_KEY'),
  },
  {
    code: 'repo/not-ignored',
    variant: 'values',
    files: { ...clean, '.gitignore': 'node_modules\ndist\n.env\n.env.staging\n' },
    before: 'git init -q && git add build.mjs && git commit -qm one',
    check: 'lint',
    says: /^add the line \.env\.production to \.gitignore/,
    follow: (at) => append(at, '.gitignore', '.env.production'),
  },
  {
    code: 'repo/in-history',
    variant: 'file',
    files: clean,
    before: `${commit} && git add -f .env.production && git commit -qm two && git rm -q --cached .env.production && git commit -qm three`,
    check: 'lint',
    says: /^rotate FARE_SIGNING_KEY, as every clone has the file$/,
    follow: (at) => {
      edit(at, production, /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-production-0041');
    },
  },
  {
    code: 'repo/in-history',
    variant: 'file',
    files: { ...clean, 'old.env': 'QUAY_MASTER_WORD=made-up-word-of-the-quay-0007\n' },
    before: `${commit} && git rm -q old.env && git commit -qm two`,
    check: 'lint',
    says: /^rotate QUAY_MASTER_WORD, .*; then accept the finding/,
    follow: accept,
  },
  {
    code: 'repo/in-history',
    variant: 'value',
    files: { ...clean, 'notes.txt': 'the key is made-up-fare-signing-key-of-the-tests-0001\n' },
    before: `${commit} && git rm -q notes.txt && git commit -qm two`,
    check: 'lint',
    says: /^rotate FARE_SIGNING_KEY/,
    follow: (at) => edit(at, production, /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-production-0041'),
  },
  {
    code: 'repo/example-drift',
    variant: 'lacks',
    files: { ...clean, '.env.example': '# Ask the harbour office for a key.\nAPI_URL=https://api.example/v1\n' },
    check: 'lint',
    follow: (at) => {
      expect(at.read('.env.example')).toContain('# Ask the harbour office for a key.\nAPI_URL=https://api.example/v1');
    },
  },
  {
    code: 'repo/packed',
    variant: 'copied-directory',
    files: { ...clean, 'public/.env': 'FARE_SIGNING_KEY=made-up-fare-signing-key-of-the-tests-0001\n' },
    check: 'lint',
    says: /^move it elsewhere/,
    follow: (at) => type(at, 'mkdir ops && mv public/.env ops/.env'),
  },
  {
    code: 'repo/pipeline-gap',
    variant: 'lacks',
    files: {
      ...clean,
      ...building('API_URL: https://api.saltmarsh.example/v1'),
      'adder.yaml': contractWith({ variables: '  UPLOAD_TOKEN: { reach: build, required: [production] }\n' }),
    },
    before: commit,
    check: 'lint',
    says: /^set it from the pipeline's secret store/,
    follow: (at, { facts }) => append(at, workflow, `          ${facts.variable}: \${{ secrets.${facts.variable} }}`),
  },
  {
    code: 'repo/literal-in-pipeline',
    variant: 'value',
    files: {
      ...clean,
      ...building(
        'API_URL: https://api.saltmarsh.example/v1',
        'FARE_SIGNING_KEY: made-up-fare-signing-key-of-the-tests-0001',
      ),
    },
    check: 'lint',
    says: /^move it to the pipeline's secret store, refer to it there, and rotate it/,
    follow: (at) => {
      edit(at, workflow, 'made-up-fare-signing-key-of-the-tests-0001', '${{ secrets.FARE_SIGNING_KEY }}');
      edit(at, production, /FARE_SIGNING_KEY=.*/, 'FARE_SIGNING_KEY=made-up-key-of-production-0041');
    },
  },
  {
    code: 'repo/workspace',
    variant: 'missing',
    files: {
      ...clean,
      'adder.yaml': contractWith().replace('toolchain: vite', 'toolchain: angular'),
      'package.json': '{ "dependencies": { "@angular/core": "20" } }',
      'angular.json': workspace('prd'),
      'src/environments/environment.ts': 'export const environment = { apiUrl: "https://dev.saltmarsh.test/v1" };\n',
      'src/environments/environment.prod.ts':
        'export const environment = { apiUrl: "https://api.saltmarsh.example/v1" };\n',
      'src/main.ts': 'import { environment } from "./environments/environment";\nfetch(environment.apiUrl);\n',
    },
    check: 'lint',
    says: /^correct the path/,
    follow: (at) => edit(at, 'angular.json', 'environment.prd.ts', 'environment.prod.ts'),
  },
  {
    code: 'repo/workspace',
    variant: 'built',
    files: {
      ...clean,
      'adder.yaml': contractWith({ bundle: '' })
        .replace('toolchain: vite', 'toolchain: angular')
        .replace('node build.mjs', 'ng build'),
      'angular.json': workspace('prod', 'staging'),
      'src/environments/environment.ts': 'export const environment = {};\n',
    },
    check: 'with staging --show-env',
    says: /^build the configuration staging: .*in the contract, `build: ng build --configuration \{stage\}`/,
    follow: (at) => edit(at, 'adder.yaml', 'build: ng build', 'build: "true ng build --configuration {stage}"'),
  },
  {
    code: 'repo/dependency-reads',
    variant: 'names',
    files: {
      ...clean,
      'package.json': '{ "dependencies": { "tide-clock": "1" } }',
      'src/main.js': 'import "tide-clock";\nfetch(import.meta.env.VITE_API_URL);\n',
      'node_modules/tide-clock/package.json': '{ "name": "tide-clock", "version": "1.0.0", "main": "index.js" }',
      'node_modules/tide-clock/index.js': 'module.exports = process.env.TIDE_CLOCK_SPEED;\n',
    },
    check: 'lint',
    says: /works without them; then accept the finding/,
    follow: accept,
  },
];
