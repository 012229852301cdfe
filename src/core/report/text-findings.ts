import type { Coverage } from '../findings/check.js';
import { compareLevels, type Level } from '../findings/codes.js';
import type { Finding, Place, Summary } from '../findings/finding.js';
import { byteSize, count, displayText } from '../text/display.js';
import { excerptOf, renderFrame } from '../text/frame.js';
import { joinWords } from '../text/nearest.js';
import type { FindingsReport } from './documents.js';
import { cells, groupBy, wrap } from './layout.js';
import type { PrintOptions } from './style.js';

const INDENT = '           ';

/** How many places of a note are shown with their line. */
const NOTE_PLACES = 2;

/** A report of findings for a terminal: grouped by variable and then by place, what to do under it, what was looked at at the end. */
export function printFindings(report: FindingsReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong(`adder ${report.command}`), report.stage].filter(Boolean).join('  ');
  const body = quiet ? [] : [header, '', ...findingLines(report.findings, options)];
  return [...body, ...summaryLines(report, options), ''].join('\n');
}

/** The findings alone, for other printers to build in. */
export function findingLines(findings: readonly Finding[], options: PrintOptions): string[] {
  return groups(findings).flatMap((group) => [...groupLines(group, options), '']);
}

/** The gravest group first; groups of one level in the order in which they turned up. */
function groups(findings: readonly Finding[]): Finding[][] {
  const byVariable = groupBy(findings, ({ variable }) => variable ?? '');
  return [...byVariable.values()].sort((a, b) => compareLevels(gravest(a), gravest(b)));
}

function gravest(findings: readonly Finding[]): Level {
  return findings.map(({ level }) => level).sort(compareLevels)[0] ?? 'note';
}

function groupLines(group: readonly Finding[], options: PrintOptions): string[] {
  const { style } = options;
  const { variable, reach } = group[0] ?? {};
  const heading = [variable && style.strong(variable), reach && style.reach(reach)].filter(Boolean).join('  ');
  const sorted = [...group].sort((a, b) => compareLevels(a.level, b.level));
  const statements = [...groupBy(sorted, ({ level, message }) => `${level} ${message}`).values()];
  const lines = statements.flatMap((statement, index) => {
    const { remedy } = statement[0] as Finding;
    const isSaidNext = statements[index + 1]?.[0]?.remedy === remedy;
    return [...statementLines(statement, options), ...(isSaidNext ? [] : remedyLines(remedy, options))];
  });
  return heading === '' ? lines : [heading, ...lines];
}

/** One thing to say, and every place that it is said of: by the line that wrote it, where that is known. */
function statementLines(statement: readonly Finding[], options: PrintOptions): string[] {
  const { level, message, code } = statement[0] as Finding;
  const { style, width } = options;
  const first = `  ${style.level(level, level.padEnd(INDENT.length - 4))}  `;
  const texts = wrap(displayText(message), width - INDENT.length);
  const said = texts.map((line, index) => (index === 0 ? first : INDENT) + line);
  const byOrigin = groupBy(statement, (finding) => originText(finding) ?? '');
  const where = [...byOrigin].flatMap(([origin, findings]) =>
    origin === '' ? placeLines(findings, options) : originLines(findings, options),
  );
  return [...said, INDENT + style.dim(code), ...where];
}

function originLines(findings: readonly Finding[], options: PrintOptions): string[] {
  const { style } = options;
  const [first] = findings;
  const places = findings.flatMap(({ place, encoding }) =>
    place ? [placeText(place) + encodingText(encoding, options)] : [],
  );
  return [
    `${INDENT}${style.strong(originText(first as Finding) ?? '')} ${style.dim('wrote it')}`,
    ...frameLines(first?.excerpt, options),
    ...places.map((place, index) => `${INDENT}${style.dim(index === 0 ? 'into ' : '     ')}${place}`),
  ];
}

function placeLines(findings: readonly Finding[], options: PrintOptions): string[] {
  const shown = findings[0]?.level === 'note' ? findings.slice(0, NOTE_PLACES) : findings;
  const lines = shown.flatMap(({ place, encoding, excerpt }) => {
    const where = place ? [INDENT + options.style.strong(placeText(place)) + encodingText(encoding, options)] : [];
    return [...where, ...frameLines(excerpt, options)];
  });
  return [...lines, ...restLines(findings.slice(shown.length), options)];
}

/** Where else a note is true, by file. */
function restLines(findings: readonly Finding[], { style, width }: PrintOptions): string[] {
  const places = findings.flatMap(({ place }) => (place ? [place] : []));
  const byFile = groupBy(places, ({ path, inside }) => placeText({ path, inside }));
  return [...byFile].flatMap(([file, rest]) => {
    const lines = [...new Set(rest.map(({ line = 0 }) => String(line)))];
    const where = `and ${file}, ${lines.length === 1 ? 'line' : 'lines'} ${joinWords(lines)}`;
    return wrap(where, width - INDENT.length).map((line) => INDENT + style.dim(line));
  });
}

function originText({ origin }: Finding): string | undefined {
  return origin && displayText(`${origin.path}:${origin.line}:${origin.column}`);
}

/** `web/dist/a.zip » b.js:3:14` */
export function placeText({ path, inside, line, column }: Place): string {
  const position = line === undefined ? '' : `:${line}${column === undefined ? '' : `:${column}`}`;
  return displayText([path, ...inside].join(' » ') + position);
}

function encodingText(encoding: Finding['encoding'], { style }: PrintOptions): string {
  const names = encoding?.filter((name) => name !== 'plain') ?? [];
  return names.length > 0 ? style.dim(`  as ${names.join(' in ')}`) : '';
}

function frameLines(excerpt: Finding['excerpt'], { style, width }: PrintOptions): string[] {
  if (!excerpt) return [];
  const room = width - INDENT.length - String(excerpt.line).length - '   | '.length;
  const [line, caret] = renderFrame(excerptOf(excerpt.line, excerpt.text, excerpt.column, excerpt.length, room), cells);
  const at = caret.indexOf('^');
  return [`${INDENT}  ${line}`, `${INDENT}  ${caret.slice(0, at)}${style.caret(caret.slice(at))}`];
}

function remedyLines(remedy: string, { style, width }: PrintOptions): string[] {
  return wrap(displayText(remedy), width - INDENT.length - 2).map((line, index) =>
    style.dim(`${INDENT}${index === 0 ? '→ ' : '  '}${line}`),
  );
}

function summaryLines({ summary, coverage }: FindingsReport, options: PrintOptions): string[] {
  const isPartial = coverage !== undefined && coverage.unread.length > 0;
  const nothing = isPartial ? 'nothing found in what could be read' : options.style.good('nothing found');
  return [countLine(summary, options, nothing), ...(coverage ? coverageLines(coverage, options) : [])];
}

/** @param nothing what stands there when nothing was found */
export function countLine(
  { error, warning, note, accepted }: Summary,
  { style }: PrintOptions,
  nothing = style.good('nothing found'),
): string {
  const parts = [
    error > 0 && style.level('error', count(error, 'error')),
    warning > 0 && style.level('warning', count(warning, 'warning')),
    note > 0 && style.level('note', count(note, 'note')),
  ].filter((part) => part !== false);
  const found = parts.length > 0 ? joinWords(parts) : nothing;
  return accepted > 0 ? `${found}, and ${accepted} accepted` : found;
}

function coverageLines(coverage: Coverage, options: PrintOptions): string[] {
  const { style, width } = options;
  const { files, members, bytes, unread, passedOver = [], notSearched = [] } = coverage;
  const looked = `looked at ${count(files, 'file')}${members > 0 ? ` and ${count(members, 'member')} of containers` : ''}, ${byteSize(bytes)}`;
  const lines = [
    unread.length === 0
      ? `${looked}; every byte of them was read`
      : `${looked}; ${style.level('error', `${count(unread.length, 'thing')} could not be read`)}:`,
  ];
  for (const { path, inside, because } of unread) lines.push(`  ${placeText({ path, inside })} ${because}`);
  for (const { path, inside, because } of passedOver)
    lines.push(style.dim(`  passed over: ${placeText({ path, inside })} ${because}`));
  if (notSearched.length > 0) {
    const names = [...new Set(notSearched.map(({ variable, because }) => `${variable} (${because})`))];
    lines.push(...wrap(`not looked for, as they stand in any bundle: ${names.join(', ')}`, width).map(style.dim));
  }
  return lines;
}
