import { readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { TestProject } from '../support/adder.js';
import { asked } from '../support/asked.js';

const contract = `adder: 1
stages: { staging: { layers: [.env.staging] }, production: { layers: [.env] } }
bundles: { desk: { toolchain: other, code: [src], output: [dist], prefix: VITE_, build: node build.mjs } }
variables:
  VITE_API: { reach: public }
`;
/** Writes a file that is named by its value, and one that is always the same; equal files stay as they are. */
const build = `import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
const put = (path, text) => { if (!existsSync(path) || readFileSync(path, 'utf8') !== text) writeFileSync(path, text); };
const value = process.env.VITE_API;
put('dist/app-' + value.length + '.js', 'fetch("' + value + '")');
put('dist/same.js', 'console.log(1)');
`;
const [one, three] = ['https://one.saltmarsh.example', 'https://three.saltmarsh.example'];

function project(value: string): TestProject {
  return new TestProject({
    'adder.yaml': contract,
    '.env': `VITE_API=${value}\n`,
    '.env.staging': 'VITE_API=https://staging.saltmarsh.example\n',
    'src/a.ts': 'console.log(import.meta.env.VITE_API)',
    'build.mjs': build,
  });
}
const built = (at: TestProject, stage = 'production', env: Record<string, string> = {}) =>
  expect(at.adder(['with', stage, '--bundle', 'desk'], env).code).toBe(0);
const answers = (at: TestProject, env: Record<string, string> = {}) => {
  const { code, report } = asked(at, env);
  const found = report.findings.map((one: { code: string; variant: string }) => `${one.code} ${one.variant}`);
  return [code, report.answers.allThere.answer, report.answers.current.answer, ...found];
};

describe('a file of an earlier build among the new ones', () => {
  test('has an old value, and another build does not help', () => {
    const at = project(one);
    built(at);
    at.write('.env', `VITE_API=${three}\n`);
    built(at);
    expect(answers(at)).toEqual([1, 'yes', 'no', 'stale/past-value left-over']);
    built(at);
    expect(answers(at)).toEqual([1, 'yes', 'no', 'stale/past-value left-over']);
  });

  test('is of another stage', () => {
    const at = project(one);
    built(at, 'staging');
    built(at);
    expect(answers(at).slice(0, 3)).toEqual([1, 'yes', 'no']);
    expect(answers(at)).toContain('stale/receipt left-over');
  });

  test('has no value that changed', () => {
    const at = project(one);
    built(at);
    built(at);
    expect(answers(at)).toEqual([0, 'yes', 'yes']);
  });

  test('is to be built again if the value changed since the last build', () => {
    const at = project(one);
    built(at);
    built(at);
    at.write('.env', `VITE_API=${three}\n`);
    expect(answers(at)).toEqual([1, 'yes', 'no', 'stale/past-value in-build']);
  });
});

describe('a page', () => {
  test('names a script that the output lacks', () => {
    const at = project(one);
    built(at);
    at.write('dist/index.html', '<script src="/assets/gone.js"></script>');
    expect(answers(at)).toContain('serve/missing-file script');
    expect(answers(at).slice(0, 2)).toEqual([1, 'no']);
  });
});

describe('a browser script', () => {
  test.each([
    ['of a secret', 'process.env.FARE_SIGNING_KEY', [1, 'no', 'yes', 'read/unreplaced read']],
    ['of nothing that the contract knows', 'process.env.OTHER', [1, 'no', 'yes', 'read/unreplaced read']],
    ['behind a question', 'typeof process !== "undefined" && process.env.OTHER', [0, 'yes', 'yes']],
  ])('reads the process environment: %s', (_, read, expected) => {
    const at = project(one);
    built(at);
    at.write('dist/late.js', `fetch(${read})`);
    expect(answers(at).slice(0, 2)).toEqual(expected.slice(0, 2));
    expect(
      answers(at)
        .slice(3)
        .filter((one: string) => one.startsWith('read/')),
    ).toEqual(expected.slice(3));
  });
});

describe('a value of the build alone', () => {
  const withBuildValue = (value: string, inlines: boolean) => {
    const at = project(one);
    at.write('adder.yaml', `${contract}  RELEASE: { reach: build }\n`);
    at.write('.env', `VITE_API=${one}\nRELEASE=${value}\n`);
    if (inlines) at.write('build.mjs', `${build}writeFileSync('dist/release.js', process.env.RELEASE);\n`);
    return at;
  };
  const changed = (at: TestProject, value: string) => {
    built(at);
    at.write('.env', `VITE_API=${one}\nRELEASE=${value}\n`);
    const { since } = at.json(['values', 'production']).report;
    return since.flatMap(({ changes }: { changes: { action: string; because: string }[] }) =>
      changes.map(({ action, because }) => `${action}: ${because}`),
    );
  };

  test('that is in the output has to be built again, and the output is not current', () => {
    const at = withBuildValue('desk-release-2026-11', true);
    expect(changed(at, 'desk-release-2026-12')).toEqual(['rebuild: inlined']);
    const { report } = at.json(['inspect', '--stage', 'production']);
    expect(report.answers.current.answer).toBe('no');
    expect(report.findings).toContainEqual(expect.objectContaining({ code: 'stale/past-value', variable: 'RELEASE' }));
    expect(JSON.stringify(report)).not.toContain('desk-release-2026-11');
  });

  test('that is in no file changes nothing', () => {
    const at = withBuildValue('desk-release-2026-11', false);
    expect(changed(at, 'desk-release-2026-12')).toEqual(['nothing: was in no file of desk after the build']);
    expect(answers(at).slice(1, 3)).toEqual(['yes', 'yes']);
  });

  test('that no search can find may be in the output', () => {
    const at = withBuildValue('1.0', false);
    expect(changed(at, '1.1')).toEqual(['rebuild: may be in a file of desk: too ordinary to search for']);
  });
});

describe('a clock that was wrong', () => {
  /** A build for staging, by a clock that is years ahead. */
  const withFutureBuild = () => {
    const at = project(one);
    built(at, 'staging');
    const folder = at.path('.adder/receipts/desk');
    const [name = ''] = readdirSync(folder);
    const text = at
      .read(`.adder/receipts/desk/${name}`)
      .replace(/"builtAt": "[^"]*"/, '"builtAt": "2041-01-01T00:00:00.000Z"');
    rmSync(join(folder, name));
    at.write('.adder/receipts/desk/2041-01-01T00-00-00.000Z.staging.json', text);
    rmSync(at.path('dist'), { recursive: true });
    return at;
  };

  test('does not make a later build an earlier one', () => {
    const at = withFutureBuild();
    built(at);
    const { code, report } = at.json(['inspect']);
    expect([code, report.stage, report.answers.current.answer]).toEqual([0, 'production', 'yes']);
    built(at);
    expect(at.json(['inspect']).report.stage).toBe('production');
  });

  test('says nothing of the other bundles', () => {
    const at = withFutureBuild();
    const quay = 'quay: { toolchain: other, code: [src], output: [out], prefix: VITE_ }';
    const both = contract.replace('bundles: { desk:', `bundles: { ${quay}, desk:`);
    at.write('adder.yaml', both);
    const script = "fs.mkdirSync('out', { recursive: true }); fs.writeFileSync('out/a.js', process.env.VITE_API)";
    expect(at.adder(['with', 'production', '--bundle', 'quay', '--', 'node', '-e', script]).code).toBe(0);
    expect(at.json(['inspect']).report.stage).toBe('production');
  });
});

describe('a value that only the environment of the build had', () => {
  const env = { VITE_NOTICE: 'no ferry today at the north quay' };
  const ofEnvironment = () => {
    const at = project(one);
    at.write(
      'adder.yaml',
      contract.replace('[.env] }', '[.env, process] }').replace('variables:', 'variables:\n  VITE_NOTICE: public'),
    );
    at.write('src/a.ts', 'console.log(import.meta.env.VITE_API, import.meta.env.VITE_NOTICE)');
    at.write('build.mjs', build.replace(`'")')`, `'","' + process.env.VITE_NOTICE + '")')`));
    built(at, 'production', env);
    return at;
  };

  test('is current in the same environment', () => {
    expect(answers(ofEnvironment(), env)).toEqual([0, 'yes', 'yes']);
  });

  test('is unknown in another shell, and no change', () => {
    const at = ofEnvironment();
    expect(answers(at)).toEqual([3, 'yes', 'not known']);
    const { changes } = at.json(['compare', 'newest', 'production']).report;
    expect(changes).toEqual([]);
  });

  test('is old if another shell has another value', () => {
    expect(answers(ofEnvironment(), { VITE_NOTICE: 'the north quay is closed' })).toEqual([
      1,
      'yes',
      'no',
      'stale/past-value in-build',
    ]);
  });
});

describe('a public value that a framework’s server reads as it starts', () => {
  const ofFramework = (toolchain: string, name: string, code: Record<string, string>) =>
    new TestProject({
      'adder.yaml': `adder: 1
stages: { production: { layers: [.env.production] } }
bundles: { desk: { toolchain: ${toolchain}, code: [src], output: [dist], build: node build.mjs } }
variables: { ${name}: public }
`,
      '.env.production': `${name}=${one}\n`,
      'build.mjs':
        "import { mkdirSync, writeFileSync } from 'node:fs'; mkdirSync('dist'); writeFileSync('dist/a.js', 'x()');",
      ...code,
    });

  test.each([
    [
      'nuxt',
      'NUXT_PUBLIC_FARES',
      { 'src/app.vue': '<script setup>const { public: all } = useRuntimeConfig(); f(all.fares)</script>' },
    ],
    [
      'nuxt',
      'NUXT_PUBLIC_FARES',
      { 'src/app.vue': '<script setup>const c = useRuntimeConfig(); f(c.public.fares)</script>' },
    ],
    [
      'sveltekit',
      'PUBLIC_FARES',
      { 'src/+page.svelte': '<script>import { env } from "$env/dynamic/public"; f(env.PUBLIC_FARES)</script>' },
    ],
  ])('%s: asks for a restart when %s changes, and for no rebuild', (toolchain, name, code: Record<string, string>) => {
    const at = ofFramework(toolchain, name, code);
    built(at);
    at.write('.env.production', `${name}=${three}\n`);
    expect(answers(at)).toEqual([0, 'yes', 'yes']);
    const { changes } = at.json(['compare', 'newest', 'production']).report;
    expect(changes.map(({ action }: { action: string }) => action)).toEqual(['restart']);
  });
});

describe('a clock that was wrong', () => {
  /** Makes the newest receipt one of next year, as a wrong clock would have. */
  const ofNextYear = (at: TestProject) => {
    const folder = at.path('.adder/receipts/desk');
    const [name = ''] = readdirSync(folder);
    const later = name.replace(/^\d+/, '2099');
    const text = at.read(`.adder/receipts/desk/${name}`).replace(/"builtAt": "\d+/, '"builtAt": "2099');
    rmSync(join(folder, name));
    at.write(`.adder/receipts/desk/${later}`, text);
  };

  test('makes no later build old, and a note says so', () => {
    const at = project(one);
    built(at);
    ofNextYear(at);
    built(at);
    expect(answers(at)).toEqual([0, 'yes', 'yes', 'stale/receipt clock']);
    expect(at.adder(['compare', 'previous', 'newest']).stdout).toMatch(/a clock was wrong/);
  });

  test('is no matter of builds in their order', () => {
    const at = project(one);
    built(at);
    built(at);
    expect(answers(at)).toEqual([0, 'yes', 'yes']);
    expect(at.adder(['compare', 'previous', 'newest']).stdout).not.toMatch(/clock/);
  });
});
