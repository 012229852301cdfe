import { describe, expect, test } from 'vitest';
import { readModuleLayer } from '../../../src/core/resolve/module.js';
import { settingsIn } from '../../../src/core/runtime/settings-script.js';
import { globalSettings } from '../../../src/core/syntax/globals.js';

describe('a script that gives settings to a page', () => {
  test.each<[text: string, path: string | undefined, names: string[]]>([
    ["window.config = { API_URL: 'x', mapKey: 1 };", 'window.config', ['API_URL', 'mapKey']],
    ["globalThis['env'] = Object.freeze({ A: 'x' });", 'globalThis.env', ['A']],
    ["use(); self.settings = { 'A': 'x' };", 'self.settings', ['A']],
    ['window.config = read();', undefined, []],
    ['window.config = {};', undefined, []],
    ['other.config = { A: 1 };', undefined, []],
    ['window.config = {', undefined, []],
  ])('%s', (text, path, names) => {
    const found = globalSettings(text);
    expect([found?.path, found?.names ?? []]).toEqual([path, names]);
  });

  test('is a layer, with its keys as names', () => {
    const { offers, findings } = readModuleLayer(
      'public/config.js',
      'public/config.js',
      "window.config = { API_URL: 'x', map: { key: 'k' } };",
    );
    expect([offers.map(({ name }) => name), findings]).toEqual([['API_URL', 'MAP_KEY'], []]);
  });

  test('is found in an output by either spelling of its names', () => {
    const text = "window.config = { apiUrl: 'x', MAP_KEY: 'k' };";
    expect([...(settingsIn(text, ['API_URL', 'MAP_KEY']) ?? [])]).toEqual([
      ['API_URL', '"x"'],
      ['MAP_KEY', '"k"'],
    ]);
    expect(settingsIn(text, ['API_URL', 'MAP_KEY', 'MOOD'])).toBeUndefined();
  });
});
