import type { Form } from './form.js';

/** A host name (RFC 1123, section 2.1) or an IP address; no scheme, no port, no path. */
export const host: Form = {
  name: 'host',
  problem(text) {
    if (text.includes('://')) return 'has a scheme; write the host only';
    if (/[/?#]/.test(text)) return 'has a path; write the host only';
    if (/^\[[0-9a-f:.]+\]$/i.test(text)) return URL.canParse(`http://${text}`) ? undefined : 'is not an IP address';
    if (/:\d*$/.test(text)) return 'has a port; write the host only';
    const labels = text.split('.');
    const isName = labels.every((label) => /^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/i.test(label));
    return isName && text.length <= 253 ? undefined : 'is not a host name';
  },
  valid: String.raw`/^\[[0-9a-f:.]+\]$/i.test(text) ? URL.canParse('http://' + text) : text.length <= 253 && text.split('.').every((label) => /^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/i.test(label))`,
  measure: 'length',
  type: { typescript: 'string', dart: 'String' },
  example: 'api.saltmarsh.example',
  foldable: false,
};
