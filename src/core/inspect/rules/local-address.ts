import { isInPackages } from '../../files/directories.js';
import { isPage, scriptLanguage } from '../../files/languages.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { localAddressesIn } from '../../text/local-address.js';
import { latin1Reader } from '../reader.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { marksFor } from '../token-runs.js';
import { isKnown, textIn } from './token-shape.js';

/** The kind of marks that are beginnings of local addresses. */
const LOCAL = 'local-address';

const marks = [
  ...['localhost:', '127.0.0.1:', '//127.0.0.1', '//192.168.', 'docker.internal', '//0.0.0.0:', 'http://[::1'],
  ...['http://10.', 'https://10.', 'http://172.', 'https://172.'],
  // As JSON in a script has them.
  ...['\\/\\/192.168.', 'http:\\/\\/10.', 'http:\\/\\/172.'],
];

/** Local addresses in libraries that talk to a developer tool if it runs. */
const ofLibraries = /\blocalhost:(8081|8097|8969|9229)$/;

/** Bytes read on both sides of a hit, enough for a whole address. */
const REACH = 40;

/** Addresses that only the developer's machine, or a private network, has. */
export const localAddresses: ArtifactRule = {
  codes: ['stage/local-address'],
  marks: ({ ships, hasLocalAddresses }) => (ships && !hasLocalAddresses ? marksFor(LOCAL, marks) : []),
  async check(hits, surroundings) {
    const { content, inspected, describe } = surroundings;
    const { fileName, where } = content;
    const isCode = scriptLanguage(fileName) !== undefined || isPage(fileName) || fileName.endsWith('.json');
    const isOwn = content.original === undefined && !isInPackages(where.path) && !/\.d\.[cm]?ts$/.test(fileName);
    if (inspected.audience !== 'browser' || !isCode || !isOwn) return [];
    const found = addressesAt(hits, surroundings);
    const described = await describe(
      [...found].map(([address, { start, end }]) => ({ start, end, locate: (line) => textIn(line, address) })),
    );
    return [...found].flatMap(([address, { places }], index): RawFinding[] => {
      const place = described[index] ?? { place: { ...where } };
      // The source map says that a library has it.
      if (place.origin && isInPackages(place.origin.path)) return [];
      return [
        finding(
          'stage/local-address',
          isLoopback(address) ? 'loopback' : 'private',
          { address, stage: inspected.stage, places },
          {
            // A desktop app may have a server of its own.
            ...(inspected.facts?.runs === 'desktop' && { level: 'note' as const }),
            ...(inspected.bundle && { bundle: inspected.bundle }),
            ...place,
          },
        ),
      ];
    });
  },
};

/** Tells whether only one machine has an address; others are those of private networks. */
function isLoopback(address: string): boolean {
  return /localhost|\b127\.|\b0\.0\.0\.0|::1|docker/.test(address);
}

/** Each address with its first place. */
function addressesAt(hits: readonly { start: number; end: number }[], surroundings: Surroundings) {
  const read = latin1Reader(surroundings.content);
  const found = new Map<string, { start: number; end: number; places: number }>();
  const seen = new Set<number>();
  for (const hit of hits) {
    const from = Math.max(0, hit.start - REACH);
    for (const { address, start, end } of localAddressesIn(read(from, hit.end + REACH))) {
      const range = { start: from + start, end: from + end };
      if (seen.has(range.start) || ofLibraries.test(address) || isKnown(range, surroundings)) continue;
      seen.add(range.start);
      const known = found.get(address);
      if (known) known.places++;
      else found.set(address, { ...range, places: 1 });
    }
  }
  return found;
}
