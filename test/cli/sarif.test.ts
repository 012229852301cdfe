import { describe, expect, test } from 'vitest';
import { ferryProject, secrets } from '../support/adder.js';
import { problemOf } from '../support/sarif.js';

describe('SARIF by the schema of the standard', () => {
  test.each([
    ['findings of every place', ['inspect', '--stage', 'production']],
    ['values', ['values', 'production']],
    ['lint', ['lint']],
  ])('%s', (_, args) => {
    const project = ferryProject({
      'dist/a.js': `x = "${secrets.FARE_SIGNING_KEY}"`,
      'src/main.ts': 'import.meta.env.FERRY_API_ULR; import.meta.env[name];',
      '.env.production': 'FERRY_API_URL=a.example\n',
    });
    const { stdout } = project.adder([...args, '--format', 'sarif']);
    expect(JSON.parse(stdout).runs[0].results.length).toBeGreaterThan(0);
    expect(problemOf(stdout)).toBeUndefined();
  });

  test('a report without findings, and a log with a wrong level', () => {
    const { stdout } = ferryProject({ 'dist/a.js': '' }).adder([
      'inspect',
      '--stage',
      'production',
      '--format',
      'sarif',
    ]);
    expect(problemOf(stdout)).toBeUndefined();
    expect(problemOf('{ "version": "2.1.0", "runs": [{ "results": [{ "level": "bad" }] }] }')).toBeDefined();
  });
});

test('regions count UTF-16 code units, in a source file and in an artifact', () => {
  const before = 'const äöü = "🚢 ⛴"; ';
  const project = ferryProject({
    'src/main.ts': `${before}import.meta.env.FERRY_API_ULR;`,
    'dist/a.js': `${before}k = "${secrets.FARE_SIGNING_KEY}"`,
  });
  const region = (args: string[], rule: string) =>
    JSON.parse(project.adder([...args, '--format', 'sarif']).stdout).runs[0].results.find(
      ({ ruleId }: { ruleId: string }) => ruleId === rule,
    ).locations[0].physicalLocation.region;
  const name = before.length + 'import.meta.env.'.length + 1;
  expect(region(['lint'], 'code/unknown-name')).toMatchObject({
    startLine: 1,
    startColumn: name,
    endColumn: name + 13,
  });
  const key = before.length + 'k = "'.length + 1;
  expect(region(['inspect', '--stage', 'production'], 'leak/known-value')).toMatchObject({
    startColumn: key,
    endColumn: key + secrets.FARE_SIGNING_KEY.length,
  });
});
