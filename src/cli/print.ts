import type { Answer } from '../core/conclude/answers.js';
import { rulesOf } from '../core/contract/rules.js';
import { isAtLeast, type Level } from '../core/findings/codes.js';
import { EXIT } from '../core/findings/failure.js';
import type { Report } from '../core/report/documents.js';
import { findingsReport } from '../core/report/findings.js';
import type { Made } from '../core/report/made.js';
import { detectedPipeline } from '../core/report/pipelines.js';
import { printers } from '../core/report/printers.js';
import { makeStyle, type PrintOptions } from '../core/report/style.js';
import { escapeControls } from '../core/text/display.js';
import { today, type World } from '../host/world.js';
import type { InspectResult } from '../project/inspect.js';
import type { Project } from '../project/open.js';
import { VERSION } from '../version.js';
import type { OptionValues } from './options.js';
import { PLAIN_WIDTH, printOptions } from './print-options.js';
import { saveOutput } from './save.js';

type PrintSettings = OptionValues<'format' | 'save' | 'replace' | 'annotations' | 'fail-on' | 'quiet' | 'color'> &
  Partial<OptionValues<'allow-incomplete' | 'contents'>>;

/** Settings for printing besides the report. */
export interface PrintMore {
  /** For what --save may not replace. */
  project?: Project;
  /** The report has values that were asked for by name: a saved one is for its owner alone. */
  isSecret?: boolean;
}

/** Tells whether a report needs the contents of files: the user asked for them, or the format shows them. */
export function needsContents({ contents, format }: OptionValues<'contents' | 'format'>): boolean {
  return contents || format === 'json' || format === 'html';
}

/** Prints a report in the chosen format, or saves it. @returns the exit code */
export async function printReport(
  report: Report,
  settings: PrintSettings,
  world: World,
  more: PrintMore = {},
): Promise<number> {
  const options = { ...printOptions(settings, world.stdout, world.env), contents: settings.contents ?? false };
  if (settings.format !== 'text' || settings.save !== undefined) report.made ??= await madeBy(world, more.project);
  const { print, for: reader } = printers[settings.format];
  const inFormat = async (shape: PrintOptions) => world.outlet.mask(await print(report, shape));
  const escaped = (text: string) => (reader === 'people' ? escapeControls(text) : text);
  if (settings.save === undefined) world.stdout.pass(escaped(await inFormat(options)));
  else {
    const plain = {
      ...options,
      style: makeStyle(false),
      width: PLAIN_WIDTH,
      tableWidth: Number.POSITIVE_INFINITY,
      isKept: true,
      quiet: false,
    };
    const { save: path, replace } = settings;
    const { project, isSecret = false } = more;
    saveOutput(escaped(await inFormat(plain)), { path, replace, isSecret, project }, world);
    world.stdout.write(await printers.text.print(report, { ...options, quiet: true }));
  }
  await annotate(report, settings.annotations, world);
  return exitCodeOf(report, settings['fail-on'], settings['allow-incomplete'] ?? false);
}

/** Where a report comes from: it is kept, and read elsewhere. */
async function madeBy(world: World, project: Project | undefined): Promise<Made> {
  const made = { at: world.now().toISOString(), adder: VERSION };
  if (!project) return made;
  const { Repository } = await import('../host/version-control.js');
  const revision = Repository.at(project.root)?.revision();
  return { ...made, project: project.files.path.basename(project.root), ...(revision && { revision }) };
}

/** Lets a pipeline show findings beside the lines. On standard error, so that standard output is the report alone. */
async function annotate(report: Report, choice: PrintSettings['annotations'], { env, stderr }: World): Promise<void> {
  const pipeline = choice === 'auto' ? detectedPipeline(env) : choice;
  if (pipeline === undefined || pipeline === 'never' || report.kind === 'environment') return;
  const { annotationLines } = await import('../core/report/annotations.js');
  stderr.write(
    annotationLines(report, pipeline)
      .map((line) => `${line}\n`)
      .join(''),
  );
}

/** Prints the findings of an inspection. If it was stopped, the exit code says so. */
export async function printInspection(
  { stage, isStopped, facts, ...result }: InspectResult,
  settings: PrintSettings,
  world: World,
  project: Project,
): Promise<number> {
  const of = { command: 'inspect', stage };
  const rules = rulesOf(project.contract);
  const report = findingsReport(of, [result], rules, today(world));
  const { path, levels, accept } = rules;
  if (facts) report.facts = { ...facts, rules: { path, levels: { ...levels }, accept: [...accept] } };
  const code = await printReport(report, settings, world, { project });
  return isStopped ? EXIT.interrupted : code;
}

/** Findings and answers of no come before what could not be checked. */
function exitCodeOf(report: Report, failOn: Level | 'never', allowsIncomplete: boolean): number {
  if (report.kind === 'environment') return EXIT.fine;
  if (report.findings.some(({ level }) => isAtLeast(level, failOn))) return EXIT.findings;
  if (failOn !== 'never' && answersOf(report).some(({ answer }) => answer === 'no')) return EXIT.findings;
  return isIncomplete(report, allowsIncomplete) ? EXIT.unread : EXIT.fine;
}

function answersOf(report: Report): Answer[] {
  return report.kind === 'findings' ? Object.values(report.answers ?? {}) : [];
}

/** @param allowsIncomplete only variables without a value here are allowed, never a file that was not read or a missing part */
function isIncomplete(report: Report, allowsIncomplete: boolean): boolean {
  if (report.kind === 'trial') return report.coverage.unread.length > 0;
  if (report.kind === 'history') return report.unread.length > 0 || report.state === 'no key';
  if (report.kind === 'handoff') return report.hosts.some(({ because }) => because !== undefined);
  if (report.kind !== 'findings') return false;
  if (report.coverage !== undefined && report.coverage.unread.length > 0) return true;
  const unknown = answersOf(report).filter(({ answer }) => answer === 'not known');
  const isAllowed = ({ because = [] }: Answer) => because.length > 0 && because.every((one) => one.isWithoutValue);
  return unknown.some((one) => !allowsIncomplete || !isAllowed(one));
}
