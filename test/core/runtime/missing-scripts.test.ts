import { describe, expect, test } from 'vitest';
import { missingScripts } from '../../../src/core/runtime/missing-scripts.js';
import { inWords } from '../../support/words.js';

const names = new Set(['app.js', 'index.html']);
const missing = (html: string) =>
  missingScripts('dist/index.html', html, names, { bundle: 'desk', stage: 'production' }).map(({ facts }) => facts);

describe('a script that a page names', () => {
  test.each([
    '<script src="/assets/gone.js"></script>',
    '<script type=module src=./gone.js?v=1></script>',
    "<script async src='/shop/gone.js'></script><script src='/shop/gone.js'></script>",
  ])('is missing: %s', (html) => expect(missing(html)).toEqual([{ url: expect.stringContaining('gone.js') }]));

  test.each([
    '<script src="/shop/assets/app.js"></script>',
    '<script src="app.js?v=1#x"></script>',
    '<script src="https://cdn.example/gone.js"></script>',
    '<script src="//cdn.example/gone.js"></script>',
    '<script src="data:text/javascript,1"></script>',
    '<script src="{{ base }}/gone.js"></script>',
    '<script src="%BASE%/gone.js"></script>',
    '<script>document.write("gone.js")</script>',
    '<!-- <script src="gone.js"></script> -->',
    '<template><script src="gone.js"></script></template>',
    '<script type="application/json" src="gone.js"></script>',
    '<script src=""></script>',
    '',
  ])('is there, or nobody can tell: %s', (html) => expect(missing(html)).toEqual([]));

  test('is a warning at the page', () => {
    const [found = expect.unreachable()] = missingScripts('dist/a.html', '<script src=/gone.js></script>', names, {
      bundle: 'desk',
      stage: 'production',
    });
    expect(inWords(found)).toMatchObject({
      code: 'serve/missing-file',
      level: 'warning',
      bundle: 'desk',
      place: { path: 'dist/a.html' },
      message: 'the page loads /gone.js, and no file of the output has that name',
    });
  });
});
