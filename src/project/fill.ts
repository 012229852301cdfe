import type { Stage, Variable } from '../core/contract/contract.js';
import { parseEnvFile } from '../core/envfile/parse.js';
import { setEnvValue } from '../core/envfile/write.js';
import { isEnvFileName } from '../core/files/file-kinds.js';
import { ignoreLineFor } from '../core/files/ignore-line.js';
import { isLocalFile } from '../core/files/value-files.js';
import { Failure } from '../core/findings/failure.js';
import { limits } from '../core/limits/index.js';
import { valueProblem } from '../core/resolve/value-rules.js';
import { quoted } from '../core/text/display.js';
import { describeFileError, type Files } from '../host/files.js';
import { trackingOf } from '../host/version-control.js';
import type { World } from '../host/world.js';
import type { Project } from './open.js';
import { StageResolver } from './resolve.js';

/** The variables of a stage that have no value, or none that can be used, and need one. */
export function unfilled(project: Project, stage: Stage, world: World): Variable[] {
  const { asked } = new StageResolver(project, world).for(stage);
  return [...asked.values.values()]
    .filter(({ state, variable }) => {
      const wrong = state === 'missing' || state === 'malformed';
      return (
        wrong ||
        (state === 'empty' &&
          asked.findings.some((one) => one.code === 'value/empty' && one.variable === variable.name))
      );
    })
    .map(({ variable }) => variable);
}

/**
 * The stage's most local env file: the last one whose name says that it is local, or else the last one.
 * @throws Failure if the stage has no env file
 */
export function localFile(stage: Stage): string {
  const files = stage.layers.flatMap((layer) =>
    layer.kind === 'file' && isEnvFileName(layer.name) ? [layer.name] : [],
  );
  const file = files.findLast(isLocalFile) ?? files.at(-1);
  if (file !== undefined) return file;
  throw new Failure(
    `${stage.name} has no env file among its layers`,
    'add one to its layers, such as .env.local, and add it to .gitignore',
  );
}

/** The problem of a given value, as a phrase; undefined if it is valid. */
export function problemOf(variable: Variable, text: string, stage: Stage): string | undefined {
  if (text === '') return 'is empty';
  if (text.includes('\0') || !text.isWellFormed()) return 'contains characters that no env file can contain';
  return valueProblem(variable, text, stage.name);
}

/**
 * Tells whether a value may be written into a file: a public one anywhere, any other only where version control does not see it.
 * @throws Failure that says what to do
 */
export function assertMayHold(project: Project, file: string, { name, reach }: Variable): void {
  if (reach === 'public') return;
  const tracking = trackingOf(project.files.path.join(project.root, file));
  if (tracking !== 'tracked' && tracking !== 'would-be-tracked') return;
  const rule = ignoreLineFor(file);
  const why = tracking === 'tracked' ? 'is tracked by git' : 'is not ignored by git';
  throw new Failure(
    `${name} is a ${reach}-only variable, but ${file} ${why}; nothing was written`,
    `run \`echo ${quoted(rule.line)} >> ${quoted(rule.file)}\`${tracking === 'tracked' ? ` and \`git rm --cached ${quoted(file)}\`` : ''}, or add an ignored file such as .env.local to the layers`,
  );
}

function readLayer(files: Files, path: string, file: string): Uint8Array {
  try {
    return files.readRegular(path, limits.envFileBytes.value);
  } catch (error) {
    const why = describeFileError(error);
    throw new Failure(`${file} ${why}; nothing was written`, 'check the file');
  }
}

/** Writes one value with the needed quoting and keeps all other bytes. A new file has mode 0600. */
export function writeValue(project: Project, file: string, { name }: Variable, text: string): void {
  const { files, root } = project;
  const path = files.path.join(root, file);
  files.change(path, { root, mode: 0o600 }, () => {
    const bytes = files.exists(path) ? readLayer(files, path, file) : new Uint8Array();
    const changed = setEnvValue(parseEnvFile(bytes), name, text);
    if (holdsValue(changed, name, text)) return changed;
    throw new Failure(
      `${file} has lines that cannot be parsed, so ${name} could not be read back; nothing was written`,
      'fix the file first; `adder values` shows the lines',
    );
  });
}

function holdsValue(bytes: Uint8Array, name: string, text: string): boolean {
  const value = parseEnvFile(bytes).entries.findLast((entry) => entry.name === name)?.value;
  return (
    value?.every((part) => part.kind === 'text') === true &&
    value.map((part) => (part.kind === 'text' ? part.text : '')).join('') === text
  );
}
