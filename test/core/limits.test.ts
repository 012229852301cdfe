import { mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { describe, expect, test, vi } from 'vitest';
import { entryName, makeEntry, sealEntry, type ValueEntry } from '../../src/core/history/entry.js';
import { sectionKeys } from '../../src/core/history/keys.js';
import { SourceMap } from '../../src/core/inspect/source-map.js';
import { limits } from '../../src/core/limits/index.js';
import { planHistory } from '../../src/core/lint/repository/history.js';
import { packageFiles } from '../../src/core/lint/repository/packages.js';
import { MaskingStream } from '../../src/core/mask/masking.js';
import { filesToRequest } from '../../src/core/probe/version.js';
import { makeReceipt } from '../../src/core/receipt/receipt.js';
import { valueProblem } from '../../src/core/resolve/value-rules.js';
import { Secret } from '../../src/core/secrets/secret.js';
import { Budget, usualLimits } from '../../src/core/unpack/limits.js';
import { Files } from '../../src/host/files.js';
import { storeReceipt } from '../../src/host/state.js';
import { contractOf } from '../support/contract.js';
import { runHere } from '../support/here.js';
import { MadeUpSite } from '../support/site.js';
import { asarOf, tarOf, walk } from '../support/unpack.js';

type Name = keyof typeof limits;

/** One limit, with a case that it allows and one that is just beyond it. */
interface Case {
  /** The limit during the case, where one of the real size would take long. Absent: the real one. */
  as?: number;
  /** Output that the user sees. @param size that the limit is compared with */
  seen(size: number): Promise<string>;
  /** Text that is seen beyond the limit alone. */
  report: RegExp;
}

const contract = 'adder: 1\nstages: { production: { layers: [.env] } }\n';
const desk = `${contract}bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }\n`;
const key = 'made-up-fare-signing-key-0001';

/** Output of a command on files. */
async function seenOf(files: Record<string, string | Uint8Array>, ...argv: string[]): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'adder-limit-'));
  for (const [path, content] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), content, { mode: 0o600 });
  }
  const { stdout, stderr } = await runHere({ cwd: folder, env: { PATH: process.env.PATH } }, argv);
  return stdout + stderr;
}

const inspected = (files: Record<string, string | Uint8Array>, more = '') =>
  seenOf(
    {
      'adder.yaml': `${desk}variables: { API_URL: public, KEY: { reach: server } }\n${more}`,
      '.env': `API_URL=https://a.saltmarsh.example\nKEY=${key}\n`,
      'src/main.js': 'import.meta.env.VITE_API_URL',
      ...files,
    },
    'inspect',
    '--stage',
    'production',
  );

const linted = (files: Record<string, string | Uint8Array>) =>
  seenOf(
    {
      'adder.yaml': `${desk}variables: { API_URL: public }\n`,
      '.env': 'API_URL=https://a.saltmarsh.example\n',
      'src/main.js': 'import.meta.env.VITE_API_URL',
      ...files,
    },
    'lint',
  );

const valuesOf = (yaml: string, env: string) =>
  seenOf({ 'adder.yaml': contract + yaml, '.env': env }, 'values', 'production');

/** A text of exactly so many bytes. */
const sized = (size: number, start = '', fill = 'x') => start + fill.repeat(size - start.length);

const unreadOf = async (walked: ReturnType<typeof walk>) => JSON.stringify((await walked)?.unread);
const tar = () => tarOf({ 'a.txt': 'x'.repeat(100), 'b.txt': 'y'.repeat(100) });

/** Reasons why a plan leaves out versions of these sizes, the newest first. */
const history = (sizes: readonly number[]) =>
  planHistory(
    sizes.map((size, index) => ({ id: String(index), path: 'a', size }) as never),
    { isShallow: false, absent: 0 },
  ).leftOut.join();

function thrownBy(work: () => unknown): string {
  try {
    work();
    return '';
  } catch (error) {
    return (error as Error).message;
  }
}

const receiptOf = (builtAt: string) =>
  makeReceipt({
    ...{ bundle: 'desk', stage: 'production', builtAt, adder: '0.1.0', command: ['true'], values: [] },
    digests: new Map(),
  });

/** Runs work on a clock that a file of the source starts: its first look sees the start, later ones so many seconds more. */
async function onClock(file: string, seconds: number, work: () => Promise<string>): Promise<string> {
  const start = Date.now();
  let isStarted = false;
  const clock = vi.spyOn(Date, 'now').mockImplementation(() => {
    if (isStarted) return start + seconds * 1000;
    isStarted = new Error().stack?.includes(`${file}.ts`) ?? false;
    return start;
  });
  try {
    return await work();
  } finally {
    clock.mockRestore();
  }
}

/** Output of `probe` on a made-up site. */
async function probed(pages: Record<string, string>, variables = 'API_URL: public'): Promise<string> {
  const site = await MadeUpSite.start(pages);
  try {
    return await seenOf(
      { 'adder.yaml': `${desk}variables: { ${variables} }\n`, '.env': 'API_URL=https://a.saltmarsh.example\n' },
      ...['probe', site.url, '--bundle', 'desk', '--stage', 'production'],
    );
  } finally {
    await site.stop();
  }
}

/** Files of the history with entries of so many values, whose key has only zeros. */
function recorded(count: number): Record<string, Uint8Array> {
  const keys = sectionKeys(Buffer.alloc(32));
  const files = Array.from({ length: count }, (_, index) => {
    const value = new Secret(`kX7qv9TzR2mWb4Yc8Lp1Hd6N0aJ5sG3e${index}`);
    const made = makeEntry(keys, { variable: 'KEY', stage: 'production', reach: 'server', value, day: '2026-11-30' });
    const entry = made as ValueEntry;
    return [`.adder/history/${keys.section}/${entryName(keys, entry)}`, sealEntry(keys, entry)] as const;
  });
  return Object.fromEntries(files);
}

/** Scripts, each in a file of its own, and the page that loads them. */
function siteOf(scripts: number): Record<string, string> {
  const names = Array.from({ length: scripts }, (_, index) => `/a${index}.js`);
  const page = names.map((name) => `<script src="${name}"></script>`).join('');
  return { '/': page, ...Object.fromEntries(names.map((name) => [name, 'x()'])) };
}

const cases: Record<Name, Case> = {
  fileSeconds: {
    seen: (size) => onClock('inspect/scanner', size, () => inspected({ 'dist/a.js': 'x'.repeat(2 ** 22) })),
    report: /takes longer than 60 seconds to read/,
  },
  checkSeconds: {
    seen: (size) => onClock('inspect/visit', size, () => inspected({ 'dist/a.js': key })),
    report: /takes longer than 60 seconds to check/,
  },
  inspectSeconds: {
    seen: (size) => onClock('project/inspection', size, () => inspected({ 'dist/a.js': 'x' })),
    report: /was not read: the inspection took more than 60 minutes/,
  },
  probeSeconds: {
    seen: (size) => onClock('project/site', size, () => probed(siteOf(1))),
    report: /was not read: the probe took too long/,
  },
  probeFiles: {
    as: 3,
    seen: (size) => probed(siteOf(size - 1)),
    report: /was not read: the site has too many files/,
  },
  probePages: {
    as: 3,
    seen: (size) => {
      const paths = Array.from({ length: size }, (_, index) => `/p${index}`);
      const links = paths.map((path) => `<a href="${path}">x</a>`).join('');
      return probed({ '/': links, ...Object.fromEntries(paths.map((path) => [path, '<p>'])) });
    },
    report: /links to 1 more page, not followed/,
  },
  probeBuildFiles: {
    as: 3,
    seen: async (size) => {
      const files = Array.from({ length: size }, (_, index) => ({ url: `${index}.js`, bytes: index }));
      return filesToRequest(files, limits.probeBuildFiles.value)
        .left.map(({ url }) => `left: ${url}`)
        .join();
    },
    report: /left: 3\.js/,
  },
  probeBytes: {
    as: 1000,
    seen: (size) => probed({ '/': sized(size, '<script src="/a.js"></script>'), '/a.js': 'x()' }),
    report: /was not read: the site is too large/,
  },
  probeFileBytes: {
    as: 1000,
    seen: (size) => probed({ '/': sized(size, '<p>') }),
    report: /sent more than 1\.0 kB/,
  },
  pageBytes: {
    as: 1000,
    seen: (size) => probed({ '/': sized(size, '<p>') }, 'API_URL: { reach: public, delivery: runtime }'),
    report: /so its load-time values were not checked/,
  },
  listBytes: {
    as: 400,
    seen: (size) =>
      inspected({ 'dist/a.js': sized(size, `String.fromCharCode(...[${[...Buffer.from(key)].join(',\n  ')}])//`) }),
    report: /values in lists of numbers were not searched for/,
  },
  parsedBytes: {
    as: 400,
    seen: async (size) => {
      const named = await inspected({
        'dist/a.js': sized(size, `f("${key}")//`),
        'dist/b.js': `function fareDesk() {${'\n'.repeat(9)}return "${key}";\n}`,
      });
      return named.includes('fareDesk') ? '' : 'not named';
    },
    report: /not named/,
  },
  tracedBytes: {
    as: 300,
    seen: async (size) => {
      const map = JSON.stringify({ version: 3, sources: ['../src/fare.js'], names: [], mappings: 'AAAA' });
      const traced = await inspected({
        'dist/a.js': `f("${key}")\n//# sourceMappingURL=a.js.map\n`,
        'dist/a.js.map': sized(size, map, ' '),
      });
      return traced.includes('src/fare.js') ? '' : 'not traced';
    },
    report: /not traced/,
  },
  anchorPlaces: {
    seen: (size) => inspected({ 'dist/a.txt': `${key.slice(0, -1)}-\n`.repeat(size) }),
    report: /has 2,001 places that may be the value of KEY/,
  },
  heldOutputBytes: {
    as: 100,
    seen: async (size) => {
      const value = Buffer.from('0123456789abcdef'.repeat(20));
      return new MaskingStream([], [value]).push(value.subarray(0, size)).length > 0 ? 'shown' : '';
    },
    report: /shown/,
  },
  contractBytes: {
    as: 200,
    seen: (size) =>
      seenOf(
        { 'adder.yaml': sized(size, `${contract}variables: { A: public }\n#`), '.env': 'A=1' },
        'values',
        'production',
      ),
    report: /adder\.yaml is larger than 200 bytes/,
  },
  contractVariables: {
    as: 3,
    seen: (size) =>
      valuesOf(`variables: { ${Array.from({ length: size }, (_, i) => `A${i}: public`).join(', ')} }`, ''),
    report: /4 variables/,
  },
  envFileBytes: {
    as: 100,
    seen: (size) => valuesOf('variables: { A: public }', sized(size, 'A=1\n#')),
    report: /\.env is larger than 100 bytes/,
  },
  envFileEntries: {
    as: 3,
    seen: (size) => valuesOf('variables: { A0: public }', Array.from({ length: size }, (_, i) => `A${i}=1\n`).join('')),
    report: /more than 3/,
  },
  yamlDepth: {
    seen: (size) => valuesOf(`variables: ${'['.repeat(size)}${']'.repeat(size)}`, ''),
    report: /nested too deeply|nests/,
  },
  referenceDepth: {
    seen: (size) => valuesOf('variables: { A: public }', `A=${'${B:-'.repeat(size)}x${'}'.repeat(size)}`),
    report: /nested/,
  },
  referenceLinks: {
    as: 3,
    seen: (size) =>
      valuesOf(
        'variables: { A0: public }',
        `${Array.from({ length: size }, (_, i) => `A${i}=$A${i + 1}\n`).join('')}A${size}=x\n`,
      ),
    report: /A0.*(links|references)/,
  },
  expandedCharacters: {
    as: 50,
    seen: (size) => valuesOf('variables: { A: public }', `B=${sized(size)}\nA=$B\n`),
    report: /A .*50 characters/,
  },
  sourceFileBytes: {
    as: 100,
    seen: (size) => linted({ 'src/main.js': sized(size, 'import.meta.env.VITE_API_URL //') }),
    report: /src\/main\.js is larger than 100 bytes/,
  },
  configurationSteps: {
    as: 300,
    seen: (size) =>
      seenOf(
        {
          'package.json': '{ "devDependencies": { "vite": "8" } }',
          'src/main.js': '',
          // A statement is a step, and so is its expression.
          'vite.config.js': '1;'.repeat(size / 2) + ';'.repeat(size % 2),
        },
        'draft',
      ),
    report: /vite\.config\.js computes more than Adder follows/,
  },
  draftSourceBytes: {
    as: 100,
    seen: (size) => seenOf({ 'src/main.js': sized(size, 'process.env.API_URL //'), '.env': 'A=1' }, 'draft'),
    report: /src\/main\.js.*is larger than 100 bytes/,
  },
  directoryDepth: {
    as: 3,
    seen: (size) => seenOf({ [`${'d/'.repeat(size - 1)}.env`]: 'A=1\n', '.env': 'B=1' }, 'draft'),
    report: /nested in more than 2 directories/,
  },
  containerDepth: {
    seen: async (size) => {
      let inner: Buffer = Buffer.from('x');
      for (let depth = 0; depth < size; depth++) inner = gzipSync(inner);
      return unreadOf(walk(inner, `a${'.gz'.repeat(size)}`));
    },
    report: /is nested 9 containers deep/,
  },
  members: {
    seen: async (size) => unreadOf(walk(await tar(), 'a.tar', { members: size === limits.members.value ? 2 : 1 })),
    report: /has more than 1 embedded files/,
  },
  memberBytes: {
    seen: async (size) =>
      unreadOf(walk(await tar(), 'a.tar', { memberBytes: size === limits.memberBytes.value ? 100 : 99 })),
    report: /is larger than 99 bytes/,
  },
  totalBytes: {
    seen: async (size) =>
      unreadOf(walk(await tar(), 'a.tar', { totalBytes: size === limits.totalBytes.value ? 200 : 199 })),
    report: /contains more than 199 bytes/,
  },
  innerBytes: {
    seen: async (size) => {
      const inner = await asarOf({ 'a.txt': 'x' });
      const innerBytes = size === limits.innerBytes.value ? inner.length : inner.length - 1;
      return unreadOf(walk(await tarOf({ 'a.asar': inner }), 'a.tar', { innerBytes }));
    },
    report: /is a nested container larger than/,
  },
  scriptBytes: {
    as: 200,
    seen: (size) => inspected({ 'dist/a.js': sized(size, `a("${key.slice(0, 14)}" + b)//`) }),
    report: /contains a fragment of a secret and is larger than 200 bytes/,
  },
  mapBytes: {
    as: 300,
    seen: (size) => {
      const map = JSON.stringify({ version: 3, sources: ['../src/a.js'], sourcesContent: ['x'], mappings: 'AAAA' });
      return seenOf(
        {
          'adder.yaml': `${desk.replace('code: [src]', 'code: [src], server-code: [server]')}variables: { API_URL: public }\n`,
          '.env': 'API_URL=https://a.saltmarsh.example\n',
          'server/a.js': 'export const fares = () => import("./ledger");\n',
          'dist/a.js': 'f("https://a.saltmarsh.example")\n//# sourceMappingURL=a.js.map\n',
          'dist/a.js.map': map.replace('}', `,"x_pad":"${'x'.repeat(size - map.length - 11)}"}`),
        },
        'inspect',
        '--stage',
        'production',
      );
    },
    report: /so its sources were not compared with `server-code`/,
  },
  placesPerValue: {
    seen: (size) => inspected({ 'dist/a.js': `"${key}" `.repeat(size) }),
    report: /1 more/,
  },
  runsPerFile: {
    seen: (size) =>
      inspected({
        'dist/a.txt': Array.from(
          { length: size },
          (_, i) => `Zx9${i.toString(36).padStart(5, '0')}Qq7Kr2mW4vN8b\n`,
        ).join(''),
      }),
    report: /20,?000/,
  },
  recordedEntries: {
    as: 2,
    seen: (size) =>
      inspected({
        'dist/a.js': 'x',
        '.adder/key': `${'0'.repeat(64)}\n`,
        '.adder/.gitignore': '*\n',
        ...recorded(size),
      }),
    report: /more than 2/,
  },
  stateBytes: {
    as: 200,
    seen: (size) => inspected({ 'dist/a.js': 'x', '.adder/key': sized(size, '', '0'), '.adder/.gitignore': '*\n' }),
    report: /is too large for a file of Adder/,
  },
  reportBytes: {
    as: 400,
    seen: (size) => seenOf({ 'a.json': sized(size, '{}', ' ') }, 'show', 'a.json'),
    report: /a\.json is larger than 400 bytes/,
  },
  patternSeconds: {
    seen: async (size) => {
      const rules = contractOf(`${contract}variables: { A: { reach: public, pattern: 'a+' } }\n`);
      const variable = rules.variables.get('A') ?? expect.unreachable();
      // The clock is the host's.
      const fits = () => (size > limits.patternSeconds.value ? ('too slow' as const) : ('yes' as const));
      return valueProblem({ ...variable, pattern: { source: 'a+', fits } }, 'aaa', 'production') ?? '';
    },
    report: /takes longer than 250 ms to match the pattern/,
  },
  commandOutputBytes: {
    as: 1000,
    seen: (size) => {
      const print = `process.stdout.write('A=1 #' + 'x'.repeat(${size - 6}) + String.fromCharCode(10))`;
      const layers = `{ command: [${process.execPath}, -e, "${print}"] }`;
      return seenOf(
        {
          'adder.yaml': `adder: 1\nstages: { production: { layers: [${layers}] } }\nvariables: { A: public }\n`,
        },
        'values',
        'production',
      );
    },
    report: /printed more than 1\.0 kB/,
  },
  historyVersions: {
    as: 2,
    seen: async (size) => history(Array.from({ length: size }, () => 10)),
    report: /has 1 version that was not searched/,
  },
  historyVersionBytes: {
    as: 100,
    seen: async (size) => history([size]),
    report: /larger than 100 bytes/,
  },
  historyBytes: {
    as: 100,
    seen: async (size) => history([size - 50, 50]),
    report: /has 1 version that was not searched/,
  },
  packageFiles: {
    as: 3,
    seen: async (size) => {
      const imports = Array.from({ length: size }, (_, index) => ({ specifier: `p${index}` }) as never);
      const { isCut } = packageFiles([{ path: '/src/a.js', file: { imports } }], {
        resolve: (_, specifier) => `/node_modules/${specifier}/index.js`,
        text: () => '',
      });
      return isCut ? 'cut' : '';
    },
    report: /cut/,
  },
  textBytes: {
    seen: async (size) => {
      const map = Buffer.from(JSON.stringify({ version: 3, sources: ['a.ts'], sourcesContent: [key], mappings: '' }));
      const walked = await walk(map, 'a.js.map', { textBytes: map.length - (size - limits.textBytes.value) });
      return Object.keys(walked?.members ?? {}).length > 0 ? '' : 'searched as text';
    },
    report: /searched as text/,
  },
  expansion: {
    seen: async (size) => {
      const budget = new Budget(usualLimits, 2 ** 20, () => 0);
      return thrownBy(() => budget.bytes(size * 2 ** 20, 1));
    },
    report: /expands to more than 2000 times its size/,
  },
  unpackSeconds: {
    seen: async (size) => {
      let now = 0;
      const budget = new Budget(usualLimits, 1, () => now);
      now = size * 1000;
      return thrownBy(() => budget.bytes(1, 1));
    },
    report: /takes longer than 600 seconds to unpack/,
  },
  mappings: {
    as: 8,
    seen: async (size) =>
      thrownBy(
        () =>
          new SourceMap(JSON.stringify({ version: 3, sources: [], names: [], mappings: ';'.repeat(size) }), 'a.map'),
      ),
    report: /has more than 8 bytes of mappings/,
  },
  optionalFileBytes: {
    as: 100,
    seen: async (size) => {
      const path = join(mkdtempSync(join(tmpdir(), 'adder-limit-')), 'a');
      writeFileSync(path, sized(size));
      return new Files().readIfPossible(path) ? '' : 'absent';
    },
    report: /absent/,
  },
  receipts: {
    as: 2,
    seen: async (size) => {
      const folder = mkdtempSync(join(tmpdir(), 'adder-limit-'));
      const at = { files: new Files(), root: folder };
      for (let index = 0; index < size; index++) storeReceipt(at, receiptOf(`2026-11-${10 + index}T00:00:00.000Z`));
      return readdirSync(join(folder, '.adder/receipts/desk')).some((name) => name.startsWith('2026-11-10'))
        ? ''
        : 'deleted';
    },
    report: /deleted/,
  },
  receiptBytes: {
    as: 3 * JSON.stringify(receiptOf('2026-11-10T00:00:00.000Z'), null, 2).length + 3,
    seen: async (size) => {
      const folder = mkdtempSync(join(tmpdir(), 'adder-limit-'));
      const at = { files: new Files(), root: folder };
      for (let day = 10; day < 13; day++) {
        const receipt = receiptOf(`2026-11-${day}T00:00:00.000Z`);
        const command = [`true${'x'.repeat(day === 12 ? size - limits.receiptBytes.value : 0)}`];
        storeReceipt(at, { ...receipt, predicate: { ...receipt.predicate, command } });
      }
      const kept = readdirSync(join(folder, '.adder/receipts/desk')).length;
      return kept === 3 ? '' : `${kept} left`;
    },
    report: /2 left/,
  },
  manifestBytes: {
    as: 100,
    seen: (size) =>
      seenOf(
        {
          'adder.yaml': `${desk}variables: { A: public }\n`,
          '.vscode/launch.json': sized(size, '{ "version": "0.2.0" }', ' '),
        },
        'emit',
        'launch',
        '--into',
        '.vscode',
      ),
    report: /launch\.json is larger than 100 bytes/,
  },
};

describe.each(Object.entries(cases) as [Name, Case][])('%s', (name, { as, seen, report }) => {
  const real = limits[name].value;

  async function seenWith(beyond: number): Promise<string> {
    limits[name].value = as ?? real;
    try {
      return await seen((as ?? real) + beyond);
    } finally {
      limits[name].value = real;
    }
  }

  test('allows as much as it says', async () => {
    expect(await seenWith(0)).not.toMatch(report);
  });

  test('reports one more', async () => {
    expect(await seenWith(1)).toMatch(report);
  });
});

test('every limit has its cases', () => {
  expect(Object.keys(cases).sort()).toEqual(Object.keys(limits).sort());
});
