// Makes the projects of the field suite: fetches a template from the npm registry, installs its packages, and commits it, so
// that every run starts from the same state. All of it is in a cache outside the repository.
import { spawnSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';

export const cache = process.env.ADDER_FIELD_CACHE ?? join(tmpdir(), 'adder-field');

/** Without the variables that npm sets for this script, and without telemetry. */
const env = {
  ...Object.fromEntries(Object.entries(process.env).filter(([name]) => !/^npm_|^NODE_ENV$/i.test(name))),
  CI: '1',
  DO_NOT_TRACK: '1',
  NEXT_TELEMETRY_DISABLED: '1',
  ASTRO_TELEMETRY_DISABLED: '1',
  GATSBY_TELEMETRY_DISABLED: '1',
  NG_CLI_ANALYTICS: 'false',
  EXPO_NO_TELEMETRY: '1',
  npm_config_yes: 'true',
};

/** A copy of the built program, so that a build meanwhile does not disturb the suite. */
export const program = join(cache, 'program', 'dist', 'adder.cjs');

export function copyProgram() {
  const folder = dirname(dirname(program));
  rmSync(folder, { recursive: true, force: true });
  cpSync('dist', join(folder, 'dist'), { recursive: true });
  cpSync('package.json', join(folder, 'package.json'));
  symlinkSync(resolve('node_modules'), join(folder, 'node_modules'));
}

/** Lends the program to a project whose build has its plugin. */
export function linkProgram(folder) {
  const path = join(folder, 'node_modules', 'adder');
  if (!existsSync(path)) symlinkSync(dirname(dirname(program)), path);
}

/** Runs a program. @returns its exit code and all of its output */
export function run(folder, command, args, more = {}) {
  const { status, signal, stdout, stderr } = spawnSync(command, args, {
    cwd: folder,
    env: { ...env, ...more },
    encoding: 'utf8',
    timeout: 600_000,
    maxBuffer: 256 * 2 ** 20,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  return { code: status ?? `ended by ${signal}`, text: `${stdout}${stderr}`, stdout };
}

function must(folder, command, args) {
  const { code, text } = run(folder, command, args);
  if (code !== 0) throw new Error(`${command} ${args.join(' ')} ended with ${code}:\n${text.slice(-2000)}`);
}

/** The project's directory, made at the first call. A later run goes back to its first commit. */
export function prepare(project) {
  const folder = join(cache, project.name);
  if (!existsSync(join(folder, '.git', 'ready'))) {
    rmSync(folder, { recursive: true, force: true });
    make(project, folder);
    install(project, folder);
    commit(folder);
  }
  reset(folder);
  return folder;
}

export function reset(folder) {
  must(folder, 'git', ['reset', '--hard', '--quiet', 'base']);
  must(folder, 'git', ['clean', '-fdxq', '-e', 'node_modules', '-e', 'expo-env.d.ts']);
}

function make({ make: from, add = {}, edit = {}, renames = {} }, folder) {
  mkdirSync(dirname(folder), { recursive: true });
  if (from.copies)
    for (const [path, source] of Object.entries(from.copies)) cpSync(source, join(folder, path), { recursive: true });
  else if (from.files) mkdirSync(folder);
  else if (from.command) create(from.command, folder);
  else fetch(from, folder);
  for (const name of readdirSync(folder))
    if (/^_?gitignore$/.test(name)) renameSync(join(folder, name), join(folder, '.gitignore'));
  for (const [path, name] of Object.entries(renames)) renameSync(join(folder, path), join(folder, name));
  for (const [path, text] of Object.entries({ ...from.files, ...add })) write(folder, path, text);
  for (const [path, [before, after]] of Object.entries(edit)) replace(folder, path, before, after);
}

/** Runs a project creator, which makes a directory called `app`. */
function create(command, folder) {
  const parent = `${folder}.new`;
  rmSync(parent, { recursive: true, force: true });
  mkdirSync(parent, { recursive: true });
  must(parent, 'npx', command.split(' '));
  renameSync(join(parent, 'app'), folder);
  rmSync(parent, { recursive: true });
}

function fetch({ package: name, directory = '.', more = [] }, folder) {
  const parent = `${folder}.package`;
  rmSync(parent, { recursive: true, force: true });
  mkdirSync(parent, { recursive: true });
  must(parent, 'npm', ['pack', '--silent', name]);
  const [archive] = readdirSync(parent);
  must(parent, 'tar', ['xzf', archive]);
  for (const one of [...more, directory])
    cpSync(join(parent, 'package', one), one === 'electron' ? join(folder, one) : folder, { recursive: true });
  rmSync(parent, { recursive: true });
}

function install({ install: packages = [], scripts = true }, folder) {
  if (!existsSync(join(folder, 'package.json'))) return;
  const flags = ['--no-audit', '--no-fund', ...(scripts ? [] : ['--ignore-scripts'])];
  if (run(folder, 'npm', ['install', ...flags, ...packages]).code === 0) return;
  must(folder, 'npm', ['install', '--legacy-peer-deps', ...flags, ...packages]);
}

/** The template may have its own repository, which is replaced. */
function commit(folder) {
  rmSync(join(folder, '.git'), { recursive: true, force: true });
  if (!existsSync(join(folder, '.gitignore'))) write(folder, '.gitignore', 'node_modules\ndist\n');
  must(folder, 'git', ['init', '--quiet']);
  must(folder, 'git', ['add', '.']);
  const as = ['-c', 'user.name=field', '-c', 'user.email=field@saltmarsh.example'];
  must(folder, 'git', [...as, 'commit', '--quiet', '-m', 'Template']);
  must(folder, 'git', ['tag', 'base']);
  writeFileSync(join(folder, '.git', 'ready'), '');
}

/** The installed version of a project's framework, for the table. */
export function versionsIn(folder, name) {
  if (name === undefined) return 'stand-in';
  const path = join(folder, 'node_modules', name, 'package.json');
  return existsSync(path) ? `${name} ${JSON.parse(readFileSync(path, 'utf8')).version}` : '';
}

export function write(folder, path, text) {
  mkdirSync(join(folder, dirname(path)), { recursive: true });
  writeFileSync(join(folder, path), text);
}

export function replace(folder, path, before, after) {
  const text = readFileSync(join(folder, path), 'utf8');
  if (typeof before === 'string' && !text.includes(before)) throw new Error(`${path} has no ${JSON.stringify(before)}`);
  writeFileSync(
    join(folder, path),
    text.replace(before, () => after),
  );
}
