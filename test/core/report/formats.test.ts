import fc from 'fast-check';
import { parseDocument } from 'htmlparser2';
import { describe, expect, expectTypeOf, test } from 'vitest';
import type * as z from 'zod';
import { levels } from '../../../src/core/findings/codes.js';
import type { Finding } from '../../../src/core/findings/finding.js';
import { summarize } from '../../../src/core/findings/judge.js';
import { annotationLines } from '../../../src/core/report/annotations.js';
import { type FindingsReport, reportSchema } from '../../../src/core/report/documents.js';
import { detectedPipeline, pipelineNames } from '../../../src/core/report/pipelines.js';
import { printers } from '../../../src/core/report/printers.js';
import { makeStyle } from '../../../src/core/report/style.js';
import { xmlText } from '../../../src/core/text/xml.js';
import { problemOf } from '../../support/sarif.js';

const options = { style: makeStyle(false), width: 100, tableWidth: Number.POSITIVE_INFINITY };

function finding(part: Partial<Finding> = {}): Finding {
  return {
    code: 'leak/known-value',
    variant: 'shipped',
    facts: { variable: 'FARE_SIGNING_KEY', reach: 'server' },
    level: 'error',
    variable: 'FARE_SIGNING_KEY',
    place: { path: 'dist/a.js', inside: [], line: 3, column: 7 },
    message: 'contains the value of FARE_SIGNING_KEY',
    remedy: 'move the read',
    fingerprint: '0123456789abcdef0123456789abcdef',
    ...part,
  };
}

function report(findings: Finding[], part: Partial<FindingsReport> = {}): FindingsReport {
  const summary = { ...summarize(findings), accepted: 0 };
  return { report: 1, kind: 'findings', command: 'inspect', stage: 'production', findings, summary, ...part };
}

const answers: FindingsReport['answers'] = {
  nothingLeaked: { answer: 'no' },
  allThere: { answer: 'yes' },
  current: { answer: 'not known', because: [{ because: 'there is no receipt', remedy: 'build with Adder' }] },
};
const coverage = {
  files: 1,
  members: 0,
  bytes: 5,
  unread: [{ path: 'dist/b.7z', inside: [], because: 'is of a format that is not unpacked' }],
};

interface XmlNode {
  name?: string;
  attribs?: Record<string, string>;
  children?: XmlNode[];
}
const elements = (node: XmlNode, name: string): XmlNode[] =>
  (node.children ?? []).flatMap((one) => [...(one.name === name ? [one] : []), ...elements(one, name)]);

describe('JUnit XML', () => {
  const parsed = async (of: FindingsReport) =>
    parseDocument(await printers.junit.print(of, options), { xmlMode: true }) as unknown as XmlNode;

  test('a test case for each question, finding, and file that could not be checked', async () => {
    const findings = [finding(), finding({ level: 'note', code: 'leak/name' })];
    const xml = await parsed(report(findings, { answers, coverage }));
    const [suite] = elements(xml, 'testsuite');
    expect(suite?.attribs).toMatchObject({ tests: '6', failures: '2', errors: '2', skipped: '1' });
    const outcomes = elements(xml, 'testcase').map((one) => [
      one.attribs?.name,
      one.children?.find(({ name }) => name)?.name ?? 'passed',
    ]);
    expect(outcomes).toEqual([
      ['nothing leaked', 'failure'],
      ['nothing is missing', 'passed'],
      ['up to date for this stage', 'error'],
      ['dist/b.7z', 'error'],
      ['dist/a.js:3:7: FARE_SIGNING_KEY: contains the value of FARE_SIGNING_KEY', 'failure'],
      ['dist/a.js:3:7: FARE_SIGNING_KEY: contains the value of FARE_SIGNING_KEY', 'skipped'],
    ]);
  });

  test('accepted findings are skipped, with the reason', async () => {
    const accepted = [{ ...finding(), because: 'public anyway', until: '2027-01-31' }];
    const xml = await parsed(report([], { accepted }));
    expect(elements(xml, 'skipped').map((one) => one.attribs?.message)).toEqual([
      'accepted until 2027-01-31: public anyway',
    ]);
  });

  test('a report without findings has one test', async () => {
    expect(elements(await parsed(report([])), 'testcase').map((one) => one.attribs?.name)).toEqual(['no problems']);
  });

  test('any text arrives as it is, or with U+FFFD for what XML forbids', () => {
    const forbidden = /[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\u{10000}-\u{10ffff}]/gu;
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        const [element] = parseDocument(`<a b="${xmlText(text)}"/>`, { xmlMode: true }).children as XmlNode[];
        expect(element?.attribs?.b).toBe(text.replace(forbidden, '\ufffd'));
      }),
    );
  });
});

describe('Markdown', () => {
  const printed = (of: FindingsReport) => printers.markdown.print(of, options);

  test('answers, coverage, and findings by cause', async () => {
    const text = await printed(report([finding()], { answers, coverage }));
    expect(text).toContain('| nothing leaked | ❌ no |');
    expect(text).toContain('| up to date for this stage | ❔ not known there is no receipt → build with Adder |');
    expect(text).toContain('- `dist/b.7z` is of a format that is not unpacked');
    expect(text).toContain('<details open><summary>🔴 error <code>leak/known-value</code> (1)');
    expect(text).toContain('  - `dist/a.js:3:7` (01234567)');
  });

  test('20,000 findings fit into a comment', async () => {
    const many = Array.from({ length: 20_000 }, (_, index) =>
      finding({ message: `contains text ${index}`, code: index % 2 ? 'leak/known-value' : 'leak/name' }),
    );
    const text = await printed(report(many));
    expect(text.length).toBeLessThan(65_000);
    expect(text).toMatch(/_[\d,]+ more findings: `--format html` shows all\._/);
  });

  test('names and text from artifacts are neither Markdown, HTML nor mentions', async () => {
    const text = await printed(
      report([
        finding({ message: '<img src=x> **bold** @team [a](b) | c', place: { path: 'a`b|<b>.js', inside: [] } }),
      ]),
    );
    expect(text).toContain('&lt;img src=x\\> \\*\\*bold\\*\\* @\u200bteam \\[a\\](b) \\| c');
    expect(text).toContain('`` a`b\\|<b>.js ``');
  });
});

test('a code quality list has the place in the source', async () => {
  const origin = { path: 'src/a.ts', line: 9, column: 2 };
  const list = JSON.parse(
    await printers['code-quality'].print(report([finding({ origin }), finding({ level: 'note' })]), options),
  );
  expect(list).toMatchObject([
    { check_name: 'leak/known-value', severity: 'critical', location: { path: 'src/a.ts', lines: { begin: 9 } } },
    { severity: 'info', location: { path: 'dist/a.js', lines: { begin: 3 } } },
  ]);
});

describe('annotations', () => {
  const hostile = finding({
    message: "50% of\na [list]|'x'; ::error::",
    place: { path: 'dist/a,b:c;d].js', inside: [], line: 3, column: 7 },
    remedy: 'fix it',
  });

  test('each pipeline has escapes of its own', () => {
    expect(annotationLines(report([hostile]), 'github')).toEqual([
      "::error file=dist/a%2Cb%3Ac;d].js,line=3,col=7,title=leak/known-value::FARE_SIGNING_KEY: 50%25 of\\x0aa [list]|'x'; ::error:: → fix it",
    ]);
    expect(annotationLines(report([hostile]), 'azure')).toEqual([
      "##vso[task.logissue type=error;sourcepath=dist/a,b:c%3Bd%5D.js;linenumber=3;columnnumber=7;code=leak/known-value;]FARE_SIGNING_KEY: 50%AZP25 of\\x0aa [list]|'x'; ::error:: → fix it",
    ]);
    expect(annotationLines(report([hostile]), 'teamcity')).toEqual([
      "##teamcity[inspectionType id='leak/known-value' name='leak/known-value' category='Adder' description='leak/known-value']",
      "##teamcity[inspection typeId='leak/known-value' message='FARE_SIGNING_KEY: 50% of\\x0aa |[list|]|||'x|'; ::error:: |0x2192 fix it' file='dist/a,b:c;d|].js' line='3' SEVERITY='ERROR']",
    ]);
  });

  test.each(pipelineNames)('%s: the gravest first, one line each, not more than 50 findings', (pipeline) => {
    const many = Array.from({ length: 99 }, (_, index) =>
      finding({ level: levels[2 - (index % 3)] ?? 'note', message: `text ${index}\r\n` }),
    );
    const lines = annotationLines(report(many), pipeline);
    // TeamCity declares two types, and Azure Pipelines have no notes.
    expect(lines.length).toBeLessThanOrEqual(53);
    if (pipeline !== 'azure') expect(lines.at(-1)).toContain('and 49 more: see the report');
    expect(annotationLines(report(many.slice(0, 50)), pipeline).join('')).not.toContain('more: see');
    expect(lines.every((line) => !/[\r\n]/.test(line))).toBe(true);
    expect(lines.findLastIndex((line) => /error/i.test(line))).toBeLessThan(
      lines.findIndex((line) => /warning/i.test(line)),
    );
  });

  test('the pipeline is detected by its environment', () => {
    expect(detectedPipeline({ GITHUB_ACTIONS: 'true' })).toBe('github');
    expect(detectedPipeline({ TF_BUILD: 'True' })).toBe('azure');
    expect(detectedPipeline({ TEAMCITY_VERSION: '2026.1' })).toBe('teamcity');
    expect(detectedPipeline({ CI: 'true', GITHUB_ACTIONS: 'false' })).toBeUndefined();
  });
});

test('SARIF has members, sources, import chains and accepted findings, and is valid', async () => {
  const origin = { path: 'src/a.ts', line: 9, column: 2 };
  const findings = [
    finding({ origin, place: { path: 'a.apk', inside: ['assets/x y.js'], line: 1, column: 2 } }),
    finding({
      code: 'code/server-read',
      chain: ['src/main.ts', 'src/a.ts'],
      place: { path: 'src/a.ts', inside: [], line: 9 },
    }),
  ];
  const accepted = [{ ...finding({ code: 'leak/name' }), because: 'public anyway', until: '2027-01-31' }];
  const text = await printers.sarif.print(report(findings, { accepted }), options);
  expect(problemOf(text)).toBeUndefined();
  const log = JSON.parse(text);
  expect(log.runs[0].results).toMatchObject([
    {
      locations: [{ logicalLocations: [{ name: 'assets/x y.js', fullyQualifiedName: 'a.apk!assets/x y.js' }] }],
      relatedLocations: [{ physicalLocation: { artifactLocation: { uri: 'src/a.ts' }, region: { startLine: 9 } } }],
    },
    {
      codeFlows: [
        {
          threadFlows: [
            {
              locations: [
                { location: { message: { text: 'entry' } } },
                { location: { physicalLocation: { region: { startLine: 9 } } } },
              ],
            },
          ],
        },
      ],
    },
    { ruleId: 'leak/name', suppressions: [{ kind: 'external', justification: 'public anyway (until 2027-01-31)' }] },
  ]);
});

describe('text of very many findings', () => {
  test('the first few of each cause, with how to see the rest', async () => {
    const many = Array.from({ length: 20_000 }, (_, index) =>
      finding({
        variable: `NAME_${index}`,
        message: `contains text ${index}`,
        ...(index % 2 && { code: 'leak/name', level: 'note' }),
      }),
    );
    const text = await printers.text.print(report(many), options);
    expect(text.split('\n').length).toBeLessThan(120);
    expect(text).toContain('and 9,995 more findings of leak/known-value (--format html or json lists all)');
  });
});

test('the type of a findings report is that of its schema', () => {
  const report = reportSchema.parse({
    report: 1,
    kind: 'findings',
    command: 'lint',
    findings: [],
    summary: { error: 0, warning: 0, note: 0, accepted: 0 },
  });
  type OfSchema = Extract<z.infer<typeof reportSchema>, { kind: 'findings' }>;
  expectTypeOf<OfSchema>().toExtend<FindingsReport>();
  expectTypeOf<FindingsReport>().toExtend<OfSchema>();
  expect(report.kind).toBe('findings');
});

test('places on a site: a URI in SARIF, no file in annotations and code quality', async () => {
  const url = 'https://shop.example/assets/a b.js';
  const served = report([finding({ place: { path: url, inside: [], line: 1, column: 2 } })]);
  const sarif = await printers.sarif.print(served, { ...options, quiet: false });
  expect(problemOf(sarif)).toBeUndefined();
  expect(JSON.parse(sarif).runs[0].results[0].locations[0].physicalLocation.artifactLocation.uri).toBe(
    'https://shop.example/assets/a%20b.js',
  );
  expect(annotationLines(served, 'github')).toEqual([
    expect.stringMatching(/^::error title=leak\/known-value::https:\/\/shop\.example\/assets\/a b\.js:1:2: /),
  ]);
  const [issue] = JSON.parse(await printers['code-quality'].print(served, { ...options, quiet: false }));
  expect(issue).toMatchObject({ location: { path: 'adder.yaml' }, description: expect.stringContaining(url) });
});

describe('what a report says besides its findings is in every format', () => {
  const made = {
    at: '2026-12-01T08:00:00.000Z',
    adder: '0.1.0',
    project: 'ferries',
    revision: { id: 'c'.repeat(40), dirty: true },
  };
  const full = report([], {
    made,
    answers,
    coverage: {
      ...coverage,
      skipped: [{ path: 'dist/pipe', inside: [], because: 'is not a file' }],
      notSearched: [{ variable: 'FARE_PIN', stage: 'production', because: 'a short number' }],
    },
    checked: [{ part: 'hosts', state: 'skipped', because: 'CONSOLE_TOKEN has no value' }],
  });
  const says = [
    'nothing leaked',
    'there is no receipt',
    'dist/b.7z',
    'dist/pipe',
    'FARE_PIN',
    'CONSOLE_TOKEN has no value',
  ];
  const kept = { ...options, isKept: true };

  test.each(['text', 'json', 'sarif', 'junit', 'markdown', 'html', 'code-quality'] as const)('%s', async (format) => {
    const text = await printers[format].print(full, kept);
    const named = format === 'json' ? says.with(0, 'nothingLeaked') : says;
    expect(named.filter((one) => !text.includes(one))).toEqual([]);
  });

  test.each(['text', 'json', 'sarif', 'junit', 'markdown', 'html'] as const)(
    '%s has date, project, commit, stage and version',
    async (format) => {
      const text = await printers[format].print(full, kept);
      const wanted = ['2026-12-01', 'ferries', 'c'.repeat(12), 'production', '0.1.0'];
      expect(wanted.filter((one) => !text.includes(one))).toEqual([]);
    },
  );

  test.each(['text', 'markdown', 'html'] as const)(
    '%s does not say that all of it was checked completely',
    async (format) => {
      const { unread: _, ...rest } = full.coverage ?? expect.unreachable();
      const text = await printers[format].print({ ...full, coverage: { ...rest, unread: [] } }, kept);
      expect(text.replace(/<script.*?<\/script>/gs, '')).not.toMatch(/completely|Every file was read/);
    },
  );

  test('in a pipeline, the gravest first', () => {
    expect(annotationLines(full, 'github')).toEqual([
      '::error title=adder/answer::nothing leaked: no',
      '::warning title=adder/answer::up to date for this stage: not known, because there is no receipt → build with Adder',
      '::warning file=dist/b.7z,title=adder/not-read::dist/b.7z is of a format that is not unpacked',
      '::notice title=adder/not-searched::FARE_PIN of production was not searched for: a short number',
      '::notice file=dist/pipe,title=adder/skipped::dist/pipe is not a file',
      '::notice title=adder/skipped::hosts: skipped, CONSOLE_TOKEN has no value',
    ]);
  });

  test('as SARIF it is valid', async () => expect(problemOf(await printers.sarif.print(full, kept))).toBeUndefined());
});

describe('text from outside', () => {
  const named = report([finding({ place: { path: 'dist/\x1b[31ma\u202e.js', inside: [], line: 1 } })], {
    command: '<img src=x> **x** \x1b[31m',
    coverage: { ...coverage, unread: [{ path: 'dist/\x1b[31mb.js', inside: [], because: 'is a pipe' }] },
  });

  test.each(pipelineNames)('has no control character in annotations of %s', (pipeline) => {
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are the point of this test
    expect(annotationLines(named, pipeline).join('')).not.toMatch(/[\x00-\x1f\x7f-\x9f\u202a-\u202e]/);
  });

  test('is neither markup nor HTML in Markdown', async () => {
    const [title = ''] = (await printers.markdown.print(named, options)).split('\n');
    expect(title).toContain('&lt;img src=x\\> \\*\\*x\\*\\* \\\\x1b');
  });
});
