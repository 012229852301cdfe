import { describe, expect, test } from 'vitest';
import { buildErrors, childEnvironment, environmentNames, givenValues } from '../../../src/core/build/environment.js';
import { rulesOf } from '../../../src/core/contract/rules.js';
import { judge } from '../../../src/core/findings/judge.js';
import { contractOf, resolutionOf } from '../../support/contract.js';

const contract = contractOf(`adder: 1
stages: { production: { layers: [.env], build-as: production } }
bundles:
  desk: { toolchain: vite, code: [src], output: [dist] }
  api: { toolchain: other, runs: server, code: [api] }
passes: [QUAY_REGION, HTTPS_PROXY]
variables:
  API_URL: { reach: public, form: url }
  MAP_STYLE: { reach: public, delivery: runtime }
  UPLOAD_TOKEN: build
  SIGNING_KEY: { reach: server, aka: [OLD_KEY] }
`);
const env = 'API_URL=https://api.saltmarsh.example\nMAP_STYLE=chart\nUPLOAD_TOKEN=up-1\nSIGNING_KEY=key-1\n';
const resolution = resolutionOf(contract, 'production', env);
const { stage } = resolution;

/** The environment of a bundle's build under a parent's. */
function build(bundle: string | undefined, parent: Record<string, string> = {}) {
  const of = bundle === undefined ? undefined : contract.bundles.get(bundle);
  const given = givenValues(contract, of, resolution);
  return {
    values: childEnvironment(parent, contract, stage, given, of),
    names: environmentNames(parent, contract, stage, given, of),
  };
}

describe('what a build gets', () => {
  const always = { NODE_ENV: 'production', ADDER_STAGE: 'production' };
  const [url, token, key] = ['https://api.saltmarsh.example', 'up-1', 'key-1'];

  test.each([
    ['desk', { VITE_API_URL: url, UPLOAD_TOKEN: token }],
    ['api', { API_URL: url, MAP_STYLE: 'chart', UPLOAD_TOKEN: token, SIGNING_KEY: key }],
    [undefined, { API_URL: url, MAP_STYLE: 'chart', UPLOAD_TOKEN: token }],
  ])('%s', (bundle, values) =>
    expect(build(bundle).values).toEqual({ ...always, ...(bundle && { ADDER_BUNDLE: bundle }), ...values }),
  );

  test.each([
    ['PATH', '/bin', '/bin'],
    ['Path', 'C:\\bin', 'C:\\bin'],
    ['LC_ALL', 'C', 'C'],
    ['QUAY_REGION', 'north', 'north'],
    ['HTTP_PROXY', 'http://me:pw@proxy.example:8', 'http://proxy.example:8'],
    ['HTTPS_PROXY', 'http://me:pw@proxy.example:8', 'http://me:pw@proxy.example:8'],
    ['SIGNING_KEY', 'of-the-shell', undefined],
    ['OLD_KEY', 'of-the-shell', undefined],
    ['NODE_OPTIONS', '--inspect', undefined],
    ['SOMETHING', 'else', undefined],
  ])('%s of the parent', (name, text, passed) => {
    const { values, names } = build('desk', { [name]: text });
    expect(values[name]).toBe(passed);
    expect(names.withheld).toEqual(passed === undefined ? [name] : []);
    expect(names.given.map((one) => one.name).includes(name)).toBe(passed !== undefined);
  });
});

test.each<[bundle: string | undefined, env: string, codes: string[]]>([
  ['desk', 'API_URL=x\nUPLOAD_TOKEN=t\n', ['value/malformed']],
  ['desk', 'API_URL=https://a.example\nUPLOAD_TOKEN=t\n', []],
  ['api', 'API_URL=https://a.example\nMAP_STYLE=m\nUPLOAD_TOKEN=t\n', ['value/missing']],
  ['desk', 'API_URL=https://a.example\nUPLOAD_TOKEN=t\n=nameless\n', ['file/syntax']],
])('errors that stop a build of %s: %j', (bundle, text, codes) => {
  const of = bundle === undefined ? undefined : contract.bundles.get(bundle);
  const { findings } = judge(resolutionOf(contract, 'production', text).findings, rulesOf(contract), '2026-11-27', []);
  expect(buildErrors(contract, of, findings).map(({ code }) => code)).toEqual(codes);
});
