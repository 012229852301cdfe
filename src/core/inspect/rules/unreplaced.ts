import { isPage, scriptLanguage } from '../../files/languages.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { limits } from '../../limits/index.js';
import type { MarkHit } from '../../search/scan.js';
import { textPositions } from '../../text/positions.js';
import type { UnreplacedRead } from '../plan.js';
import type { ArtifactRule, Surroundings } from '../rule.js';
import { marksFor } from '../token-runs.js';

/** The kinds of marks that are reads of public variables, and of anything in the process environment. */
const [READ, PROCESS] = ['read', 'process-env'];
const PROCESS_ENV = 'process.env';

/** Texts of uses of the process environment; `process` alone is in too many texts. */
const processTexts = [
  PROCESS_ENV,
  'process?.env',
  '(process).',
  'process["env',
  "process['env",
  'process[`env',
  'process\n  ',
  'process\n\t.',
  '= process;',
  '= process,',
  '= process\n',
  '}=process;',
  '}=process,',
];

/** The shortest text that the matcher finds, in bytes. */
const SHORTEST_MARK = 4;

/** A placeholder with a name of one letter, `%A%`, is searched for with each byte that may precede it. */
function longEnough(text: Buffer): Buffer[] {
  if (text.length >= SHORTEST_MARK) return [text];
  return Array.from({ length: 256 }, (_, byte) => Buffer.concat([Buffer.from([byte]), text]));
}

/**
 * Reads that the build left in shipped code. A text counts only where a script reads it, not in a string or comment; embedded
 * files are source text, or belong to an app with an environment of its own, but for scripts in `data:` URIs, which browsers run.
 */
export const unreplacedReads: ArtifactRule = {
  codes: ['read/unreplaced'],
  marks: ({ reads, browserBundles }) => [
    ...reads.flatMap(({ text }) => longEnough(Buffer.from(text)).map((bytes) => ({ kind: READ, bytes }))),
    ...(browserBundles.length > 0 ? marksFor(PROCESS, processTexts) : []),
  ],
  async check(hits, surroundings) {
    const { content, inspected, plan, describe } = surroundings;
    const { where, fileName, size } = content;
    const isScript = scriptLanguage(fileName) !== undefined;
    const isServed = where.inside.every((name) => name.startsWith('data:'));
    if (inspected.audience !== 'browser' || !isServed || size > limits.scriptBytes.value) return [];
    if (!isScript && !isPage(fileName)) return [];
    const own = new Map(
      plan.reads.filter(({ bundle }) => bundle === inspected.bundle).map((read) => [read.text, read]),
    );
    const first = new Map<UnreplacedRead, { start: number; end: number }>();
    for (const { start, end, kind } of hits) {
      if (kind !== READ) continue;
      const text = Buffer.from(content.read(start, end)).toString('latin1');
      const read = own.get(text) ?? own.get(text.slice(1));
      if (read && !first.has(read)) first.set(read, { start: end - read.text.length, end });
    }
    const isReal = first.size === 0 ? () => false : await readsOf(fileName, await content.text());
    const real = [...first].filter(([read]) => (read.object === 'placeholder' ? !isScript : isReal(read)));
    const throwing = await ofProcess(
      hits,
      surroundings,
      real.map(([read]) => read),
    );
    const described = await describe(real.map(([, range]) => range));
    const left = real.map(([read], index): RawFinding => {
      const { variable, text, object, bundle } = read;
      const about = { variable, stage: inspected.stage, bundle };
      return finding('read/unreplaced', 'read', { text, object }, { ...about, ...described[index] });
    });
    return [...left, ...throwing];
  },
};

/**
 * Reads of the process environment that throw in a browser, whatever they read. The names of public variables that the build should
 * have replaced are left out.
 */
async function ofProcess(
  hits: readonly MarkHit[],
  { content, inspected, plan, describe }: Surroundings,
  known: readonly UnreplacedRead[],
): Promise<RawFinding[]> {
  const { bundle = '', stage } = inspected;
  const language = scriptLanguage(content.fileName);
  const isRead = hits.some(
    ({ kind, end }) =>
      kind === PROCESS && !/^\.NODE_ENV\b/.test(Buffer.from(content.read(end, end + 10)).toString('latin1')),
  );
  if (!language || !isRead || !plan.browserBundles.includes(bundle)) return [];
  const { throwingReads } = await import('../process-reads.js');
  const text = await content.text();
  const byName = new Map(
    throwingReads(text, language)
      .toReversed()
      .map((read) => [read.name ?? '', read]),
  );
  for (const { name } of known) byName.delete(name);
  const reads = [...byName.values()];
  const positionOf = textPositions(text);
  const described = await describe(
    reads.map(({ start, end }) => ({ start: positionOf(start).offset, end: positionOf(end).offset })),
  );
  return reads.map(({ name }, index) => {
    const isDeclared = name === undefined ? plan.names.some((one) => text.includes(one)) : plan.names.includes(name);
    const about = { text: name === undefined ? PROCESS_ENV : `${PROCESS_ENV}.${name}`, object: 'process.env' } as const;
    const isOfServer = name !== undefined && plan.serverNames.includes(name);
    const more = {
      ...(name !== undefined && { variable: name }),
      stage,
      bundle,
      ...(!isDeclared && { level: 'warning' as const }),
    };
    return finding('read/unreplaced', isOfServer ? 'server' : 'read', about, { ...more, ...described[index] });
  });
}

/** Tells whether the scripts of a file read a name from an object. The parser is loaded when it is needed. */
async function readsOf(fileName: string, text: string): Promise<(read: UnreplacedRead) => boolean> {
  const { readsIn } = await import('../../reads/index.js');
  const { reads } = readsIn(fileName, text, ['import.meta.env', 'process.env']);
  return ({ name, object }) =>
    reads.some((read) => read.name === name && read.object === object && read.kind !== 'assigned');
}
