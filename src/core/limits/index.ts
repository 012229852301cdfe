import { table } from '../text/table.js';

const KB = 2 ** 10;
const MB = 2 ** 20;
const GB = 2 ** 30;

/** One limit of Adder: how much it reads, and what it reports when there is more. */
export interface Limit {
  value: number;
  unit: 'bytes' | 'items' | 'seconds' | 'times';
  /** Name of the limited thing, as the documentation shows it. */
  of: string;
  /** Consequence of reaching the limit, as the user sees it. */
  report: string;
}

const unread = 'listed as unread, exit code 3';
const refused = 'refused with an error, exit code 2';
const note = 'listed under coverage';

/**
 * Every limit, one line each. `docs/security.md` has the table. None can be raised by an option: each is far above real
 * projects, and protects from files that are made to exhaust memory or time.
 */
export const limits = table({
  contractBytes: limit(16 * MB, 'bytes', 'contract', refused),
  contractVariables: limit(10_000, 'items', 'variables in a contract', refused),
  envFileBytes: limit(16 * MB, 'bytes', 'env file or other layer', refused),
  envFileEntries: limit(20_000, 'items', 'entries of an env file', '`file/too-large`'),
  yamlDepth: limit(100, 'items', 'nesting of YAML or JSON settings', refused),
  referenceDepth: limit(20, 'items', 'nesting of references in one value', '`file/syntax`'),
  referenceLinks: limit(200, 'items', 'references from value to value', '`value/malformed`'),
  expandedCharacters: limit(100_000, 'items', 'characters of an expanded value', '`value/malformed`'),
  patternSeconds: limit(0.25, 'seconds', 'matching a value against `pattern`', '`value/malformed`'),
  commandOutputBytes: limit(16 * MB, 'bytes', 'output of a command layer', refused),
  sourceFileBytes: limit(4 * MB, 'bytes', 'source file in `lint`', unread),
  configurationSteps: limit(
    200_000,
    'items',
    "steps that a build's configuration takes",
    'a note says that only a build tells the rest',
  ),
  draftSourceBytes: limit(2 * MB, 'bytes', 'source file in `draft`', 'named in the report'),
  directoryDepth: limit(
    16,
    'items',
    'nested directories in `draft` and in the search for env files',
    'named in the report',
  ),
  historyVersions: limit(100_000, 'items', 'file versions searched in the history', note),
  historyVersionBytes: limit(MB, 'bytes', 'file version searched in the history', note),
  historyBytes: limit(512 * MB, 'bytes', 'file versions together', note),
  packageFiles: limit(3000, 'items', 'files of packages that `lint` follows', note),
  containerDepth: limit(8, 'items', 'nested containers', unread),
  members: limit(200_000, 'items', 'embedded files of one artifact', unread),
  memberBytes: limit(2 * GB, 'bytes', 'embedded file', unread),
  totalBytes: limit(16 * GB, 'bytes', 'embedded files of one artifact together', unread),
  innerBytes: limit(64 * MB, 'bytes', 'container inside another one', unread),
  textBytes: limit(32 * MB, 'bytes', 'source map that is unpacked', 'searched as text'),
  expansion: limit(2000, 'times', 'size of embedded files in relation to the artifact', unread),
  unpackSeconds: limit(600, 'seconds', 'unpacking one artifact', unread),
  fileSeconds: limit(60, 'seconds', 'reading one artifact', unread),
  checkSeconds: limit(60, 'seconds', 'checking what was found in one artifact or embedded file', unread),
  inspectSeconds: limit(3600, 'seconds', 'one inspection', unread),
  scriptBytes: limit(8 * MB, 'bytes', 'script that is parsed for joined values', unread),
  listBytes: limit(64 * MB, 'bytes', 'file whose lists of numbers are read as texts', unread),
  mapBytes: limit(64 * MB, 'bytes', 'source map whose sources are compared with `server-code`', unread),
  parsedBytes: limit(64 * MB, 'bytes', 'scripts whose functions and properties are named beside findings', 'not named'),
  pageBytes: limit(8 * MB, 'bytes', 'page that is checked for load-time values', unread),
  tracedBytes: limit(64 * MB, 'bytes', 'artifact or map that is traced to its source', 'searched, not traced'),
  mappings: limit(16 * MB, 'bytes', 'mappings of a source map', 'listed as unread, hits are not traced'),
  placesPerValue: limit(100, 'items', 'places of one value in one file', 'counted'),
  anchorPlaces: limit(2000, 'items', 'places in one file that are compared with one value', 'counted'),
  runsPerFile: limit(20_000, 'items', 'runs of characters in one file that may be a token', unread),
  recordedEntries: limit(50_000, 'items', 'entries of the history of values', unread),
  stateBytes: limit(256 * MB, 'bytes', 'receipt or other file of `.adder`', unread),
  reportBytes: limit(256 * MB, 'bytes', 'saved report in `show`', refused),
  receipts: limit(50, 'items', 'receipts of one bundle', 'the oldest are deleted'),
  receiptBytes: limit(
    64 * MB,
    'bytes',
    'receipts of one bundle together, besides the last two',
    'the oldest are deleted',
  ),
  manifestBytes: limit(
    MB,
    'bytes',
    'package manifest, or editor configuration to merge into',
    'counts as absent, or refused with exit code 3',
  ),
  optionalFileBytes: limit(64 * MB, 'bytes', 'any other optional file', 'counts as absent'),
  probeFiles: limit(5000, 'items', 'files that `probe` asks a site for', unread),
  probeBuildFiles: limit(2000, 'items', 'files of the served build that `probe` requests', unread),
  probePages: limit(500, 'items', 'linked pages that `probe` follows', 'counted under coverage'),
  probeFileBytes: limit(64 * MB, 'bytes', 'file of a site in `probe`', unread),
  probeBytes: limit(GB, 'bytes', 'files of a site together', unread),
  probeSeconds: limit(600, 'seconds', 'one probe of a site', unread),
  heldOutputBytes: limit(256 * KB, 'bytes', 'output that `with` holds back for masking', 'masked as a whole'),
});

function limit(value: number, unit: Limit['unit'], of: string, report: string): Limit {
  return { value, unit, of, report };
}
