import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { expect, test } from 'vitest';
import { bareEnvironment, ferryContract, ferryProject, program, secrets, type TestProject } from '../support/adder.js';

/** How often each command is killed; `npm run kills` has it 200 times. */
const RUNS = Number(process.env.ADDER_KILL_RUNS ?? 4);

const NEW_SECRET = 'made-up-new-signing-key-that-was-typed-0003';

/** Starts a command, and kills it after a random time unless it is spared. @returns its exit code; null if it was killed */
async function killed(
  project: TestProject,
  args: readonly string[],
  input = '',
  isSpared = false,
): Promise<number | null> {
  const child = spawn(process.execPath, [program, ...args], {
    cwd: project.folder,
    env: bareEnvironment(),
    stdio: ['pipe', 'ignore', 'ignore'],
  });
  child.stdin.on('error', () => undefined);
  child.stdin.end(input);
  const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
  const timer = isSpared ? undefined : setTimeout(() => child.kill('SIGKILL'), 60 + Math.random() * 400);
  const code = await ended;
  clearTimeout(timer);
  return code;
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

/** Calls of a command at the same time, and what each of them leaves behind when it says that it did. */
interface Parallel {
  calls: { args: string[]; input: string; isDone(project: TestProject): boolean }[];
  /** Fails if something is half done. */
  check(project: TestProject): void;
}

const names = ['QUAY_A', 'QUAY_B', 'QUAY_C', 'QUAY_D', 'QUAY_E'];

const parallel: Record<string, (project: TestProject) => Parallel> = {
  fill: (project) => {
    project.write('adder.yaml', `${project.read('adder.yaml')}${names.map((name) => `  ${name}: public\n`).join('')}`);
    return {
      calls: names.map((name) => ({
        args: ['fill', 'production', '--from-stdin', name],
        input: `berth-of-${name}`,
        isDone: (at) => at.read('.env.local').includes(`${name}=berth-of-${name}\n`),
      })),
      check: (at) => {
        const lines = at.read('.env.local').split('\n').filter(Boolean);
        for (const line of lines) expect(line).toMatch(/^(QUAY_.=berth-of-QUAY_.|[A-Z_]+=.+|#.*)$/);
      },
    };
  },
  accept: (project) => {
    project.write('src/main.js', names.map((name) => `import './${name}';\n`).join(''));
    for (const name of names) project.write(`src/${name}.ts`, `f("https://api.staging.saltmarsh.test", "${name}")`);
    const { findings } = project.json(['lint']).report;
    const prints = new Set<string>(findings.map(({ fingerprint }: { fingerprint: string }) => fingerprint));
    return {
      calls: [...prints].slice(0, 5).map((fingerprint) => ({
        args: ['accept', fingerprint, '--because', 'a test'],
        input: '',
        isDone: (at) => at.read('adder.yaml').includes(fingerprint),
      })),
      check: (at) => expect(at.adder(['values', 'production']).code).toBeLessThan(2),
    };
  },
  with: () => ({
    calls: names.map(() => ({
      args: ['with', 'production', '--bundle', 'ticket-desk', '--', process.execPath, 'build.mjs'],
      input: '',
      isDone: (at) => readdirSync(at.path('.adder/receipts/ticket-desk')).length > 0,
    })),
    check: (at) => {
      for (const name of readdirSync(at.path('.adder/receipts/ticket-desk')))
        expect(() => JSON.parse(at.read(`.adder/receipts/ticket-desk/${name}`))).not.toThrow();
    },
  }),
};

test.each(Object.keys(parallel))(
  '%s: five parallel calls keep their changes when some are killed',
  async (name) => {
    for (let run = 0; run < Math.ceil(RUNS / 6); run++) {
      const project = repository();
      project.write('.env.local', '# this machine\n');
      const { calls, check } = (parallel[name] as (typeof parallel)[string])(project);
      expect(calls).toHaveLength(5);
      const codes = await Promise.all(
        calls.map(({ args, input }, index) => killed(project, args, input, index % 2 === 0)),
      );
      for (const [index, { isDone }] of calls.entries())
        if (codes[index] === 0) expect(isDone(project), `${name} ${index}`).toBe(true);
      expect(codes.filter((_, index) => index % 2 === 0)).toEqual([0, 0, 0]);
      // The next run does the work of killed ones, and leaves nothing of them.
      for (const { args, input, isDone } of calls)
        if (!isDone(project)) expect(project.adder(args, {}, { input }).code).toBe(0);
      const last = calls[0] as (typeof calls)[number];
      project.adder(last.args, {}, { input: last.input });
      check(project);
      expect(calls.every(({ isDone }) => isDone(project))).toBe(true);
      const left = existsSync(project.path('.adder')) ? readdirSync(project.path('.adder')) : [];
      expect(left.filter((one) => /^lock-|^key\./.test(one))).toEqual([]);
    }
  },
  RUNS * 20_000,
);
