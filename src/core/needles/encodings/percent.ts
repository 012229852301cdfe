import type { Encoding } from '../encoding.js';

/**
 * Percent-encoding (RFC 3986, section 2.1) in both letter cases: the component rule and the whole-URL rule of ECMA-262,
 * 19.2.6, the URL Standard's form rule (with `+` for a space), and everything but the unreserved signs.
 */
export const percent: Encoding = {
  name: 'percent',
  example: '%C3%A4%22%2F',
  *encode(value) {
    // A value that no rule changes is plain.
    if (/^[A-Za-z0-9_.-]*$/.test(value) || !value.isWellFormed()) return;
    const component = encodeURIComponent(value);
    const form = new URLSearchParams({ '': value }).toString().slice(1);
    const strict = component.replace(/[!'()*]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`);
    for (const text of [component, encodeURI(value), form, strict]) {
      yield text;
      yield text.replace(/%[0-9A-F]{2}/g, (code) => code.toLowerCase());
    }
  },
};
