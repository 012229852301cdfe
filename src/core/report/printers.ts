import type { Report } from './documents.js';
import type { PrintOptions } from './style.js';

/** Prints a report in one format: a pure function of its arguments. Its code is loaded at first use. */
type Printer = (report: Report, options: PrintOptions) => Promise<string>;

/** Values of `--format`. */
export const printerNames = ['text', 'json', 'sarif', 'junit', 'markdown', 'html', 'code-quality'] as const;

export type PrinterName = (typeof printerNames)[number];

export const printers: Record<PrinterName, Printer> = {
  text: async (report, options) => {
    switch (report.kind) {
      case 'findings':
        return (await import('./text-findings.js')).printFindings(report, options);
      case 'values':
        return (await import('./text-values.js')).printValues(report, options);
      case 'all-values':
        return (await import('./text-all-values.js')).printAllValues(report, options);
      case 'compare':
        return (await import('./text-compare.js')).printCompare(report, options);
      case 'builds':
        return (await import('./text-builds.js')).printBuilds(report, options);
      case 'why':
        return (await import('./text-why.js')).printWhy(report, options);
      case 'draft':
        return (await import('./text-draft.js')).printDraft(report, options);
      case 'handoff':
        return (await import('./text-handoff.js')).printHandoff(report, options);
      case 'environment':
        return (await import('./text-environment.js')).printEnvironment(report, options);
    }
  },
  json: async (report) => (await import('./json.js')).printJson(report),
  sarif: async (report) => (await import('./sarif.js')).printSarif(report),
  junit: async (report) => (await import('./junit.js')).printJunit(report),
  markdown: async (report) => (await import('./markdown.js')).printMarkdown(report),
  html: async (report) => (await import('./html/html.js')).printHtml(report),
  'code-quality': async (report) => (await import('./code-quality.js')).printCodeQuality(report),
};
