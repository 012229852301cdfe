import { expect, test } from 'vitest';
import type { RawFinding } from '../../../src/core/findings/finding.js';
import { settingsOnce } from '../../../src/core/inspect/settings.js';

const finding = (code: RawFinding['code'], variable: string, path: string, bundle = 'desk'): RawFinding => ({
  code,
  variable,
  bundle,
  message: `contains the value of ${variable}`,
  remedy: '',
  place: { path, inside: [] },
});

test('a setting is one finding per bundle, with the number of its files; other findings stay', () => {
  const all = settingsOnce([
    finding('leak/setting', 'QUAY_HOST', 'a.js'),
    finding('leak/known-value', 'FARE_KEY', 'a.js'),
    finding('leak/setting', 'QUAY_HOST', 'b.js'),
    finding('leak/setting', 'QUAY_HOST', 'c.js', 'kiosk'),
    finding('leak/known-value', 'FARE_KEY', 'b.js'),
  ]);
  expect(all.map(({ bundle, place, message }) => `${bundle} ${place?.path}: ${message}`)).toEqual([
    'desk a.js: contains the value of FARE_KEY',
    'desk b.js: contains the value of FARE_KEY',
    'desk a.js: contains the value of QUAY_HOST, in 2 files',
    'kiosk c.js: contains the value of QUAY_HOST',
  ]);
});
