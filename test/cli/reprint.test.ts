import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { type Report, reportSchema } from '../../src/core/report/documents.js';
import { printers } from '../../src/core/report/printers.js';
import { makeStyle } from '../../src/core/report/style.js';
import { layOut } from '../../src/demo/layout.js';
import { TestProject } from '../support/adder.js';

const calls: [name: string, part: string, argv: string[]][] = [
  ['values', 'ferries', ['values', 'production']],
  ['values of a bundle', 'ferries', ['values', 'production', '--bundle', 'ticket-desk']],
  ['all values', 'lint', ['values', '--all']],
  ['compare', 'ferries', ['compare', 'staging', 'production']],
  ['why', 'ferries', ['why', 'FERRY_API_URL']],
  ['draft', 'adopt', ['draft']],
  ['lint', 'lint', ['lint']],
  ['inspect', 'lint', ['inspect', '--stage', 'production', 'web/src']],
  ['environment', 'ferries', ['with', 'production', '--show-env']],
];

function demo(part: string): TestProject {
  const project = new TestProject();
  layOut(join(import.meta.dirname, '../../src/demo', part), project.folder);
  return project;
}

describe('a saved JSON report', () => {
  test.each(calls)('%s: prints again as the same text', async (_, part, argv) => {
    const [json, text] = [demo(part).json(argv).report, demo(part).adder(argv).stdout];
    const report: Report = reportSchema.parse(json);
    const options = { style: makeStyle(false), width: 100, tableWidth: Number.POSITIVE_INFINITY };
    expect(await printers.text.print(report, options)).toBe(text);
  });
});
