import { isInPackages } from '../files/directories.js';
import { compareLevels, type Level } from '../findings/codes.js';
import type { Finding } from '../findings/finding.js';
import { isUrl, placeText } from '../findings/place.js';
import { displayText } from '../text/display.js';
import type { Report } from './documents.js';
import type { PipelineName } from './pipelines.js';
import { type Remark, remarksOf } from './remarks.js';

/** Pipelines show few annotations for a step, and cut long lists. */
const MOST = 50;

interface Annotation {
  level: Level;
  title: string;
  text: string;
  where: { path?: string; line?: number; column?: number };
}

/** The lines of an annotation, without line breaks. One entry per pipeline; each has escapes of its own. */
const lines: Readonly<Record<PipelineName, (annotation: Annotation) => string[]>> = {
  /** Workflow commands: `::error file=...::message`. */
  github: ({ level, title, text, where: { path, line, column } }) => {
    const properties = { file: path, line, col: column, title };
    const list = Object.entries(properties).flatMap(([key, value]) =>
      value === undefined ? [] : `${key}=${percent(String(value)).replaceAll(':', '%3A').replaceAll(',', '%2C')}`,
    );
    const word = level === 'note' ? 'notice' : level;
    return [`::${word} ${list.join(',')}::${percent(text)}`];
  },
  /** Logging commands: `##vso[task.logissue ...]message`; notes have no type there. */
  azure: ({ level, title, text, where: { path, line, column } }) => {
    if (level === 'note') return [];
    const properties = {
      type: level,
      sourcepath: path,
      linenumber: line,
      columnnumber: column,
      code: title,
    };
    const list = Object.entries(properties).flatMap(([key, value]) =>
      value === undefined ? [] : `${key}=${azure(String(value)).replaceAll(';', '%3B').replaceAll(']', '%5D')};`,
    );
    return [`##vso[task.logissue ${list.join('')}]${azure(text)}`];
  },
  /** Service messages: `##teamcity[inspection ...]`. */
  teamcity: ({ level, title, text, where: { path, line } }) => {
    const severity: Record<Level, string> = { error: 'ERROR', warning: 'WARNING', note: 'INFO' };
    return [
      teamcity('inspectionType', { id: title, name: title, category: 'Adder', description: title }),
      teamcity('inspection', { typeId: title, message: text, file: path, line, SEVERITY: severity[level] }),
    ];
  },
};

/** Annotations for a pipeline, the gravest first, one per line; at most {@link MOST} findings and remarks, and how many more there are. */
export function annotationLines(report: Report, pipeline: PipelineName): string[] {
  const all = [...remarksOf(report).map(remark), ...report.findings.map(annotation)];
  const sorted = all.sort((a, b) => compareLevels(a.level, b.level));
  const [first, ...others] = sorted.slice(MOST);
  const left = first ? [leftOut(first, others.length + 1)] : [];
  // TeamCity declares each type once.
  return [...new Set([...sorted.slice(0, MOST), ...left].flatMap((one) => lines[pipeline](one)))];
}

/** Annotation in the place of those that do not fit, with the level of the gravest. */
function leftOut({ level }: Annotation, number: number): Annotation {
  return { level, title: 'more', text: `and ${number.toLocaleString('en')} more: see the report`, where: {} };
}

function remark({ level, kind, message, path }: Remark): Annotation {
  return { level, title: kind, text: displayText(message), where: shown(path === undefined ? {} : { path }) };
}

function annotation(finding: Finding): Annotation {
  return { level: finding.level, title: finding.code, text: textOf(finding), where: shown(whereOf(finding)) };
}

/** The name of a file may have control characters, and logs are read in terminals. */
function shown({ path, line, column }: Annotation['where']): Annotation['where'] {
  return {
    ...(path !== undefined && { path: displayText(path) }),
    ...(line !== undefined && { line }),
    ...(column !== undefined && { column }),
  };
}

/** Reviewers see sources, so the line that a value comes from is annotated if it is known. */
function whereOf({ origin, place }: Finding): { path?: string; line?: number; column?: number } {
  if (origin && !isInPackages(origin.path) && !isUrl(origin.path)) return origin;
  if (place && isUrl(place.path)) return {};
  return place && place.inside.length === 0 ? place : place ? { path: place.path } : {};
}

function textOf({ message, remedy, place, origin, variable }: Finding): string {
  const where = place && (origin || place.inside.length > 0 || isUrl(place.path)) ? `${placeText(place)}: ` : '';
  const about = variable !== undefined && !message.includes(variable) ? `${variable}: ` : '';
  return displayText(`${where}${about}${message} → ${remedy}`);
}

function percent(text: string): string {
  return text.replaceAll('%', '%25').replaceAll('\r', '%0D').replaceAll('\n', '%0A');
}

function azure(text: string): string {
  return text.replaceAll('%', '%AZP25').replaceAll('\r', '%0D').replaceAll('\n', '%0A');
}

function teamcity(name: string, values: Readonly<Record<string, string | number | undefined>>): string {
  const list = Object.entries(values).flatMap(([key, value]) =>
    value === undefined ? [] : ` ${key}='${teamcityText(String(value))}'`,
  );
  return `##teamcity[${name}${list.join('')}]`;
}

function teamcityText(text: string): string {
  return text
    .replace(/[|'[\]]/g, '|$&')
    .replaceAll('\n', '|n')
    .replaceAll('\r', '|r')
    .replace(/[^\x20-\x7e]/g, (one) => `|0x${one.charCodeAt(0).toString(16).padStart(4, '0')}`);
}
