import type { Form } from './form.js';

/** An absolute URL with a host (WHATWG URL Standard), without what its parser silently corrects. */
export const url: Form = {
  name: 'url',
  problem(text) {
    if (/\s/.test(text)) return 'contains white space';
    const scheme = /^([A-Za-z][A-Za-z0-9+.-]*):/.exec(text);
    if (!scheme) return 'has no scheme (such as https://)';
    if (!text.startsWith('//', scheme[0].length)) {
      return /^[^/]*:\d/.test(text) ? 'has no scheme (such as https://)' : 'has no // after its scheme';
    }
    if (/^[a-z][a-z0-9+.-]*:\/\/[a-z][a-z0-9+.-]*:\/\//i.test(text)) return 'has a scheme twice';
    if (!URL.canParse(text)) return 'is not a URL: its host or port is invalid';
    // The schemes of the web do not parse without a host.
    if (/^(https?|wss?):/i.test(text)) return undefined;
    return new URL(text).host === '' ? 'has no host' : undefined;
  },
  valid: String.raw`/^[a-z][a-z0-9+.-]*:\/\/\S+$/i.test(text) && !/^[a-z][a-z0-9+.-]*:\/\/[a-z][a-z0-9+.-]*:\/\//i.test(text) && URL.canParse(text) && new URL(text).host !== ''`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: 'https://api.saltmarsh.example',
  foldable: false,
};
