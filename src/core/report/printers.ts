import type { Report } from './report.js';
import type { PrintOptions } from './style.js';

/** A report in one format. What it prints depends on its arguments alone; what it prints with is loaded where it is asked for. */
type Printer = (report: Report, options: PrintOptions) => Promise<string>;

/** The names of the formats on the command line. */
export const printerNames = ['text', 'json', 'sarif'] as const;

export type PrinterName = (typeof printerNames)[number];

export const printers: Record<PrinterName, Printer> = {
  text: async (report, options) => {
    if ('drafted' in report) return (await import('./text-draft.js')).printDraft(report, options);
    if ('compared' in report) return (await import('./text-compare.js')).printCompare(report, options);
    if ('variable' in report) return (await import('./text-why.js')).printWhy(report, options);
    if ('stages' in report) return (await import('./text-all-values.js')).printAllValues(report, options);
    if ('values' in report) return (await import('./text-values.js')).printValues(report, options);
    return (await import('./text-findings.js')).printFindings(report, options);
  },
  json: async (report) => (await import('./json.js')).printJson(report),
  sarif: async (report) => (await import('./sarif.js')).printSarif(report),
};
