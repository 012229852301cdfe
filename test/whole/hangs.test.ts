import { spawn } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { bareEnvironment, ferryProject, program, TestProject } from '../support/adder.js';

const contract = `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables: { API_URL: public, FARE_KEY: server }
`;

/** Each of these took minutes, and grew with the square of its input. */
describe('input that repeats itself takes time in proportion to its size', () => {
  test('a line with 4,000 tokens in source code', () => {
    const token = (index: number) =>
      `"${['sk', 'live', ''].join('_')}${String(index).padStart(6, '0')}Qq7Zr2kP9xW4vN8bT1mL6"`;
    const line = `f([${Array.from({ length: 4000 }, (_, index) => token(index)).join(',')}])\n`;
    const project = new TestProject({
      'adder.yaml': contract,
      '.env': 'API_URL=https://a.saltmarsh.example\nFARE_KEY=made-up-fare-key-0007\n',
      'src/main.js': line,
    });
    const ran = project.adder(['lint', '--format', 'json'], {}, { maxBuffer: 2 ** 28 });
    const { findings } = JSON.parse(ran.stdout);
    expect(findings.filter(({ code }: { code: string }) => code === 'code/secret-in-code')).toHaveLength(4000);
    expect(ran.stdout).not.toMatch(/Zr2kP9xW4vN8bT1mL6/);
  });

  test.each([
    ['as it is', (text: string) => text],
    ['in base64', (text: string) => Buffer.from(text).toString('base64')],
    ['in hexadecimal', (text: string) => Buffer.from(text).toString('hex')],
    ['with a backslash now and then', (text: string) => text.replace(/a{700}/g, '$&\\')],
  ])('output of one repeated character beside a secret of the same: %s', (_, write) => {
    const secret = `${'a'.repeat(2996)}b1x9`;
    const project = new TestProject({
      'adder.yaml': contract,
      '.env': `API_URL=https://a.saltmarsh.example\nFARE_KEY=${secret}\n`,
      'print.cjs': `process.stdout.write(${JSON.stringify(`${write('a'.repeat(60_000))}\n${write(secret)}\nend\n`)})`,
    });
    const ran = project.adder(['with', 'production', '--', process.execPath, 'print.cjs']);
    expect(ran.code).toBe(0);
    expect(ran.stdout.endsWith('[masked]\nend\n')).toBe(true);
    expect(ran.stdout).not.toContain('b1x9');
  });

  test('600 files with checks of NODE_ENV: 20 are measured, the others counted', () => {
    const code = Array.from(
      { length: 40 },
      (_, index) => `function f${index}(a){if(process.env.NODE_ENV!=="production"){check(a)}return a}`,
    );
    const files = Array.from({ length: 600 }, (_, index) => [`dist/n${index}.js`, code.join('\n')] as const);
    const project = new TestProject({
      'adder.yaml': contract,
      '.env': 'API_URL=https://a.saltmarsh.example\nFARE_KEY=made-up-fare-key-0007\n',
      ...Object.fromEntries(files),
      'dist/text.js': 'const text = "process.env.NODE_ENV is not set";',
    });
    const { report } = project.json(['inspect', '--stage', 'production']);
    const messages: string[] = report.findings.map(({ message }: { message: string }) => message);
    const measured = messages.filter((one) => one.includes('production removes at least'));
    const counted = messages.filter((one) =>
      one.endsWith('in 40 places, so development code ships; measured in 20 other files'),
    );
    expect([measured.length, counted.length, messages.length]).toEqual([20, 580, 600]);
  });
});

test('SIGTERM ends a command whose output is being masked', async () => {
  const project = ferryProject({
    '.env.production': `FERRY_API_URL=https://api.saltmarsh.example\nSOURCE_MAP_UPLOAD_TOKEN=x1\nFARE_SIGNING_KEY=${'a'.repeat(2996)}b1x9\n`,
    'print.cjs': 'const write = () => process.stdout.write("a".repeat(20_000), () => setTimeout(write, 20)); write();',
  });
  const child = spawn(process.execPath, [program, 'with', 'production', '--', process.execPath, 'print.cjs'], {
    cwd: project.folder,
    env: bareEnvironment(),
  });
  const ended = new Promise((resolve) => child.once('exit', (code, signal) => resolve(code ?? signal)));
  await new Promise((resolve) => child.stdout.once('data', resolve));
  child.stdout.resume();
  child.stderr.resume();
  child.kill('SIGTERM');
  expect(await ended).toBe(143);
});
