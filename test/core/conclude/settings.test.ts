import { expect, test } from 'vitest';
import { settingsOnce } from '../../../src/core/conclude/settings.js';
import { finding, type RawFinding } from '../../../src/core/findings/finding.js';
import { inWords } from '../../support/words.js';

type Shipped = 'leak/setting' | 'leak/known-value';

const found = (code: Shipped, variable: string, path: string, bundle = 'desk'): RawFinding =>
  finding(code, 'shipped', { variable, reach: 'server' }, { bundle, place: { path, inside: [] } });

test('only a setting is one finding per bundle, with the number of its files', () => {
  const all = settingsOnce([
    found('leak/setting', 'QUAY_HOST', 'a.js'),
    found('leak/known-value', 'FARE_KEY', 'a.js'),
    found('leak/setting', 'QUAY_HOST', 'b.js'),
    found('leak/setting', 'QUAY_HOST', 'c.js', 'kiosk'),
    found('leak/known-value', 'FARE_KEY', 'b.js'),
  ]);
  expect(all.map(inWords).map(({ bundle, place, message }) => `${bundle} ${place?.path}: ${message}`)).toEqual([
    'desk a.js: contains the value of FARE_KEY, a server-only variable',
    'desk b.js: contains the value of FARE_KEY, a server-only variable',
    'desk a.js: contains the value of QUAY_HOST, a server-only setting, in 2 files',
    'kiosk c.js: contains the value of QUAY_HOST, a server-only setting',
  ]);
});
