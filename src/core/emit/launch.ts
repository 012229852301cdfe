import { applyEdits, modify, type ParseError, parse, parseTree, printParseErrorCode } from 'jsonc-parser';
import type { Bundle, Contract, Stage } from '../contract/contract.js';
import { readsFrom } from '../contract/names.js';
import { Failure } from '../findings/failure.js';
import { textPlaces } from '../text/positions.js';
import { toolchainOf } from '../toolchains/index.js';
import { definesPath } from './defines.js';
import { emitKind } from './kind.js';

/** The two files of an editor's directory, in the formats of Visual Studio Code (JSON with comments). */
export const launchFiles = { launch: 'launch.json', tasks: 'tasks.json' } as const;

type LaunchTexts = Record<keyof typeof launchFiles, string>;

/** The process that an editor starts for a bundle. */
export interface Start {
  /** The directory of its package, from the contract's. */
  folder: string;
  /** The command of its dev server, if it has one. */
  command?: string;
}

/** Facts about a project for its run configurations. */
export interface LaunchProject {
  /** How each bundle starts, by its name. */
  starts: ReadonlyMap<string, Start>;
  /** The command of Adder: `npx adder` only where the package is installed, as npx would fetch another one elsewhere. */
  program: 'adder' | 'npx adder';
}

/** Run configurations of an editor, one for each bundle and stage, so that a stage is picked from a list. */
export const launch = emitKind({
  name: 'launch',
  summary:
    "an editor's run configurations for each bundle and stage (--into .vscode merges them into launch.json and tasks.json, --into .run writes a file for each)",
  takes: [],
  delivery: 'editor',
  emit({ contract }) {
    const { launch: first, tasks } = mergeLaunch(contract, { starts: new Map(), program: 'npx adder' }, {});
    return `{\n"${launchFiles.launch}": ${first.trimEnd()},\n"${launchFiles.tasks}": ${tasks.trimEnd()}\n}\n`;
  },
});

/**
 * The merged files: entries of the same name are replaced; everything else stays, including comments.
 * @param texts the files as they are
 * @throws Failure with the line where one of them is no JSON
 */
export function mergeLaunch(
  contract: Contract,
  { starts, program }: LaunchProject,
  texts: Partial<LaunchTexts>,
): LaunchTexts {
  const pairs = [...contract.bundles.values()].flatMap((bundle) =>
    [...contract.stages.values()].map((stage) => ({
      bundle,
      stage,
      start: starts.get(bundle.name) ?? { folder: '.' },
    })),
  );
  const configurations = pairs.flatMap(({ bundle, stage, start }) => configuration(bundle, stage, start, program));
  const tasks = pairs.flatMap(({ bundle, stage }) => [
    ...definesTask(bundle, stage, program),
    ...buildTask(bundle, stage, program),
  ]);
  return {
    launch: withEntries(
      launchFiles.launch,
      texts.launch ?? '{ "version": "0.2.0" }',
      'configurations',
      'name',
      configurations,
    ),
    tasks: withEntries(launchFiles.tasks, texts.tasks ?? '{ "version": "2.0.0" }', 'tasks', 'label', tasks),
  };
}

type Entry = Record<string, unknown>;
type Program = LaunchProject['program'];

/** The editor puts its own directory here. */
const WORKSPACE = '${workspaceFolder}';

export const titleOf = (bundle: Bundle, stage: Stage) => `${bundle.name} (${stage.name})`;
const definesLabel = (bundle: Bundle, stage: Stage) => `adder: values of ${titleOf(bundle, stage)}`;
const takesDefines = (bundle: Bundle) => readsFrom(bundle).kind === 'compiled';

function configuration(bundle: Bundle, stage: Stage, { folder, command }: Start, program: Program): Entry[] {
  const cwd = folder === '.' ? WORKSPACE : `${WORKSPACE}/${folder}`;
  const name = titleOf(bundle, stage);
  if (takesDefines(bundle)) {
    const file = `${WORKSPACE}/${definesPath(bundle.name, stage.name)}`;
    const toolArgs = [`--dart-define-from-file=${file}`];
    return [
      {
        name,
        type: toolchainOf(bundle).launches ?? 'node',
        request: 'launch',
        cwd,
        preLaunchTask: definesLabel(bundle, stage),
        toolArgs,
      },
    ];
  }
  if (command === undefined) return [];
  const started = `${program} with ${stage.name} --bundle ${bundle.name} -- ${command}`;
  return [{ name, type: 'node-terminal', request: 'launch', cwd, command: started }];
}

function definesTask(bundle: Bundle, stage: Stage, program: Program): Entry[] {
  if (!takesDefines(bundle)) return [];
  const file = definesPath(bundle.name, stage.name);
  const words = `emit defines --bundle ${bundle.name} --stage ${stage.name} --save ${file}`.split(' ');
  return [task(program, definesLabel(bundle, stage), words, { presentation: { reveal: 'silent' } })];
}

/** A build that ships is never started from the list above: its command is adder with. */
function buildTask(bundle: Bundle, stage: Stage, program: Program): Entry[] {
  if (bundle.build === undefined) return [];
  const words = ['with', stage.name, '--bundle', bundle.name];
  return [task(program, `adder: build ${titleOf(bundle, stage)}`, words, { group: 'build' })];
}

function task(program: Program, label: string, words: readonly string[], more: Entry): Entry {
  const [command, ...first] = program.split(' ');
  return { label, type: 'process', command, args: [...first, ...words], problemMatcher: [], ...more };
}

function withEntries(file: string, text: string, list: string, key: string, entries: readonly Entry[]): string {
  assertJson(file, text);
  const style = { formattingOptions: { insertSpaces: true, tabSize: 2, eol: text.includes('\r\n') ? '\r\n' : '\n' } };
  let result = text;
  for (const entry of entries) {
    const there: Entry[] = parse(result)?.[list] ?? [];
    const at = there.findIndex((one) => one[key] === entry[key]);
    if (at >= 0 && JSON.stringify(there[at]) === JSON.stringify(entry)) continue;
    const place = [list, at < 0 ? there.length : at];
    result = applyEdits(result, modify(result, place, entry, { ...style, isArrayInsertion: at < 0 }));
  }
  return result.endsWith('\n') ? result : `${result}\n`;
}

function assertJson(file: string, text: string): void {
  const errors: ParseError[] = [];
  const tree = parseTree(text, errors, { allowTrailingComma: true });
  const [first] = errors;
  if (!first && tree?.type === 'object') return;
  const { line, column } = textPlaces(text)(first?.offset ?? 0);
  throw new Failure(
    `${file}:${line}:${column} is not valid JSON with comments (${first ? printParseErrorCode(first.error) : 'not an object'}); nothing was written`,
    'fix the file, or use another directory',
  );
}
