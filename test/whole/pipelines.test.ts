import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { bareEnvironment, ferryProject, program, secrets, type TestProject } from '../support/adder.js';
import { MadeUpSite } from '../support/site.js';

const guides = join(import.meta.dirname, '../../docs/guides');

/** The blocks of a guide in one language, under their headings. */
function blocks(guide: string, language: string): Map<string, string> {
  const sections = readFileSync(join(guides, guide), 'utf8').split(/^## /m);
  const fence = new RegExp(`\`\`\`${language}\\n([\\s\\S]*?)\`\`\``, 'g');
  return new Map(
    sections.flatMap((section) => {
      const title = section.split('\n')[0] ?? '';
      return [...section.matchAll(fence)].map(([, body = ''], index): [string, string] => [
        index === 0 ? title : `${title} ${index + 1}`,
        body,
      ]);
    }),
  );
}

/** The commands of a workflow in their order: `run`, `script`, `before_script` and `after_script`, of all jobs. */
function commandsIn(node: unknown): string[] {
  if (Array.isArray(node)) return node.flatMap(commandsIn);
  if (typeof node !== 'object' || node === null) return [];
  return Object.entries(node).flatMap(([key, value]) =>
    /^(run|script|after_script)$/.test(key) ? [value].flat().map(String) : commandsIn(value),
  );
}

function shop(leaks: boolean): TestProject {
  const project = ferryProject({
    'package.json': '{ "type": "module", "scripts": { "build": "node build.mjs" } }',
    'build.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
mkdirSync('dist', { recursive: true });
const { VITE_FERRY_API_URL, VITE_TIDE_CHART } = process.env;
writeFileSync('dist/a.js', \`f("\${VITE_FERRY_API_URL}",\${VITE_TIDE_CHART});${leaks ? `k="${secrets.FARE_SIGNING_KEY}"` : ''}\`);
writeFileSync('dist/b.js', 'b()');
`,
    'src/main.ts': 'f(import.meta.env.VITE_FERRY_API_URL, import.meta.env.VITE_TIDE_CHART)\n',
    '.gitignore': '.env.production\ndist/\n',
    // Commands that the guides call: the program, and nothing for packages.
    'bin/npx': `#!/bin/sh\nshift\nexec "${process.execPath}" "${program}" "$@"\n`,
    'bin/npm': '#!/bin/sh\n[ "$1" = ci ] && exit 0\nexec node build.mjs\n',
  });
  for (const name of ['npx', 'npm']) chmodSync(project.path('bin', name), 0o755);
  return project;
}

/** Runs one line as a pipeline does. */
function run(project: TestProject, line: string, env: Record<string, string> = {}): number | null {
  const { status } = spawnSync('sh', ['-c', line], {
    cwd: project.folder,
    env: bareEnvironment({
      ...env,
      PATH: `${project.path('bin')}:${process.env.PATH}`,
      GITHUB_STEP_SUMMARY: project.path('summary.md'),
    }),
    stdio: 'ignore',
  });
  return status;
}

/** Runs one line while a server of this process answers. */
function runBeside(project: TestProject, line: string): Promise<number | null> {
  const env = bareEnvironment({ PATH: `${project.path('bin')}:${process.env.PATH}` });
  const child = spawn('sh', ['-c', line], { cwd: project.folder, env, stdio: 'ignore' });
  return new Promise((resolve) => child.once('close', resolve));
}

describe('the guide for pipelines, as scripts', () => {
  const workflows = [...blocks('pipelines.md', 'yaml')].filter(([, text]) => text.includes('adder gate'));

  test.each(workflows)('%s: a clean shop passes, a leak stops it, and its reports are there', (_, text) => {
    const lines = commandsIn(parse(text));
    expect(lines.length).toBeGreaterThan(3);
    const clean = shop(false);
    expect(lines.map((line) => run(clean, line))).toEqual(lines.map(() => 0));
    const leaky = shop(true);
    const codes = lines.map((line) => run(leaky, line));
    expect(codes).toEqual(lines.map((line) => (line.includes('adder gate') ? 1 : 0)));
    const saved = lines.flatMap((line) => /--save (\S+)/.exec(line)?.[1] ?? []);
    for (const name of [...saved, ...(text.includes('SUMMARY') ? ['summary.md'] : [])]) {
      const report = leaky.read(name);
      expect(report, name).toContain('FARE_SIGNING_KEY');
      expect(report, name).not.toContain(secrets.FARE_SIGNING_KEY);
    }
  });

  test('a probe each night: a clean site passes, a leak stops it', async () => {
    const [line = ''] = commandsIn(parse(blocks('pipelines.md', 'yaml').get('A probe each night') ?? '')).slice(-1);
    for (const leaks of [false, true]) {
      const project = shop(leaks);
      expect(run(project, 'npx adder with production --receipt receipts/a.json -- npm run build')).toBe(0);
      const site = await MadeUpSite.start({
        '/': '<script src="/a.js"></script><script src="/b.js"></script>',
        '/a.js': { body: project.read('dist/a.js') },
        '/b.js': { body: project.read('dist/b.js') },
      });
      // The page is not of the build, so whether it is current is not known.
      expect(await runBeside(project, line.replace('adder probe', `adder probe ${site.url}`))).toBe(leaks ? 1 : 3);
      await site.stop();
      expect(project.read('tonight.json')).not.toContain(secrets.FARE_SIGNING_KEY);
      expect(run(project, 'npx adder show tonight.json tonight.json --changes --fail-on warning')).toBe(0);
    }
  });

  test('a shell script keeps the exit code of the gate', () => {
    const script = blocks('pipelines.md', 'sh').get('Any other') ?? '';
    expect(run(shop(false), script)).toBe(0);
    const leaky = shop(true);
    expect(run(leaky, script)).toBe(1);
    expect(leaky.read('adder.html')).toContain('FARE_SIGNING_KEY');
  });
});

describe('the guide for large outputs, as scripts', () => {
  test.each([...blocks('large-outputs.md', 'yaml')])('%s', (_, text) => {
    const lines = commandsIn(parse(text));
    for (const leaks of [false, true]) {
      const project = shop(leaks);
      run(project, 'npx adder with production -- npm run build');
      const shards = lines.filter((line) => line.includes('--shard'));
      for (let part = 1; part <= 4; part++)
        for (const line of shards) {
          const env = { CI_NODE_INDEX: String(part), CI_NODE_TOTAL: '4' };
          expect(run(project, line.replaceAll('${{ matrix.part }}', String(part)), env)).toBe(0);
        }
      const codes = lines.filter((line) => line.includes('adder show')).map((line) => run(project, line));
      expect(codes.at(-1)).toBe(leaks ? 1 : 0);
    }
  });
});
