import { spawnSync } from 'node:child_process';
import { copyFileSync, cpSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** One step: a command that is shown and run, or a change that is shown as the command that would make it. */
export interface Step {
  says: string;
  /** As it is typed, `adder` first for Adder's own commands. */
  command: string;
  /** For Adder's commands: the exit code that the story expects. */
  expects?: number;
  /** What the shell has set for it, as it stands before the command. */
  env?: Readonly<Record<string, string>>;
  /** What it reads from standard input. */
  input?: string;
  /** For changes: what is done. */
  change?(folder: string): void;
}

const newUrl = 'https://booking.saltmarsh.example';

/** From a missing value to a stale bundle. */
const build: readonly Step[] = [
  {
    says: 'What will the production build get? One value is missing.',
    command: 'adder values production',
    expects: 1,
  },
  {
    says: 'A build without it would ship "undefined", so it is refused.',
    command: 'adder with production -- npm run build',
    expects: 1,
  },
  {
    says: 'The value is given.',
    command: 'echo MAP_TILES_KEY=made-up-tiles-key-for-production >> .env.production',
    change: (folder) =>
      edit(folder, '.env.production', (text) => `${text}MAP_TILES_KEY=made-up-tiles-key-for-production\n`),
  },
  {
    says: 'Now it builds. A line left in the configuration prints a server value: it is masked.',
    command: 'adder with production -- npm run build',
    expects: 0,
  },
  {
    says: 'But what did the build add? A careless line put the signing key in, plain and as base64.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  {
    says: 'The line is mended, and the project built again.',
    command: 'cp checkout.mended.ts web/src/checkout.ts',
    change: (folder) => copyFileSync(join(folder, 'checkout.mended.ts'), join(folder, 'web/src/checkout.ts')),
  },
  { says: '', command: 'adder with production -- npm run build', expects: 0 },
  { says: 'Nothing is left of it.', command: 'adder inspect --stage production', expects: 0 },
  {
    says: 'A week later the API moves.',
    command: `sed -i s,https://api.saltmarsh.example,${newUrl}, .env.production`,
    change: (folder) =>
      edit(folder, '.env.production', (text) => text.replace('https://api.saltmarsh.example', newUrl)),
  },
  {
    says: 'The bundle still has the old address, and says so.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  { says: 'It is built again, and in order.', command: 'adder with production -- npm run build', expects: 0 },
  { says: '', command: 'adder inspect', expects: 0 },
];

/** A project with years of env files, and no contract: how it gets one. */
const adopt: readonly Step[] = [
  {
    says: 'Env files, stage files and code, and nobody knows what is true. What is there?',
    command: 'adder draft',
    expects: 0,
  },
  {
    says: 'The contract is a file with a reason for each guess. What is wrong with the values?',
    command: 'adder values --all',
    expects: 1,
  },
  {
    says: 'The values of staging stand in a file that an editor named.',
    command: 'mv .env.staging.txt .env.staging',
    change: (folder) => renameSync(join(folder, '.env.staging.txt'), join(folder, '.env.staging')),
  },
  { says: 'What is different in production?', command: 'adder compare staging production', expects: 0 },
  {
    says: 'Where does the address of the booking API come from, and who gets it?',
    command: 'adder why VITE_FERRY_API_URL',
    expects: 1,
  },
  {
    says: 'Its scheme stands there twice.',
    command: 'sed -i s,https://https://,https://, .env.production',
    change: (folder) => edit(folder, '.env.production', (text) => text.replace('https://https://', 'https://')),
  },
  {
    says: 'A name that an earlier export left in the shell wins over the files, and is told.',
    command: 'adder values production VITE_FERRY_API_URL',
    env: { VITE_FERRY_API_URL: 'http://localhost:4180' },
    expects: 1,
  },
  {
    says: 'A newcomer needs values of their own. The local file that nobody could read goes.',
    command: 'rm .env.local',
    change: (folder) => rmSync(join(folder, '.env.local')),
  },
  {
    says: 'adder fill development asks for what is missing, one after the other; for scripts there is standard input.',
    command: 'adder fill development --from-stdin QUAY_ADMIN_PASSWORD',
    input: 'made-up-admin-word-of-mine\n',
    expects: 0,
  },
  { says: '', command: 'adder values development QUAY_ADMIN_PASSWORD', expects: 0 },
];

/** A project with every mistake once, in its code and in its repository. */
const lint: readonly Step[] = [
  {
    says: 'The project is years old. Somebody committed an env file once, and took it out again.',
    command: 'git init && git add . && git commit -m "Env files are out"',
    change: makeHistory,
  },
  {
    says: 'Is the code in order with the contract, and what does the repository let out?',
    command: 'adder lint',
    expects: 1,
  },
  { says: 'What could be mended by itself?', command: 'adder lint --fix --dry-run', expects: 0 },
  { says: 'It is mended, and the rest is for a person.', command: 'adder lint --fix --quiet', expects: 1 },
  { says: 'What was that about?', command: 'adder lint --explain code/server-read', expects: 0 },
];

/** One build that goes from stage to stage. */
const promote: readonly Step[] = [
  {
    says: 'What differs between the stages is read when a page loads. The code has it from one typed module.',
    command: 'adder emit module --save web/src/values.ts',
    expects: 0,
  },
  { says: 'The shop is built once, for staging.', command: 'adder with staging -- npm run build', expects: 0 },
  { says: 'A build writes its pages anew, and they do not load the values yet.', command: 'adder inspect', expects: 1 },
  {
    says: 'They are put beside the app, and the pages pointed at them.',
    command: 'adder emit runtime --stage staging --into web/dist',
    expects: 0,
  },
  { says: '', command: 'adder inspect', expects: 0 },
  {
    says: 'It passed its trial. Are the very same files in order for production?',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  {
    says: 'All but one: this file alone changes.',
    command: 'adder emit runtime --stage production --into web/dist',
    expects: 0,
  },
  { says: '', command: 'adder inspect --stage production', expects: 0 },
];

/** An app whose compiler takes values from a file. */
const mobile: readonly Step[] = [
  {
    says: 'The app reads constants that its compiler takes from a file. Its code has them from one class.',
    command: 'adder emit dart --save deckhand/lib/values.dart',
    expects: 0,
  },
  { says: '', command: 'adder lint', expects: 0 },
  {
    says: 'In the editor a stage is picked from a list.',
    command: 'adder emit launch --into .vscode',
    expects: 0,
  },
  {
    says: 'What ships is built with the values of production: {defines} in its command is the file that the compiler reads.',
    command: 'adder with production',
    expects: 0,
  },
  { says: 'The app is an archive, and is looked into.', command: 'adder inspect', expects: 0 },
  {
    says: 'Somebody wants values that are read as the app runs, and puts an env file among its assets.',
    command: 'adder with production',
    change: (folder) => {
      cpSync(join(folder, '.env.production'), join(folder, 'deckhand/assets/settings.env'));
      edit(folder, 'deckhand/pubspec.yaml', (text) => `${text}    - assets/settings.env\n`);
    },
    expects: 0,
  },
  { says: 'Whoever installs the app can read it.', command: 'adder inspect', expects: 1 },
  {
    says: 'Out with it.',
    command: 'adder with production --inspect',
    change: (folder) => {
      rmSync(join(folder, 'deckhand/assets/settings.env'));
      edit(folder, 'deckhand/pubspec.yaml', (text) => text.replace('    - assets/settings.env\n', ''));
    },
    expects: 0,
  },
  {
    says: 'Somebody builds it by hand for the store, and forgets the file. The compiler says nothing.',
    command: 'node tool/mobile-build.mjs',
    change: (folder) => void spawnSync(process.execPath, ['tool/mobile-build.mjs'], { cwd: folder, stdio: 'inherit' }),
  },
  {
    says: 'But the app has no address to book at. In a pipeline that is an error.',
    command: 'adder inspect --fail-on warning',
    expects: 1,
  },
  { says: 'The command that must not be forgotten.', command: 'adder with production --inspect', expects: 0 },
];

/** The stories that `adder demo` tells. */
export const stories = {
  build: { template: 'ferries', builds: true, steps: build },
  adopt: { template: 'adopt', builds: false, steps: adopt },
  lint: { template: 'lint', builds: false, steps: lint },
  promote: { template: 'promote', builds: true, steps: promote },
  mobile: { template: 'mobile', builds: false, steps: mobile },
} as const;

export type StoryName = keyof typeof stories;

function edit(folder: string, name: string, change: (text: string) => string): void {
  const path = join(folder, name);
  writeFileSync(path, change(readFileSync(path, 'utf8')));
}

/** Two commits: one that has an env file, one that has it no more. Without git the story goes on without a history. */
function makeHistory(folder: string): void {
  const git = (...args: string[]) =>
    spawnSync(
      'git',
      ['-c', 'user.name=Quay', '-c', 'user.email=quay@saltmarsh.test', '-c', 'commit.gpgsign=false', ...args],
      { cwd: folder, stdio: 'ignore' },
    );
  git('init', '--quiet');
  writeFileSync(join(folder, '.env.staging'), 'FARE_SIGNING_KEY=made-up-key-of-a-staging-long-gone\n');
  git('add', '.env.staging');
  git('commit', '--quiet', '-m', 'Staging');
  rmSync(join(folder, '.env.staging'));
  git('add', '.');
  git('commit', '--quiet', '-m', 'Env files are out');
}
