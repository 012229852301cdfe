import { expect, test } from 'vitest';
import { adder } from '../../src/plugin/unplugin.js';

/** Filters that decide which resources a bundler hands to the plugin. */
const { include } = (
  adder.raw({}, { framework: 'webpack' } as never) as unknown as {
    transform: { filter: { id: { include: RegExp } } };
  }
).transform.filter.id;

test.each([
  ['/quay/src/main.ts', true],
  ['/quay/src/App.vue?vue&type=script&setup=true&lang.ts', true],
  ['/quay/src/App.svelte', true],
  ['C:\\quay\\src\\main.jsx', true],
  // Frameworks with virtual loaders have resources without a path, on which a loader fails.
  ['', false],
  ['/quay/src/style.css', false],
  ['/quay/src/data.json', false],
])('%j: %s', (id, isHanded) => expect(include.test(id)).toBe(isHanded));
