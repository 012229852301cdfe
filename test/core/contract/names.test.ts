import { describe, expect, test } from 'vitest';
import type { Bundle } from '../../../src/core/contract/contract.js';
import {
  belongsTo,
  namesOf,
  prefixOf,
  readsFrom,
  replacedObjects,
  withoutPrefix,
  writtenNames,
} from '../../../src/core/contract/names.js';
import { contractFor, layersOf, scopesOf, scopeWith } from '../../../src/core/contract/scopes.js';
import { contractOf } from '../../support/contract.js';

const contract = contractOf(`adder: 1
stages: { staging: { layers: [.env, process] }, production: { layers: [.env.production] } }
bundles:
  desk: { toolchain: vite }
  site: { toolchain: nuxt }
  page: { toolchain: next }
  bare: { reads: [__*__, window.env] }
  live: { reads: [useRuntimeConfig().public.*] }
  quay: { runs: server, toolchain: other }
variables:
  API_URL: public
  VITE_DONE: public
  NUXT_PUBLIC_MAP: { reach: public, delivery: runtime }
  LATE: { reach: public, delivery: runtime }
  VERSION: build
  KEY: server
  OWN: { reach: public, bundles: [site] }
`);
const bundle = (name: string): Bundle => contract.bundles.get(name) ?? expect.unreachable(name);
const variable = (name: string) => contract.variables.get(name) ?? expect.unreachable(name);

describe('the bundles that get a variable', () => {
  test.each([
    ['KEY', 'desk', false],
    ['KEY', 'quay', true],
    ['VERSION', 'desk', true],
    ['OWN', 'site', true],
    ['OWN', 'desk', false],
  ])('%s in %s: %s', (name, of, belongs) => expect(belongsTo(bundle(of), variable(name))).toBe(belongs));
});

describe('the name of a variable in code', () => {
  test.each([
    ['LATE', { desk: 'VITE_LATE', site: 'NUXT_PUBLIC_LATE', page: 'NEXT_PUBLIC_LATE' }],
    ['API_URL', { desk: 'VITE_API_URL', bare: 'API_URL', quay: 'API_URL' }],
  ])('%s is %j', (name, names) => expect(namesOf(contract, variable(name))).toMatchObject(names));

  test.each<[prefixes: string[], name: string, prefix: string | undefined, rest: string]>([
    [['VITE_', 'PUBLIC_'], 'PUBLIC_API', 'PUBLIC_', 'API'],
    [['VITE_'], 'API', undefined, 'API'],
    [[''], 'API', '', 'API'],
  ])('with the prefixes %j, %s has %j', (prefixes, name, prefix, rest) => {
    expect([prefixOf({ prefixes }, name), withoutPrefix({ prefixes }, name)]).toEqual([prefix, rest]);
  });

  test.each([
    ['desk', 'API_URL', ['VITE_API_URL']],
    ['bare', 'API_URL', ['API_URL', '__API_URL__']],
    ['live', 'API_URL', ['API_URL', 'apiUrl']],
  ])('in %s, %s may be written %j', (of, name, written) => {
    expect(writtenNames(bundle(of), variable(name))).toEqual(written);
  });
});

describe('the object that code reads a value from', () => {
  test('is what the contract says', () => {
    expect(replacedObjects(bundle('bare'))).toEqual(['__*__', 'window.env']);
  });

  test('is what the toolchain replaces', () => expect(replacedObjects(bundle('desk'))).toEqual(['import.meta.env']));

  test.each([
    ['desk', 'VITE_API_URL', { kind: 'object', path: 'import.meta.env' }],
    ['page', 'NEXT_PUBLIC_API_URL', { kind: 'object', path: 'process.env' }],
    ['quay', 'KEY', { kind: 'object', path: 'process.env' }],
    // A configuration is read in setup code alone, so it is the last choice.
    ['live', undefined, { kind: 'config' }],
    ['bare', undefined, { kind: 'constant' }],
  ])('in %s, for %s, is %j', (of, name, from) => expect(readsFrom(bundle(of), name)).toMatchObject(from));
});

describe('the parts of a project with layers of their own', () => {
  const mono = contractOf(`adder: 1
stages: { staging: { layers: [.env, process] } }
bundles:
  desk: { toolchain: vite, layers: { staging: [desk/.env] } }
  site: {}
  quay: { runs: server, layers: { staging: [quay/.env, process] } }
variables:
  SHARED: public
  DESK_ONLY: { reach: public, bundles: [desk] }
  KEY: server
  QUAY_KEY: { reach: server, bundles: [quay] }
`);
  const scopes = scopesOf(mono);
  const scope = (name?: string) => scopeWith(scopes, name === undefined ? undefined : mono.bundles.get(name));
  const layerNames = (name?: string) =>
    scope(name)
      ?.contract.stages.get('staging')
      ?.layers.map((layer) => layer.name);
  const requiredIn = (name?: string) =>
    [...(scope(name)?.contract.variables.values() ?? [])].filter(({ required }) => required).map((one) => one.name);

  test('are one without such layers, and it shows every variable', () => {
    const [only, ...others] = scopesOf(contract);
    expect([only?.contract, only?.bundle, only?.shows(variable('KEY')), others]).toEqual([
      contract,
      undefined,
      true,
      [],
    ]);
  });

  test('are the rest, then each bundle', () => {
    expect(scopes.map(({ bundle }) => bundle?.name)).toEqual([undefined, 'desk', 'quay']);
  });

  test('have no rest where no bundle needs one', () => {
    const all = contractOf(
      'adder: 1\nstages: { s: { layers: [.env] } }\nbundles: { desk: { layers: { s: [a.env] } } }\nvariables: { A: public }\n',
    );
    expect(scopesOf(all).map(({ bundle }) => bundle?.name)).toEqual(['desk']);
  });

  test('have a rest for a variable that no bundle gets', () => {
    const all = contractOf(
      'adder: 1\nstages: { s: { layers: [.env] } }\nbundles: { desk: { layers: { s: [a.env] } } }\nvariables: { A: server }\n',
    );
    expect(scopesOf(all).map(({ bundle }) => bundle?.name)).toEqual([undefined, 'desk']);
  });

  test.each([
    [undefined, ['.env', 'process']],
    ['site', ['.env', 'process']],
    ['desk', ['.env', 'desk/.env', 'process']],
    ['quay', ['.env', 'quay/.env', 'process']],
  ])('the layers of %s are %j, with the process environment last and once', (name, names) => {
    expect(layerNames(name)).toEqual(names);
  });

  test.each([
    [undefined, ['SHARED']],
    ['desk', ['SHARED', 'DESK_ONLY']],
    ['quay', ['SHARED', 'KEY', 'QUAY_KEY']],
  ])('%s requires %j', (name, names) => expect(requiredIn(name)).toEqual(names));

  test('a bundle shows a variable of others only if its own layer has the value', () => {
    const key = mono.variables.get('KEY') ?? expect.unreachable();
    const shows = scope('desk')?.shows;
    expect([shows?.(key), shows?.(key, '.env'), shows?.(key, 'desk/.env')]).toEqual([false, false, true]);
  });

  test('the contract for a bundle without layers is the contract itself', () => {
    expect(contractFor(mono, mono.bundles.get('site'))).toBe(mono);
    expect(contractFor(mono, undefined)).toBe(mono);
    expect(contractFor(mono, mono.bundles.get('desk')).stages.get('staging')?.bundle).toBe('desk');
  });

  test('all layers are those of stages and bundles', () => {
    expect(layersOf(mono).map(({ name }) => name)).toEqual(['.env', 'process', 'desk/.env', 'quay/.env', 'process']);
  });
});
