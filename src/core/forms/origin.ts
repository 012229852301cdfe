import type { Form } from './form.js';
import { url } from './url.js';

/** The origin of a URL and nothing after it (HTML Standard, "origin"): scheme, host and, if it is not the default, port. */
export const origin: Form = {
  name: 'origin',
  problem(text) {
    const problem = url.problem(text);
    if (problem) return problem;
    const { pathname, search, hash, username, password } = new URL(text);
    if (username !== '' || password !== '') return 'has a user name; write the origin only';
    const hasMore = pathname.length > 1 || search !== '' || hash !== '' || text.endsWith('/');
    return hasMore ? 'has text after its host; write the origin only' : undefined;
  },
  valid: `${url.valid} && !text.endsWith('/') && ((at) => at.username + at.password + at.search + at.hash === '' && at.pathname.length < 2)(new URL(text))`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: 'https://saltmarsh.example',
  foldable: false,
};
