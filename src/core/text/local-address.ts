/** Hosts that only one machine or network has, by number or name. */
const localHost = String.raw`localhost|127(?:\.\d{1,3}){3}|0\.0\.0\.0|\[::1\]|10(?:\.\d{1,3}){3}|192\.168(?:\.\d{1,3}){2}|172\.(?:1[6-9]|2\d|3[01])(?:\.\d{1,3}){2}`;
const localName = String.raw`[\w-]+(?:\.[\w-]+)*\.(?:local|internal|lan)`;

/** A URL with a host that only one machine or network has. Global, so that `matchAll` can use it. */
export const localUrl = new RegExp(
  String.raw`\b(?:https?|wss?):\/\/(?:${localHost}|${localName})(?::\d+)?(?=[/"'\`\s?#\\]|$)`,
  'g',
);

const localValue = new RegExp(
  String.raw`^(?:[a-z]+:\/\/)?(?:[^/@\s]*@)?(?:${localHost}|${localName})(?::\d+)?(?:[/?#]|$)`,
  'i',
);

/** Tells whether a value is the address of a host that only one machine or network has. */
export function isLocalAddress(value: string): boolean {
  return localValue.test(value);
}

/** An address that a script or page uses: the URL begins right after a quote, and may be escaped as in JSON. */
const usedUrl = new RegExp(
  String.raw`(?<=["'\`])(?:(https?|wss?):)?(?:(?:\\?\/){2})?(${localHost}|host\.docker\.internal)(:\d{2,5})?(?=[/"'\`)\s?#\\&]|$)`,
  'g',
);

/** The addresses that a piece of a script or page uses, with their offsets. */
export function localAddressesIn(text: string): { address: string; start: number; end: number }[] {
  return [...text.matchAll(usedUrl)].flatMap(({ 0: found, 1: scheme, 2: host = '', 3: port = '', index }) => {
    const isPrivate = /^(1[079]|host)/.test(host) && !host.startsWith('127');
    // Without a port, the loopback host is what libraries parse relative URLs against.
    if (port === '' && (!isPrivate || !found.slice(0, found.indexOf(host)).endsWith('/'))) return [];
    const address = `${scheme === undefined ? '' : `${scheme}://`}${host}${port}`;
    return [{ address, start: index, end: index + found.length }];
  });
}
