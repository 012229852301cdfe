import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { expect, test } from 'vitest';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';

/** How often each command is killed; `npm run kills` has it 200 times. */
const RUNS = Number(process.env.ADDER_KILL_RUNS ?? 6);

const NEW_SECRET = 'made-up-new-signing-key-that-was-typed-0003';

/** Starts a command and kills it after a random time. */
async function killed(project: TestProject, args: readonly string[], input = ''): Promise<void> {
  const child = spawn(process.execPath, [program, ...args], {
    cwd: project.folder,
    env: bareEnvironment(),
    stdio: ['pipe', 'ignore', 'ignore'],
  });
  child.stdin.on('error', () => undefined);
  child.stdin.end(input);
  const ended = new Promise((resolve) => child.once('exit', resolve));
  const timer = setTimeout(() => child.kill('SIGKILL'), 60 + Math.random() * 400);
  await ended;
  clearTimeout(timer);
}

/** The files that git tracks or would, with their texts. */
function seenByGit(project: TestProject): Map<string, string> {
  const { stdout } = spawnSync('git', ['ls-files', '-z', '--cached', '--others', '--exclude-standard'], {
    cwd: project.folder,
  });
  const paths = [...new Set(String(stdout).split('\0').filter(Boolean))];
  return new Map(paths.filter((path) => existsSync(project.path(path))).map((path) => [path, project.read(path)]));
}

function repository(): TestProject {
  const contract = ferryContract.replace(
    'layers: [.env, .env.production, process]',
    'layers: [.env, .env.production, .env.local, process]',
  );
  const project = ferryProject({
    'adder.yaml': contract,
    '.gitignore': '.env.production\n.env.staging\n.env.local\ndist\n',
    'src/main.js': 'console.log(import.meta.env.FERRY_API_URL);\n'.repeat(400),
    'build.mjs':
      "import { mkdirSync, writeFileSync } from 'node:fs'; mkdirSync('dist', { recursive: true }); writeFileSync('dist/a.js', process.env.VITE_FERRY_API_URL);",
  });
  spawnSync('git', ['init', '-q'], { cwd: project.folder });
  return project;
}

test.each<[name: string, args: string[], input: string, target: string]>([
  ['fill', ['fill', 'production', '--from-stdin', 'FARE_SIGNING_KEY'], NEW_SECRET, '.env.local'],
  [
    'emit --save',
    ['emit', 'defines', '--with-build', '--stage', 'production', '--save', 'defines.local.json'],
    '',
    'defines.local.json',
  ],
  ['lint --fix', ['lint', '--fix'], '', 'src/main.js'],
  ['with', ['with', 'production', '--', process.execPath, 'build.mjs'], '', '.adder/key'],
])(
  '%s, killed at any time: the file is old or new, and git sees no secret',
  async (_, args, input, target) => {
    for (let run = 0; run < RUNS; run++) {
      const project = repository();
      if (target.endsWith('.json')) project.write('.gitignore', `${project.read('.gitignore')}${target}\n`);
      const before = existsSync(project.path(target)) ? project.read(target) : undefined;
      await killed(project, args, input);
      for (const [path, text] of seenByGit(project))
        for (const secret of [...Object.values(secrets), NEW_SECRET]) expect(text.includes(secret), path).toBe(false);
      const halfway = existsSync(project.path(target)) ? project.read(target) : undefined;
      // The next run finishes the work, and leaves nothing of the killed one.
      const code = project.adder(args, {}, { input }).code;
      expect(code).toBeLessThan(3);
      const after = project.read(target);
      if (target !== '.adder/key') expect([before, after]).toContain(halfway);
      const rest = existsSync(project.path('.adder/tmp')) ? readdirSync(project.path('.adder/tmp')) : [];
      expect(rest).toEqual([]);
    }
  },
  RUNS * 10_000,
);
