import { describe, expect, test } from 'vitest';
import { workspaceRules } from '../../../src/core/lint/repository/workspace.js';
import { contractOf } from '../../support/contract.js';
import { inWords } from '../../support/words.js';

const contract = contractOf(`adder: 1
stages:
  development: { layers: [web/src/environments/environment.ts] }
  staging: { layers: [web/src/environments/environment.staging.ts] }
  production: { layers: [web/src/environments/environment.prod.ts] }
bundles: { desk: { toolchain: angular, code: [web/src] } }
variables: { API_URL: public }
`);

const file = (name = '') => `src/environments/environment${name}.ts`;
const replacement = (by: string, replace = '') => [{ replace: file(replace), with: file(by) }];

/** Findings in a workspace with these replacements and this dev server, without the remedies. */
function lint(configurations: Record<string, { replace: string; with: string }[]>, serve: object = {}): string[] {
  const build = {
    options: {},
    configurations: Object.fromEntries(
      Object.entries(configurations).map(([name, fileReplacements]) => [name, { fileReplacements }]),
    ),
    defaultConfiguration: 'production',
  };
  const text = JSON.stringify({ projects: { desk: { architect: { build, serve } } } }, null, 1);
  const found = workspaceRules({
    contract,
    paths: ['web/angular.json'],
    text: (path) => (path === 'web/angular.json' ? text : undefined),
    exists: (path) => !path.includes('environment.qa.ts'),
  });
  return found.map(inWords).map(({ place, message }) => `${place?.path}: ${message}`);
}

const right = { staging: replacement('.staging'), production: replacement('.prod') };
const serving = (builds: string) => ({ configurations: {}, options: { buildTarget: `desk:build:${builds}` } });

describe('the configurations of a workspace file', () => {
  test.each<[title: string, configurations: Parameters<typeof lint>[0], serve: object, said: string[]]>([
    ['each with its own file', right, serving('development'), []],
    [
      'the file of another stage',
      { ...right, production: replacement('.staging') },
      serving('development'),
      [`web/angular.json: the configuration production ships ${file('.staging')}, the values of staging`],
    ],
    [
      'a replacement of a file that no code imports',
      { ...right, production: replacement('.prod', '.staging') },
      serving('development'),
      [
        `web/angular.json: the configuration production replaces ${file('.staging')}, and other configurations replace ${file()}`,
      ],
    ],
    [
      'a file that is not there',
      { ...right, qa: replacement('.qa') },
      serving('development'),
      [`web/angular.json: the configuration qa names ${file('.qa')}, which does not exist`],
    ],
    [
      'a dev server that builds production',
      right,
      serving('production'),
      ['web/angular.json: the dev server of desk builds production'],
    ],
    [
      'a dev server without a configuration',
      right,
      { options: { buildTarget: 'desk:build' } },
      ['web/angular.json: the dev server of desk builds production'],
    ],
    [
      'a configuration of the dev server that builds another one',
      right,
      {
        defaultConfiguration: 'development',
        configurations: {
          development: { buildTarget: 'desk:build:development' },
          staging: { buildTarget: 'desk:build:production' },
        },
      },
      ['web/angular.json: the dev server of desk in the configuration staging builds production'],
    ],
    ['a configuration that is no stage', { ...right, hmr: replacement('.staging') }, serving('development'), []],
  ])('%s', (_, configurations, serve, said) => expect(lint(configurations, serve)).toEqual(said));
});
