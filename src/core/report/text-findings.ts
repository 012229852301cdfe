import { changesWhere, type Since } from '../findings/change.js';
import { compareLevels, type Level } from '../findings/codes.js';
import type { Finding } from '../findings/finding.js';
import { placeText } from '../findings/place.js';
import { count, displayText } from '../text/display.js';
import { excerptOf, renderFrame } from '../text/frame.js';
import { groupBy } from '../text/group-by.js';
import { joinWords } from '../text/nearest.js';
import { catalogue } from '../words/catalogue.js';
import type { FindingsReport } from './documents.js';
import { cells, padEnd, wrap } from './layout.js';
import type { PrintOptions } from './style.js';
import { sinceLines } from './text-changes.js';
import { comparedLines } from './text-compared.js';
import { contentsLines } from './text-contents.js';
import { summaryLines } from './text-summary.js';

const INDENT = '           ';

/** Places of one statement that are shown with their line, those of a note and of others, and further files that are listed by name. */
const [NOTE_PLACES, MOST_PLACES, MOST_FILES] = [2, 5, 20];

/** A report with more findings than this starts with their causes. */
const MOST_WITHOUT_CAUSES = 20;

/** Reports with more findings than the first number list only the second number of each cause. */
const [MOST_LISTED, FEW] = [200, 5];

/** A report of findings for a terminal, grouped by variable: message, places and remedy; the summary and coverage last. */
export function printFindings(report: FindingsReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const header = [style.strong(`adder ${report.command}`), report.stage].filter(Boolean).join('  ');
  const body = quiet
    ? []
    : [header, '', ...causeLines(report.findings, options), ...listedLines(report.findings, options)];
  if (options.contents && report.contents && !quiet) body.push(...contentsLines(report.contents, options));
  if (report.changes && !quiet) body.push(...comparedLines(report.changes, report.coverage, options));
  if (report.since && !quiet) body.push(...sinceLines(withoutFindings(report.since, report.findings), options));
  return [...body, ...summaryLines(report, options), ''].join('\n');
}

/** Changes that no finding reports already. */
function withoutFindings(since: readonly Since[], findings: readonly Finding[]): Since[] {
  const reported = new Set(
    findings.filter(({ code }) => code.startsWith('stale/')).map(({ bundle, variable }) => `${bundle} ${variable}`),
  );
  return changesWhere(since, ({ variable }, { bundle }) => !reported.has(`${bundle} ${variable}`));
}

/** Findings by code, the gravest and most frequent first. */
function causesOf(findings: readonly Finding[]): Finding[][] {
  return [...groupBy(findings, ({ level, code }) => `${level} ${code}`).values()].sort(
    (a, b) => compareLevels(gravest(a), gravest(b)) || b.length - a.length,
  );
}

/** Many findings by code, the gravest and most frequent first: a few causes often explain them all. */
function causeLines(findings: readonly Finding[], { style, width }: PrintOptions): string[] {
  if (findings.length <= MOST_WITHOUT_CAUSES) return [];
  const causes = causesOf(findings);
  const widest = Math.max(...causes.map(([first]) => cells(first?.code ?? '')));
  const lines = causes.flatMap((cause) => {
    const { level, code } = cause[0] as Finding;
    const before = `${String(cause.length).padStart(6)}  ${style.level(level, padEnd(level, 7))}  ${padEnd(code, widest)}  `;
    const indent = ' '.repeat(cells(before));
    const { meaning } = catalogue[code];
    return wrap(meaning, Math.max(20, width - indent.length)).map(
      (line, index) => (index === 0 ? before : indent) + line,
    );
  });
  return [style.strong('By cause'), ...lines, ''];
}

/** All findings; of very many, the first few of each cause. */
function listedLines(findings: readonly Finding[], options: PrintOptions): string[] {
  if (findings.length <= MOST_LISTED) return findingLines(findings, options);
  const { style } = options;
  return causesOf(findings).flatMap((cause) => {
    const { level, code } = cause[0] as Finding;
    const more = cause.length - FEW;
    const title = `${style.level(level)} ${style.strong(code)}`;
    const rest = `and ${count(more, 'more finding')} of ${code} (--format html or json lists all)`;
    return [title, '', ...findingLines(cause.slice(0, FEW), options), ...(more > 0 ? [style.dim(rest), ''] : [])];
  });
}

/** The findings alone, for other printers. */
export function findingLines(findings: readonly Finding[], options: PrintOptions): string[] {
  return groups(findings).flatMap((group) => [...groupLines(group, options), '']);
}

/** The gravest group first; groups of the same level keep their order. */
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
  const statements = [...groupBy(sorted, ({ level, message, remedy }) => `${level} ${message}\n${remedy}`).values()];
  const lines = statements.flatMap((statement, index) => {
    const { remedy } = statement[0] as Finding;
    const isLast = index === statements.length - 1;
    if (statements[index + 1]?.[0]?.remedy === remedy) return statementLines(statement, options);
    return [...statementLines(statement, options), ...remedyLines(remedy, options), ...(isLast ? [] : [''])];
  });
  return heading === '' ? lines : [heading, ...lines];
}

/** A message with all its places, grouped by the source line that they come from, if known. */
function statementLines(statement: readonly Finding[], options: PrintOptions): string[] {
  const { level, message, code } = statement[0] as Finding;
  const { style, width } = options;
  const first = `  ${style.level(level, level.padEnd(INDENT.length - 4))}  `;
  const texts = wrap(displayText(message), width - INDENT.length);
  const indented = texts.map((line, index) => (index === 0 ? first : INDENT) + line);
  const byOrigin = groupBy(statement, (finding) => originText(finding) ?? '');
  const where = [...byOrigin].flatMap(([origin, findings]) =>
    origin === '' ? placeLines(findings, options) : originLines(findings, options),
  );
  return [...indented, INDENT + style.dim(`${code}  ${fingerprintsText(statement)}`), ...where];
}

/** Digits shown of a fingerprint, and fingerprints listed per statement. */
const [FINGERPRINT_DIGITS, MOST_FINGERPRINTS] = [8, 4];

function fingerprintsText(statement: readonly Finding[]): string {
  const all = [...new Set(statement.map(({ fingerprint }) => fingerprint.slice(0, FINGERPRINT_DIGITS)))];
  return [...all.slice(0, MOST_FINGERPRINTS), ...(all.length > MOST_FINGERPRINTS ? ['…'] : [])].join(' ');
}

function originLines(findings: readonly Finding[], options: PrintOptions): string[] {
  const { style } = options;
  const [first] = findings;
  const places = findings.flatMap(({ place, encoding }) =>
    place ? [placeText(place) + encodingText(encoding, options)] : [],
  );
  return [
    `${INDENT}${style.dim('source')} ${style.strong(originText(first as Finding) ?? '')}`,
    ...frameLines(first?.excerpt, options),
    ...places.map((place, index) => `${INDENT}${style.dim(index === 0 ? 'in     ' : '       ')}${place}`),
  ];
}

function placeLines(findings: readonly Finding[], options: PrintOptions): string[] {
  const shown = findings.slice(0, findings[0]?.level === 'note' ? NOTE_PLACES : MOST_PLACES);
  const lines = shown.flatMap(({ place, encoding, excerpt, within }) => {
    const around = within ? options.style.dim(`  in ${displayText(within.join(' › '))}`) : '';
    const where = place
      ? [INDENT + options.style.strong(placeText(place)) + encodingText(encoding, options) + around]
      : [];
    return [...where, ...frameLines(excerpt, options)];
  });
  return [...lines, ...restLines(findings.slice(shown.length), options)];
}

/** The other places, by file. */
function restLines(findings: readonly Finding[], { style, width }: PrintOptions): string[] {
  const places = findings.flatMap(({ place }) => (place ? [place] : []));
  const byFile = groupBy(places, ({ path, inside }) => placeText({ path, inside }));
  if (byFile.size > MOST_PLACES) {
    const named = [...byFile.keys()].slice(0, MOST_FILES);
    const others = byFile.size - named.length;
    const more = others > 0 ? `, and ${others} others (--format json lists all)` : '';
    const text = `and ${count(byFile.size, 'more file')}: ${named.join(', ')}${more}`;
    return wrap(text, width - INDENT.length).map((line) => INDENT + style.dim(line));
  }
  return [...byFile].flatMap(([file, rest]) => {
    const lines = [...new Set(rest.map(({ line = 0 }) => String(line)))];
    const where = `and ${file}, ${lines.length === 1 ? 'line' : 'lines'} ${joinWords(lines)}`;
    return wrap(where, width - INDENT.length).map((line) => INDENT + style.dim(line));
  });
}

function originText({ origin }: Finding): string | undefined {
  return origin && displayText(`${origin.path}:${origin.line}:${origin.column}`);
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
    index === 0 ? `${INDENT}${style.good('→')} ${line}` : `${INDENT}  ${line}`,
  );
}
