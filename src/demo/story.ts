import { spawnSync } from 'node:child_process';
import { copyFileSync, cpSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { madeUp } from './layout.js';

/** One step: a command that is shown and run, or a change shown as the command that would make it. */
export interface Step {
  says: string;
  /** The text to type, `adder` first for Adder's own commands. */
  command: string;
  /** For Adder's commands: the exit code that the story expects. */
  expects?: number;
  /** Variables set before the command, as a shell shows them. */
  env?: Readonly<Record<string, string>>;
  /** Gives the command the project's key, as a pipeline's secret store does. */
  withKey?: true;
  /** Standard input of the command. */
  input?: string;
  /** A program that goes on beside the following steps, until the story ends. It is ready when this file exists. */
  runsUntil?: { file: string; args: readonly string[] };
  /** For changes: the effect. */
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
    says: 'Without it the app would ship "undefined", so Adder stops the build.',
    command: 'adder with production -- npm run build',
    expects: 1,
  },
  {
    says: 'Set the value.',
    command: 'echo MAP_TILES_KEY=made-up-tiles-key-for-production >> .env.production',
    change: (folder) =>
      edit(folder, '.env.production', (text) => `${text}MAP_TILES_KEY=made-up-tiles-key-for-production\n`),
  },
  {
    says: 'The build runs. A leftover line in its configuration prints a server value, which Adder masks.',
    command: 'adder with production -- npm run build',
    expects: 0,
  },
  {
    says: 'What is in the bundle? A mistake in the code added the signing key, once plain and once as base64.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  {
    says: 'Fix the code, and rebuild.',
    command: 'cp checkout.fixed.ts web/src/checkout.ts',
    change: (folder) => copyFileSync(join(folder, 'checkout.fixed.ts'), join(folder, 'web/src/checkout.ts')),
  },
  { says: '', command: 'adder with production -- npm run build', expects: 0 },
  { says: 'The key is gone.', command: 'adder inspect --stage production', expects: 0 },
  {
    says: 'A week later the API gets a new URL.',
    command: `sed -i s,https://api.saltmarsh.example,${newUrl}, .env.production`,
    change: (folder) =>
      edit(folder, '.env.production', (text) => text.replace('https://api.saltmarsh.example', newUrl)),
  },
  {
    says: 'The bundle still has the old URL.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  { says: 'Rebuild, and check again.', command: 'adder with production -- npm run build', expects: 0 },
  { says: '', command: 'adder inspect', expects: 0 },
];

/** A project with years of env files gets its first contract. */
const adopt: readonly Step[] = [
  {
    says: 'This project has many env files and no contract. Draft one.',
    command: 'adder draft',
    expects: 0,
  },
  {
    says: 'The contract gives a reason for each guess. Check the values of all stages.',
    command: 'adder values --all',
    expects: 1,
  },
  {
    says: 'An editor saved the staging values under the wrong file name. Rename it.',
    command: 'mv .env.staging.txt .env.staging',
    change: (folder) => renameSync(join(folder, '.env.staging.txt'), join(folder, '.env.staging')),
  },
  { says: 'What differs between staging and production?', command: 'adder compare staging production', expects: 0 },
  {
    says: 'Where does the URL of the booking API come from, and which code reads it?',
    command: 'adder why VITE_FERRY_API_URL',
    expects: 1,
  },
  {
    says: 'The URL has two schemes. Fix it.',
    command: 'sed -i s,https://https://,https://, .env.production',
    change: (folder) => edit(folder, '.env.production', (text) => text.replace('https://https://', 'https://')),
  },
  {
    says: 'A variable left over from an earlier export wins over the files. Adder reports it.',
    command: 'adder values production VITE_FERRY_API_URL',
    env: { VITE_FERRY_API_URL: 'http://localhost:4180' },
    expects: 1,
  },
  {
    says: 'A new developer needs local values. Remove the damaged local file first.',
    command: 'rm .env.local',
    change: (folder) => rmSync(join(folder, '.env.local')),
  },
  {
    says: '`adder fill STAGE` asks for each missing value. Scripts use standard input.',
    command: 'adder fill development --from-stdin QUAY_ADMIN_PASSWORD',
    input: 'made-up-admin-word-of-mine\n',
    expects: 0,
  },
  { says: '', command: 'adder values development QUAY_ADMIN_PASSWORD', expects: 0 },
];

/** A project with each mistake once, in its code and repository. */
const lint: readonly Step[] = [
  {
    says: 'This project once committed an env file, and removed it later.',
    command: 'git init && git add . && git commit -m "Remove env files"',
    change: makeHistory,
  },
  {
    says: 'Check the code against the contract, and the repository for secrets.',
    command: 'adder lint',
    expects: 1,
  },
  { says: 'Show what Adder can fix.', command: 'adder lint --fix --dry-run', expects: 0 },
  { says: 'Fix it. The other findings need a decision.', command: 'adder lint --fix --quiet', expects: 1 },
  { says: 'Explain a code.', command: 'adder lint --explain code/server-read', expects: 0 },
];

/** One build, promoted from stage to stage. */
const promote: readonly Step[] = [
  {
    says: 'Values that differ between stages are read when the page loads, from one typed module.',
    command: 'adder emit module --save web/src/values.ts',
    expects: 0,
  },
  { says: 'Build once, for staging.', command: 'adder with staging -- npm run build', expects: 0 },
  { says: 'The build wrote new pages, which do not load the values yet.', command: 'adder inspect', expects: 1 },
  {
    says: 'Write the values file, and add it to the pages.',
    command: 'adder emit runtime --stage staging --into web/dist',
    expects: 0,
  },
  { says: '', command: 'adder inspect', expects: 0 },
  {
    says: 'Staging works. Check the same files against production.',
    command: 'adder inspect --stage production',
    expects: 1,
  },
  {
    says: 'Only the values file must change.',
    command: 'adder emit runtime --stage production --into web/dist',
    expects: 0,
  },
  { says: '', command: 'adder inspect --stage production', expects: 0 },
];

/** An app whose compiler reads values from a file. */
const mobile: readonly Step[] = [
  {
    says: 'The compiler of this app reads constants from a file. Generate a class for its code.',
    command: 'adder emit dart --save deckhand/lib/values.dart',
    expects: 0,
  },
  { says: '', command: 'adder lint', expects: 0 },
  {
    says: 'Add one run configuration per stage to the editor.',
    command: 'adder emit launch --into .vscode',
    expects: 0,
  },
  {
    says: 'Build for production. {defines} in the build command is the file that the compiler reads.',
    command: 'adder with production',
    expects: 0,
  },
  { says: 'Check the app archive.', command: 'adder inspect', expects: 0 },
  {
    says: 'A developer adds an env file to the assets, to read values while the app runs.',
    command: 'adder with production',
    change: (folder) => {
      cpSync(join(folder, '.env.production'), join(folder, 'deckhand/assets/settings.env'));
      edit(folder, 'deckhand/pubspec.yaml', (text) => `${text}    - assets/settings.env\n`);
    },
    expects: 0,
  },
  { says: 'Everybody who installs the app can read that file.', command: 'adder inspect', expects: 1 },
  {
    says: 'Remove it, rebuild, and check.',
    command: 'adder with production --inspect',
    change: (folder) => {
      rmSync(join(folder, 'deckhand/assets/settings.env'));
      edit(folder, 'deckhand/pubspec.yaml', (text) => text.replace('    - assets/settings.env\n', ''));
    },
    expects: 0,
  },
  {
    says: 'A developer builds by hand, without the values file. The compiler reports nothing.',
    command: 'node tool/mobile-build.mjs',
    change: (folder) => void spawnSync(process.execPath, ['tool/mobile-build.mjs'], { cwd: folder, stdio: 'inherit' }),
  },
  {
    says: 'The app has no API URL now. In a pipeline, make that an error.',
    command: 'adder inspect --fail-on warning',
    expects: 1,
  },
  { says: 'The right command: build and check in one.', command: 'adder with production --inspect', expects: 0 },
];

/** Built files with each mistake once. */
const ship: readonly Step[] = [
  {
    says: 'A web shop and a crew app are built, with each mistake once.',
    command: 'adder with production --bundle ticket-desk -- npm run build',
    expects: 0,
  },
  { says: 'What is in the files, and which public values are where?', command: 'adder inspect --contents', expects: 1 },
  {
    says: 'The same as a page for colleagues, and as JSON for programs.',
    command: 'adder inspect --format html --save adder.html',
    expects: 1,
  },
  { says: '', command: 'adder inspect --format json --save adder.json', expects: 1 },
  {
    says: 'A saved report prints again in any format.',
    command: 'adder show adder.json --format markdown',
    expects: 1,
  },
  {
    says: 'Two machines inspect a part each, and their reports are merged.',
    command: 'adder inspect --shard 1/2 --format json --save part-1.json --quiet',
    expects: 1,
  },
  { says: '', command: 'adder inspect --shard 2/2 --format json --save part-2.json --quiet', expects: 1 },
  { says: '', command: 'adder show part-1.json part-2.json --quiet', expects: 1 },
  {
    says: 'Accept all findings of today, so that only new ones fail the pipeline.',
    command: 'adder accept --all --because found-when-we-adopted-Adder --until 2099-12-31',
    expects: 0,
  },
  { says: '', command: 'adder inspect', expects: 0 },
];

const token = { HARBOUR_TOKEN: 'made-up-console-token' };

/** A site after its deployment, and the host of its server. */
const serve: readonly Step[] = [
  {
    says: 'A made-up hosting platform on this machine: a console for values, the site, and a host for its assets.',
    command: 'node tool/host.mjs &',
    runsUntil: { file: 'host-urls.json', args: ['tool/host.mjs'] },
  },
  {
    says: 'Build once, for staging, and promote the files to production.',
    command: 'adder emit module --save web/src/values.ts',
    expects: 0,
  },
  { says: '', command: 'adder with staging -- npm run build', expects: 0 },
  { says: '', command: 'adder emit runtime --stage production --into web/dist', expects: 0 },
  {
    says: 'The gate also asks the console: one name is misspelt there, and a database password is given to builds.',
    command: 'adder gate production',
    env: token,
    expects: 1,
  },
  {
    says: 'Set what is wrong. The console limits the rate, fails at times and loses answers.',
    command: 'adder handoff production --apply --yes',
    env: token,
    expects: 0,
  },
  { says: '', command: 'adder gate production --quiet', env: token, expects: 0 },
  { says: 'Deploy the files.', command: 'cp -r web/dist www', change: deploy },
  {
    says: 'The page is there. Browsers would refuse its scripts, which are on another host.',
    command: 'adder probe --stage production',
    expects: 1,
  },
  {
    says: 'Let the asset host send access-control-allow-origin: *, and cache-control: no-cache.',
    command: '$EDITOR host.json',
    change: (folder) =>
      edit(folder, 'host.json', (text) =>
        text.replace(
          '"assets/values": { "cache-control": "max-age=86400" }',
          '".js": { "access-control-allow-origin": "*", "cache-control": "no-cache" }',
        ),
      ),
  },
  { says: '', command: 'adder probe --stage production', expects: 0 },
  {
    says: 'Winter comes. What is to be done?',
    command: 'adder values staging SEASON',
    change: (folder) => {
      edit(folder, '.env', (text) => text.replace('summer', 'winter'));
      edit(folder, 'web/index.html', (text) => text.replace('Ferries</h1>', 'Ferries in winter</h1>'));
    },
    expects: 0,
  },
  { says: 'Build, promote and deploy again.', command: 'adder with staging -- npm run build', expects: 0 },
  { says: '', command: 'adder emit runtime --stage production --into web/dist', expects: 0 },
  { says: '', command: 'cp -r web/dist www', change: deploy },
  {
    says: 'A cache in front of the assets still has the file with the old season: its name did not change.',
    command: 'adder gate production --probe',
    env: token,
    expects: 1,
  },
  {
    says: 'Empty the cache of the asset host.',
    command: '$EDITOR host.json',
    change: (folder) => edit(folder, 'host.json', (text) => text.replace('"token":', '"purge": 1,\n  "token":')),
  },
  { says: '', command: 'adder gate production --probe --quiet', env: token, expects: 0 },
  {
    says: 'For the winter the site closes: visitors need a login, and the host limits the rate.',
    command: '$EDITOR host.json',
    change: (folder) =>
      edit(folder, 'host.json', (text) =>
        text.replace('"site": {', '"site": { "login": "made-up-login", "perSecond": 12,'),
      ),
  },
  { says: 'Nothing is known of a site that denies access.', command: 'adder probe --stage production', expects: 3 },
  {
    says: 'The login comes from the environment. Requests that the host puts off are sent again.',
    command: "adder probe --stage production --site-header 'Authorization: Basic {SITE_LOGIN}'",
    env: { SITE_LOGIN: 'made-up-login' },
    expects: 0,
  },
];

function deploy(folder: string): void {
  rmSync(join(folder, 'www'), { recursive: true, force: true });
  cpSync(join(folder, 'web/dist'), join(folder, 'www'), { recursive: true });
}

/** A configuration that passes a secret on, found by a build with made-up values. */
const trial: readonly Step[] = [
  {
    says: 'Where does each value of this project go? A copy is built with made-up values. No real secret is needed.',
    command: 'adder trial production -- npm run build',
    expects: 0,
  },
  {
    says: 'In a hurry, somebody lets the configuration load every env file, and signs the fares in the browser.',
    command: 'cp vite.config.quick.js vite.config.js',
    change: (folder) => {
      edit(folder, 'vite.config.js', (text) =>
        text
          .replace('import { defineConfig }', 'import { defineConfig, loadEnv }')
          .replace(
            "  root: 'web',",
            "  root: 'web',\n  define: { __FARE_KEY__: JSON.stringify(loadEnv('production', '.', '').FARE_SIGNING_KEY) },",
          ),
      );
      edit(folder, 'web/src/checkout.ts', (text) =>
        text.replace(/^const trial = .*$/m, 'const trial = { key: __FARE_KEY__, pass: btoa(__FARE_KEY__) };'),
      );
    },
  },
  {
    says: 'The trial names the file that the key came from, and the line that lets it out, whatever its value is.',
    command: 'adder trial production -- npm run build',
    expects: 1,
  },
  {
    says: 'Fix the code and the configuration.',
    command: 'git checkout vite.config.js && cp checkout.fixed.ts web/src/checkout.ts',
    change: (folder) => {
      edit(folder, 'vite.config.js', (text) => text.replace(', loadEnv', '').replace(/^ {2}define: .*\n/m, ''));
      copyFileSync(join(folder, 'checkout.fixed.ts'), join(folder, 'web/src/checkout.ts'));
    },
  },
  {
    says: 'This code lets nothing out. Flags and numbers have no room for a made-up value: further builds with other ones follow them.',
    command: 'adder trial production --twice -- npm run build',
    expects: 0,
  },
];

/** A key is rotated, and found again where nobody has it. */
const history: readonly Step[] = [
  {
    says: 'Last month: a leftover file lets the build put the signing key into the app. The build records the values of its stage.',
    command: 'adder with production',
    expects: 0,
  },
  {
    says: 'Nobody notices, and a partner gets the app.',
    command: 'mv deckhand/build/deckhand.apk partner-1.4.apk',
    change: (folder) => renameSync(join(folder, 'deckhand/build/deckhand.apk'), join(folder, 'partner-1.4.apk')),
  },
  {
    says: 'The signing key is rotated every quarter. Say so before it changes.',
    command: "adder retire FARE_SIGNING_KEY --because 'rotated every quarter'",
    expects: 0,
  },
  {
    says: 'Set the new key. The leftover file goes too.',
    command: 'sed -i s/^FARE_SIGNING_KEY=.*/FARE_SIGNING_KEY=e4b0…/ .env.production && rm tool/sign-offline',
    change: (folder) => {
      edit(folder, '.env.production', (text) =>
        text.replace(/^FARE_SIGNING_KEY=.*$/m, `FARE_SIGNING_KEY=${madeUp.nextKey}`),
      );
      rmSync(join(folder, 'tool/sign-offline'));
    },
  },
  { says: '', command: 'adder with production', expects: 0 },
  { says: 'Which values has each variable had?', command: 'adder history', expects: 0 },
  {
    says: 'A pipeline has the repository and the key. It never had a server value.',
    command: 'git clone . pipeline',
    change: (folder) => {
      for (const path of ['adder.yaml', '.env', 'deckhand/src', '.adder/history'])
        cpSync(join(folder, path), join(folder, 'pipeline', path), { recursive: true });
    },
  },
  {
    says: "The old key is in the partner's app: plain, in base64, and in a map.",
    command: 'adder inspect partner-1.4.apk --contract pipeline/adder.yaml --stage production',
    withKey: true,
    expects: 1,
  },
  {
    says: 'It is not in the new one. The yes says on what it rests.',
    command: 'adder inspect deckhand/build/deckhand.apk --contract pipeline/adder.yaml --stage production',
    withKey: true,
    expects: 0,
  },
  {
    says: 'The time line, as a page.',
    command: 'adder history --format html --save history.html',
    expects: 0,
  },
];

/** The stories of `adder demo`. */
export const stories = {
  build: { template: 'ferries', builds: true, steps: build },
  adopt: { template: 'adopt', builds: false, steps: adopt },
  lint: { template: 'lint', builds: false, steps: lint },
  promote: { template: 'promote', builds: true, steps: promote },
  mobile: { template: 'mobile', builds: false, steps: mobile },
  ship: { template: 'ship', builds: false, steps: ship },
  serve: { template: 'serve', builds: true, steps: serve },
  trial: { template: 'ferries', builds: true, steps: trial },
  history: { template: 'history', builds: false, steps: history },
} as const;

export type StoryName = keyof typeof stories;

function edit(folder: string, name: string, change: (text: string) => string): void {
  const path = join(folder, name);
  writeFileSync(path, change(readFileSync(path, 'utf8')));
}

/** Two commits: one adds an env file, the next removes it. Without git the story has no history. */
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
  git('commit', '--quiet', '-m', 'Remove env files');
}
