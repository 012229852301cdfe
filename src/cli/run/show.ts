import { Failure } from '../../core/findings/failure.js';
import { limits } from '../../core/limits/index.js';
import { changesBetween } from '../../core/report/changes-between.js';
import { type FindingsReport, type Report, reportSchema } from '../../core/report/documents.js';
import { mergeReports } from '../../core/report/merge.js';
import { REPORT_VERSION } from '../../core/report/version.js';
import { describeFileError } from '../../host/files.js';
import { today, type World } from '../../host/world.js';
import type { ShowCall } from '../commands/show.js';
import { printReport } from '../print.js';

/** Runs the command. @returns the exit code */
export async function run({ words, options, world }: ShowCall): Promise<number> {
  const reports = words.map((word) => readReport(word, world));
  const [first] = reports;
  if (options.changes) return printReport(changed(reports, words), options, world);
  const report =
    reports.length === 1 && first?.kind !== 'findings' ? (first as Report) : oneReport(reports, words, world);
  return printReport(report, options, world);
}

function oneReport(reports: readonly Report[], words: readonly string[], world: World): FindingsReport {
  const other = reports.findIndex(({ kind }) => kind !== 'findings');
  if (other >= 0)
    throw new Failure(
      `${words[other]} is a report of adder ${reports[other]?.command}, which cannot be merged with others`,
      'show it alone; reports of inspect and lint can be merged',
    );
  return mergeReports(reports as FindingsReport[], today(world));
}

/** @throws Failure unless two reports of the same check are given */
function changed(reports: readonly Report[], words: readonly string[]): FindingsReport {
  const [before, now, ...others] = reports;
  if (!before || !now || others.length > 0)
    throw new Failure(
      '--changes needs two reports, the earlier one first',
      'example: adder show main.json branch.json --changes',
    );
  if (before.kind !== 'findings' || now.kind !== 'findings')
    throw new Failure(
      `${before.kind === 'findings' ? words[1] : words[0]} has no findings to compare`,
      'reports of lint, inspect, probe and gate can be compared',
    );
  const [was, is] = [before, now].map(({ command, stage = '' }) => `${command} ${stage}`.trim());
  if (was !== is)
    throw new Failure(
      `${words[0]} is of adder ${was}, and ${words[1]} of adder ${is}`,
      'compare reports of the same check',
    );
  return changesBetween(before, now);
}

/** @throws Failure if the file is no report, or one of another version */
function readReport(word: string, { files, cwd }: World): Report {
  const path = files.path.resolve(cwd, word);
  let json: unknown;
  try {
    json = JSON.parse(files.readRegular(path, limits.reportBytes.value).toString());
  } catch (error) {
    const because = error instanceof SyntaxError ? 'is not valid JSON' : describeFileError(error);
    throw new Failure(`${word} ${because}`, 'name a report that was saved with `--format json --save FILE`');
  }
  const version = (json as { report?: unknown } | null)?.report;
  if (version !== undefined && version !== REPORT_VERSION)
    throw new Failure(
      `${word} is a report of version ${String(version).slice(0, 20)}, and this Adder reads version ${REPORT_VERSION}`,
      'run `adder show` of the Adder version that wrote the report',
    );
  const { data, error } = reportSchema.safeParse(json);
  if (data) return data;
  const where = error.issues[0]?.path.join('.') ?? '';
  throw new Failure(
    `${word} is not a report of Adder${where === '' ? '' : `: ${where} is wrong`}`,
    'name a report that was saved with `--format json --save FILE`',
  );
}
