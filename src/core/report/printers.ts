import { printJson } from './json.js';
import type { Report } from './report.js';
import { printSarif } from './sarif.js';
import type { PrintOptions } from './style.js';
import { printAllValues } from './text-all-values.js';
import { printCompare } from './text-compare.js';
import { printDraft } from './text-draft.js';
import { printFindings } from './text-findings.js';
import { printValues } from './text-values.js';
import { printWhy } from './text-why.js';

/** A report in one format. Pure: what it prints depends on its arguments alone. */
type Printer = (report: Report, options: PrintOptions) => string;

/** Every format, by its name on the command line. */
export const printers: Record<'text' | 'json' | 'sarif', Printer> = {
  text: (report, options) => {
    if ('drafted' in report) return printDraft(report, options);
    if ('compared' in report) return printCompare(report, options);
    if ('variable' in report) return printWhy(report, options);
    if ('stages' in report) return printAllValues(report, options);
    return 'values' in report ? printValues(report, options) : printFindings(report, options);
  },
  json: (report) => printJson(report),
  sarif: (report) => printSarif(report),
};

export type PrinterName = keyof typeof printers;

export const printerNames = Object.keys(printers) as [PrinterName, ...PrinterName[]];
