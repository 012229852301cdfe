import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';

const SECRET = 'Sup3rS3cretValue9';

/** A project with the secret where no output may repeat it. */
const project = (more = '', value = `KEY=${SECRET}\n`) =>
  new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles:
  desk: { toolchain: vite, code: [src], output: [dist], build: [deploy, --token=${SECRET}] }
  quay: { runs: server, code: [server] }
variables:
  VITE_API: public
  KEY: server
${more}`,
    '.env': value,
    'src/a.ts': 'f(import.meta.env.VITE_API)',
    'server/a.ts': 'f(process.env.KEY)',
  });

describe('no output of Adder repeats a secret', () => {
  test.each<[what: string, args: string[], more?: string]>([
    ['in place of a code', ['lint', '--explain', SECRET]],
    ['in a build command that is refused', ['with', 'production', '--bundle', 'desk']],
    [
      'as one of the choices of a server value',
      ['emit', 'module', '--bundle', 'quay', '--side', 'server'],
      `  MODE: { reach: server, form: { choice: [${SECRET}, other-word] } }\n`,
    ],
    [
      'as one of the items of a server value',
      ['emit', 'module', '--bundle', 'quay', '--side', 'server'],
      `  MODES: { reach: server, form: { list: { choice: [${SECRET}, other-word] } } }\n`,
    ],
    [
      'as one of the choices of a build value',
      ['emit', 'types', '--bundle', 'desk'],
      `  MODE: { reach: build, form: { choice: [${SECRET}, other-word] } }\n`,
    ],
  ])('%s', (_, args, more) => {
    const { stdout, stderr, code } = project(more).adder(args);
    expect((stdout + stderr).includes(SECRET), stdout + stderr).toBe(false);
    expect(code).not.toBe(70);
  });

  test('the choices of a public value are its types', () => {
    const { stdout } = project('  SEASON: { reach: public, form: { choice: [summer, winter] } }\n').adder([
      'emit',
      'types',
    ]);
    expect(stdout).toContain('"summer" | "winter"');
  });
});
