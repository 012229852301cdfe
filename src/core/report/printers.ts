import type { Report } from './documents.js';
import type { PrintOptions } from './style.js';

/** One format of reports. One line in the table; its code is loaded at first use. */
interface Printer {
  /**
   * Who reads it. Control characters of what people read are escaped on the way out. Output for programs only has secrets
   * masked: its own grammar says what a string may contain.
   */
  for: 'people' | 'programs';
  /** A pure function of its arguments. */
  print(report: Report, options: PrintOptions): Promise<string>;
}

/** Values of `--format`. */
export const printerNames = ['text', 'json', 'sarif', 'junit', 'markdown', 'html', 'code-quality'] as const;

export type PrinterName = (typeof printerNames)[number];

export const printers: Record<PrinterName, Printer> = {
  text: { for: 'people', print: printText },
  json: { for: 'programs', print: async (report) => (await import('./json.js')).printJson(report) },
  sarif: { for: 'programs', print: async (report) => (await import('./sarif.js')).printSarif(report) },
  junit: { for: 'programs', print: async (report) => (await import('./junit.js')).printJunit(report) },
  markdown: { for: 'people', print: async (report) => (await import('./markdown.js')).printMarkdown(report) },
  html: { for: 'programs', print: async (report) => (await import('./html/html.js')).printHtml(report) },
  'code-quality': {
    for: 'programs',
    print: async (report) => (await import('./code-quality.js')).printCodeQuality(report),
  },
};

async function printText(report: Report, options: PrintOptions): Promise<string> {
  const text = await textOf(report, options);
  if (!options.isKept || !report.made) return text;
  const { madeText } = await import('./made.js');
  const [title = '', ...rest] = text.split('\n');
  return [title, madeText(report.made), ...rest].join('\n');
}

async function textOf(report: Report, options: PrintOptions): Promise<string> {
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
    case 'trial':
      return (await import('./text-trial.js')).printTrial(report, options);
    case 'history':
      return (await import('./text-history.js')).printHistory(report, options);
    case 'environment':
      return (await import('./text-environment.js')).printEnvironment(report, options);
  }
}
