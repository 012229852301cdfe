import { byteSize, count } from '../text/display.js';
import { joinWords, someWords } from '../text/nearest.js';
import { type Recorded, wholeValueText } from './recorded.js';
import { run, steps } from './remedy.js';
import { words } from './words.js';

/** The longest lists of names and files in a message. */
const [MOST_NAMES, MOST_FILES, MOST_PACKAGES] = [4, 4, 5];

/** The first and last version with a text. */
export interface Span {
  path: string;
  first: { id: string; day: string };
  last: { id: string; day: string };
}

/** Files of Adder that git tracks, in one directory, and the entries of the directory that they are in. */
export interface TrackedState {
  path: string;
  folder: string;
  parts: readonly string[];
  files: number;
  /** True if the history of values is tracked too, as it should be. */
  hasHistory: boolean;
}

/** A value in a version of a file. */
export interface ValueInGit {
  variable: string;
  stages: readonly string[];
  recorded?: Recorded | undefined;
}

/** The line of an ignore file that keeps a file out. */
export interface IgnoreRule {
  file: string;
  line: string;
}

function dropped(bytes: number): string {
  return bytes > 0 ? `; ${byteSize(bytes)} of development code stay in the build unless NODE_ENV is production` : '';
}

/** Names in an env file of the past. Undefined if it could not be read. */
export interface PastSecrets {
  /** Names whose value there is still the one of today. */
  still?: readonly string[] | undefined;
  /** Names without a value of today. */
  unknown?: readonly string[] | undefined;
}

function withNames(still: readonly string[] = [], unknown: readonly string[] = []): string {
  const names = [...still, ...unknown];
  return names.length === 0 ? '' : `, with ${someWords(names, MOST_NAMES)}`;
}

/** Clones keep a file even if the history is rewritten, so values are all that can be changed. */
function rotateNames(still: readonly string[] = [], unknown: readonly string[] = []): string {
  const all = still.length + unknown.length === 0;
  const rotate = `rotate ${all ? 'every value in it' : someWords([...still, ...unknown], MOST_NAMES)}, as every clone has the file`;
  if (!all && unknown.length === 0) return rotate;
  const rest = all ? 'this' : someWords(unknown, MOST_NAMES);
  return `${rotate}; ${thenAccept}, because no file here tells whether ${rest} was rotated`;
}

export const repoWords = words({
  'repo/misnamed': {
    meaning: 'a layer or an ignore file is missing, and a file beside it has nearly its name',
    help: 'Examples: `.env.txt` or `.gitignore.txt`, saved by an editor that adds an extension, or `.evn`. Rename the file, or list it in the layers of the stage.',
    variants: {
      file: ({ layer, found, name }: { layer: string; found: string; name: string }) => ({
        message: `${layer} is missing, and ${found} has nearly the same name`,
        remedy: `rename it to ${name}, or name it in the layers of the stage`,
      }),
      'ignore-file': ({ found, name }: { found: string; name: string }) => ({
        message: `no program reads ${found}, so nothing that it lists is ignored`,
        remedy: `rename it to ${name}`,
      }),
    },
  },
  'repo/tracked': {
    meaning: 'git tracks a file with secrets',
    help: 'An env file with build or server values, or a private key, is tracked: everybody who has the repository has it. Remove it from the index (`git rm --cached FILE`), ignore it, and rotate the values, because they stay in the history.',
    variants: {
      values: ({ path, names, ignore }: { path: string; names: readonly string[]; ignore: IgnoreRule }) => ({
        message: `git tracks ${path}, which contains values of ${someWords(names, MOST_NAMES)}`,
        remedy: untrack(path, ignore),
      }),
      key: ({ path, ignore }: { path: string; ignore: IgnoreRule }) => ({
        message: `git tracks ${path}, which contains a private key`,
        remedy: untrack(path, ignore),
      }),
      state: ({ path, folder, parts, files, hasHistory }: TrackedState) => ({
        message: `git tracks ${path}${files > 1 ? ` and ${count(files - 1, 'more file')}` : ''}: Adder's state, which belongs to one machine`,
        remedy: hasHistory
          ? steps`run \`${run('git', 'rm', '-r', '--cached', ...parts)}\` and \`${run('adder', 'key', '--rotate', ...contractOf(folder))}\`: whoever has the repository has the old key`
          : steps`run \`${run('git', 'rm', '-r', '--cached', folder)}\` and \`${run('rm', '-r', folder)}\`; the next build makes a new key`,
      }),
      value: ({ path, variable, recorded }: { path: string; variable: string; recorded?: Recorded | undefined }) => ({
        message: `git tracks ${path}, which contains ${wholeValueText(variable, recorded)}`,
        remedy: recorded?.to === undefined ? removeFromFile : removeReplaced,
      }),
      token: ({ path, shape }: { path: string; shape: string }) => ({
        message: `git tracks ${path}, which contains a ${shape}`,
        remedy: removeFromFile,
      }),
    },
  },
  'repo/not-ignored': {
    meaning: 'git does not ignore a file for secrets',
    help: 'The next `git add .` would add it. Add the line in the remedy to `.gitignore`. Layers that do not exist yet are checked too, because somebody will create them.',
    variants: {
      absent: ({ path, ignore }: { path: string; ignore: IgnoreRule }) => ({
        message: `${path} is not ignored by git, and does not exist yet: once created, the next \`git add .\` adds it`,
        remedy: addLine(ignore),
      }),
      values: ({ path, names, ignore }: { path: string; names: readonly string[]; ignore: IgnoreRule }) => ({
        message: `${path} is not ignored by git, and contains values of ${someWords(names, MOST_NAMES)}`,
        remedy: addLine(ignore),
      }),
      local: ({ path, ignore }: { path: string; ignore: IgnoreRule }) => ({
        message: `${path} is not ignored by git, and is a local file`,
        remedy: addLine(ignore),
      }),
    },
  },
  'repo/in-history': {
    meaning: 'the git history contains an env file, or a current value',
    help: 'A removed file is still in every clone. Rotate the values that it contained; nothing else helps. Rewriting the history does not change existing clones.',
    variants: {
      file: ({ path, first, last, still, unknown }: Span & PastSecrets) => ({
        message: `the git history contains ${path}, from ${first.id} (${first.day}) to ${last.id} (${last.day})${withNames(still, unknown)}`,
        remedy: rotateNames(still, unknown),
      }),
      value: ({ variable, stages, path, first, last, recorded }: Span & ValueInGit) => ({
        message: `the git history contains ${recorded ? wholeValueText(variable, recorded) : `the ${joinWords(stages)} value of ${variable}`}: ${path}, first in ${first.id} (${first.day}), last changed in ${last.id} (${last.day})`,
        remedy: `rotate ${variable}: every clone contains it`,
      }),
    },
  },
  'repo/example-drift': {
    meaning: 'the example file does not match the contract',
    help: 'New team members copy the example file. It lacks a name, has one that is not in the contract, or contains a real value. Run `adder emit example --save .env.example`: it writes its own file again, adds to one that was written by hand what that lacks, and leaves the rest as it is; `--check` keeps it up to date.',
    variants: {
      value: (f: { path: string; name: string; variable: string; of: string; stage: string }) => ({
        message: `${f.path} contains the ${f.stage} value of ${f.of} as ${f.name}`,
        remedy: removeFromExample,
      }),
      token: ({ path, name, shape }: { path: string; name: string; shape: string }) => ({
        message: `${path} contains ${shape} as ${name}`,
        remedy: removeFromExample,
      }),
      extra: ({ path, name, near }: { path: string; name: string; near: readonly string[] }) => ({
        message: `${name} is in ${path}, but not in the contract`,
        remedy: near.length > 0 ? `did you mean ${joinWords(near, 'or')}?` : 'remove the line, or declare the name',
      }),
      lacks: ({ path, names }: { path: string; names: readonly string[] }) => ({
        message: `${path} lacks ${joinWords(names)}`,
        remedy: steps`run \`${run('adder', 'emit', 'example', '--save', path)}\``,
      }),
    },
  },
  'repo/packed': {
    meaning: 'something that ships includes an env file',
    help: 'Examples: an app manifest that lists `.env` among its assets, an env file in a public directory, `COPY . .` in a container file whose ignore file lacks env files, `files` of a package manifest. Exclude the file. As a warning: a pipeline stores a build cache, which may contain build values.',
    variants: {
      'copied-directory': ({ path }: { path: string }) => ({
        message: `${path} is in a directory that the build copies into its output`,
        remedy: 'move it elsewhere, and rotate the values in it',
      }),
      asset: (f: { path: string; file: string; asset: string; loaders: readonly string[] }) => ({
        message: `${f.file} is packed into the app: ${f.path} lists ${f.asset} among its assets`,
        remedy: `remove it from the assets${
          f.loaders.length === 0 ? '' : `, with the code that loads it (${someWords(f.loaders, MOST_FILES)})`
        }, and pass the values at build time: adder emit defines`,
      }),
      published: (f: { path: string; file: string; ignoreFile: string; isIgnoredElsewhere: boolean }) => ({
        message: `${f.file} would be published with the package: ${f.path} has no \`files\`, and ${
          f.isIgnoredElsewhere
            ? 'packing does not read the rule by which git ignores it'
            : `no ${f.ignoreFile} leaves it out`
        }`,
        remedy: 'add "private": true or "files" to the manifest',
      }),
      listed: ({ path, file, pattern }: { path: string; file: string; pattern: string }) => ({
        message: `${file} is published with the package: \`files\` in ${path} has ${pattern}`,
        remedy: 'remove it from `files`',
      }),
      named: ({ path, file }: { path: string; file: string }) => ({
        message: `${file} is packed into the app: ${path} lists it`,
        remedy: 'remove it there',
      }),
      packager: ({ files }: { files: readonly string[] }) => ({
        message: `${packedFiles(files)}: Electron Packager takes every file`,
        remedy: 'add `/\\/\\.env/` to its `ignore`',
      }),
      builder: ({ files, rules }: { files: readonly string[]; rules: readonly string[] }) => ({
        message: `${packedFiles(files)}: electron-builder takes every file that \`files\` does not leave out`,
        remedy: `add ${rules.map((rule) => `'${rule}'`).join(' and ')} at the end of \`files\``,
      }),
      archive: ({ path, script, file }: { path: string; script: string; file: string }) => ({
        message: `the script ${script} in ${path} packs the whole directory, including ${file}`,
        remedy: 'list what to pack, or exclude the env files',
      }),
      image: (f: { folder: string; files: readonly string[]; line: string; isFinal: boolean }) => ({
        message: `${joinWords(f.files.map((file) => f.folder + file))} ${f.files.length === 1 ? 'is' : 'are'} copied into the ${f.isFinal ? 'image' : "image's build stage"}: ${f.line}`,
        remedy: `add the ${f.files.length === 1 ? 'line' : 'lines'} ${joinWords(f.files)} to ${f.folder}.dockerignore`,
      }),
      app: ({ name, by }: { name: string; by: string }) => ({
        message: `${by} puts all of ${name} into the app`,
        remedy: 'read single public values at build time, and rotate the secrets in the file',
      }),
      cache: ({ path, stored, tool }: { path: string; stored: string; tool: string }) => ({
        message: `${path} stores ${stored} between runs, a ${tool} cache that may contain build values`,
        remedy: 'run `adder inspect --caches` to see what it contains; store installed packages, not build caches',
      }),
      state: ({ path }: { path: string }) => ({
        message: `${path} caches .adder, which contains the fingerprint key`,
        remedy: 'remove .adder from what the pipeline stores; run `adder inspect` in the job that built',
      }),
    },
  },
  'repo/pipeline-gap': {
    meaning: 'a pipeline builds a stage and does not provide what the stage needs',
    help: 'The workflow does not set a required variable that no file in the repository has, sets it under a misspelt name, or never names the stage. `adder emit needs --stage STAGE` lists what a pipeline provides.',
    variants: {
      misspelt: ({ path, name, variable }: { path: string; name: string; variable: string }) => ({
        message: `${path} sets ${name}; the contract calls it ${variable}`,
        remedy: `rename it to ${variable}`,
      }),
      'misspelt-for-build': (f: { path: string; name: string; variable: string; stage: string }) => ({
        message: `${f.path} builds ${f.stage} with ${f.name}; the contract calls it ${f.variable}`,
        remedy: `rename it to ${f.variable}`,
      }),
      lacks: ({ path, variable, stage }: { path: string; variable: string; stage: string }) => ({
        message: `${path} builds ${stage} without ${variable}, which no file in the repository sets`,
        remedy: steps`set it from the pipeline's secret store; \`${run('adder', 'emit', 'needs', '--stage', stage)}\` lists all`,
      }),
      'no-stage': (f: { path: string; stages: readonly string[]; command: string }) => ({
        message: `${f.path} runs a build without a stage`,
        remedy: `run \`adder with ${f.stages.join('|')} -- ${f.command}\``,
      }),
      ignored: ({ path, variable, stage }: { path: string; variable: string; stage: string }) => ({
        message: `${path} sets ${variable} for a build of ${stage}, which ignores it: its layers lack \`process\``,
        remedy: `add \`process\` to the layers of ${stage}`,
      }),
      extra: ({ path, name, stage }: { path: string; name: string; stage: string }) => ({
        message: `${path} sets ${name} for a build of ${stage}, but it is not in the contract`,
        remedy: 'remove it, or declare it in the contract',
      }),
    },
  },
  'repo/literal-in-pipeline': {
    meaning: 'a secret is hard-coded in a pipeline or hosting file',
    help: 'A workflow file contains the value of a build or server variable. Move it to the secret store of the pipeline, refer to it there, and rotate it.',
    variants: {
      value: ({ path, name, shape }: { path: string; name: string; shape?: string | undefined }) => ({
        message: `hard-coded ${name} in ${path}${shape === undefined ? '' : ` (${shape})`}`,
        remedy: "move it to the pipeline's secret store, refer to it there, and rotate it",
      }),
    },
  },
  'repo/workspace': {
    meaning: 'a configuration of a workspace file builds the values of another stage',
    help: 'Examples: in `angular.json`, the configuration `production` replaces `environment.ts` by `environment.staging.ts`, or replaces a file that no code imports; or `ng serve` builds production. Each configuration gets the file of its own stage, and a dev server the development configuration.',
    variants: {
      values: ({
        configuration,
        file,
        stages,
      }: {
        configuration: string;
        file: string;
        stages: readonly string[];
      }) => ({
        message: `the configuration ${configuration} ships ${file}, the values of ${joinWords(stages)}`,
        remedy: `replace the file by the one of ${configuration}`,
      }),
      replaced: ({ configuration, file, usual }: { configuration: string; file: string; usual: string }) => ({
        message: `the configuration ${configuration} replaces ${file}, and other configurations replace ${usual}`,
        remedy: `replace ${usual}, if that is the file which code imports`,
      }),
      missing: ({ configuration, file }: { configuration: string; file: string }) => ({
        message: `${configuration === '' ? 'a replacement' : `the configuration ${configuration}`} names ${file}, which does not exist`,
        remedy: 'correct the path',
      }),
      built: (f: {
        configuration: string;
        application: string;
        of: string;
        stage: string;
        right?: string | undefined;
      }) => ({
        message: `this command builds the configuration ${f.configuration} of ${f.application}, which has the values of ${f.of}, not of ${f.stage}`,
        remedy:
          f.right === undefined
            ? `add a configuration of ${f.stage} to the workspace, and build it`
            : `build the configuration ${f.right}: \`ng build --configuration ${f.right}\`; in the contract, \`build: ng build --configuration {stage}\` builds that of each stage`,
      }),
      served: (f: { application: string; configuration: string; builds: string; stage: string; key: string }) => ({
        message: `the dev server of ${f.application}${f.configuration === '' ? '' : ` in the configuration ${f.configuration}`} builds ${f.builds}`,
        remedy: `let it build ${f.stage}: \`"${f.key}": "${f.application}:build:${f.stage}"\``,
      }),
    },
  },
  'repo/dependency-reads': {
    meaning: 'a dependency in the bundle reads environment variables',
    help: 'A package reads `process.env.NAME`. Where the build does not replace it, it is undefined or throws. Most packages read only NODE_ENV, to drop development code; `adder with` sets it.',
    variants: {
      names: (f: { package: string; bundle: string; names: readonly string[]; bytes: number }) => ({
        message: `${f.package}, a package in ${f.bundle}, reads ${listed(f.names)}${dropped(f.bytes)}`,
        remedy: `check that the build replaces these names, or that the package works without them; ${thenAccept}`,
      }),
      mode: ({ packages, bundle, bytes }: { packages: readonly string[]; bundle: string; bytes: number }) => ({
        message: `${packages.length === 1 ? '1 package' : `${packages.length} packages`} in ${bundle} ${packages.length === 1 ? 'reads' : 'read'} NODE_ENV: ${listed(packages)}${dropped(bytes)}`,
        remedy: `check that builds that ship have NODE_ENV=production, as \`adder with\` gives it; ${thenAccept}`,
      }),
    },
  },
});

function packedFiles(files: readonly string[]): string {
  return `${someWords(files, MOST_FILES)} ${files.length === 1 ? 'is' : 'are'} packed into the app`;
}

/** The end of a remedy that only a person can check. */
const thenAccept = 'then accept the finding (`adder accept`)';

/** Words that name the contract beside a directory of Adder's, unless it is the present one's. */
function contractOf(folder: string): string[] {
  const parent = folder.split('/').slice(0, -1).join('/');
  return parent === '' ? [] : ['--contract', `${parent}/adder.yaml`];
}

const removeFromFile = 'remove it from the file, and rotate it: the history keeps it';
const removeReplaced = 'remove it from the file, and make sure that whoever issued it no longer accepts it';
const removeFromExample = 'remove it, and rotate the value: everybody reads the example file';

function untrack(path: string, { line, file }: IgnoreRule) {
  return steps`run \`${run('git', 'rm', '--cached', path)}\`, add the line ${line} to ${file}, and rotate the values: they stay in the history`;
}

function addLine({ line, file }: IgnoreRule): string {
  return `add the line ${line} to ${file}`;
}

function listed(names: readonly string[]): string {
  const more = names.length - MOST_PACKAGES;
  return joinWords([...names.slice(0, MOST_PACKAGES), ...(more > 0 ? [`${more} more`] : [])]);
}
