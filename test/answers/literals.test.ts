import { expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';

const OTHER = 'https://api.staging.saltmarsh.test/v1';

const project = (files: Record<string, string>) =>
  new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] }, staging: { layers: [.env.staging] } }
bundles: { desk: { toolchain: vite, code: [src], entry: [src/main.ts], output: [dist] } }
variables: { API_URL: public }
`,
    '.env': 'API_URL=https://api.saltmarsh.example/v1\n',
    '.env.staging': `API_URL=${OTHER}\n`,
    'src/main.ts': 'import "./hosts"; f(import.meta.env.VITE_API_URL)',
    'dist/index.html': '<script src="/main.js"></script><script src="/pay.js"></script>',
    'dist/main.js': 'f("https://api.saltmarsh.example/v1")',
    'dist/pay.js': `g("${OTHER}")`,
    ...files,
  });

const written = 'it is written at src/pay.js:1: read API_URL there, or remove the file';

test.each<[title: string, files: Record<string, string>, remedies: string[]]>([
  ['in a module that the entry imports is a matter of lint', { 'src/hosts.ts': `g("${OTHER}")` }, []],
  [
    'in a comment of such a module explains nothing',
    { 'src/hosts.ts': `// "${OTHER}"`, 'src/pay.js': `g("${OTHER}")` },
    [written],
  ],
  ['in a script that only a page loads is reported', { 'src/hosts.ts': '', 'src/pay.js': `g("${OTHER}")` }, [written]],
  [
    'in no source file',
    { 'src/hosts.ts': '' },
    ['rebuild it for production: run its build command after `adder with production --bundle desk --`'],
  ],
])("another stage's value %s", (_, files, remedies) => {
  const at = project(files);
  const { code, report } = asked(at);
  expect(report.findings.map(({ remedy }: { remedy: string }) => remedy)).toEqual(remedies);
  expect(code).toBe(remedies.length);
  const linted = at.json(['lint']).report.findings.map((one: { code: string }) => one.code);
  if (remedies.length === 0) expect(linted).toContain('code/hard-coded');
});

test.each<[title: string, code: string, remedy: RegExp]>([
  [
    'written in the code is removed there',
    'g("Zt9qLw3xVb7nRk2mPd5s")',
    /^remove it from src\/main\.ts:1, rebuild, then rotate/,
  ],
  [
    'that the code reads is read elsewhere',
    'g(process.env.FARE_KEY)',
    /^move the read into server code, rebuild, then rotate/,
  ],
  [
    'in a comment is not in the code',
    '// Zt9qLw3xVb7nRk2mPd5s',
    /^move the read into server code, rebuild, then rotate/,
  ],
])('a secret %s', (_, code, remedy) => {
  const at = new TestProject({
    'adder.yaml': `adder: 1
stages: { production: { layers: [.env] } }
bundles: { desk: { toolchain: vite, code: [src], entry: [src/main.ts], output: [dist] } }
variables: { FARE_KEY: server }
`,
    '.env': 'FARE_KEY=Zt9qLw3xVb7nRk2mPd5s\n',
    'src/main.ts': code,
    'dist/main.js': 'g("Zt9qLw3xVb7nRk2mPd5s")',
  });
  const { report } = asked(at);
  expect(report.findings[0].remedy).toMatch(remedy);
  expect(JSON.stringify(report)).not.toContain('Zt9qLw3xVb7nRk2mPd5s');
});
