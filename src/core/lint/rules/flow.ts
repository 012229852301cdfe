import type { Bundle } from '../../contract/contract.js';
import { scriptLanguage } from '../../files/languages.js';
import { finding } from '../../findings/finding.js';
import type { Read } from '../../reads/read.js';
import { joinedName } from '../../resolve/keyed.js';
import { DataFlow } from '../../syntax/data-flow.js';
import { type Node, parseSyntax } from '../../syntax/parse.js';
import { isTypeOnly, walk } from '../../syntax/walk.js';
import { toolchainOf, valueModules } from '../../toolchains/index.js';
import { liveModules, readFrom } from '../../toolchains/read-from.js';
import type { Destination } from '../../words/code.js';
import { type LintContext, type LintFinding, placed, type SourceText, shipsAsItIs } from '../model.js';
import { sinks } from '../sinks.js';

/** Finds the whole object in browser code, and server values that code passes to the browser. */
export function flowRules(context: LintContext): LintFinding[] {
  return [...context.files.values()].flatMap((file) => {
    const code = context.bundles.find(({ shipped }) => shipped.has(file.path));
    if (code && shipsAsItIs(context, code, file.path)) return [];
    if (code && code.bundle.runs !== 'server') return wholeObjects(context, file, code.bundle);
    // Server code without reads of its own may send what it imports.
    const matters = file.reads.length > 0 || context.bundles.some(({ onServer }) => onServer.has(file.path));
    return matters && scriptLanguage(file.path) ? new FileFlow(context, file).findings() : [];
  });
}

function wholeObjects(context: LintContext, file: SourceText, bundle: Bundle): LintFinding[] {
  const { reads } = toolchainOf(bundle);
  // Where the object is there, or every read of it is replaced, a test of it does no harm.
  const isThere = (object: string) =>
    context.hasPlugin(bundle.name) || reads.some(({ from, inlinesObject }) => from === object && inlinesObject);
  return file.reads
    .filter(({ kind }) => kind === 'whole' || kind === 'spread')
    .flatMap(({ isTest, object, start, end }) => {
      const more = { bundle: bundle.name, ...placed(context, file, start, end) };
      if (!isTest || !isThere(object)) return [finding('code/whole-object', 'browser', { object }, more)];
      const versions = reads.find(({ from }) => from === object)?.broughtByAnd;
      if (isTest !== '&&' || !versions || context.hasPlugin(bundle.name)) return [];
      return [finding('code/whole-object', 'tested', { object, versions }, { ...more, level: 'note' })];
    });
}

/** A read of one build or server variable, of the whole object, or of a name that is chosen at run time. */
type Cargo = Read & { isWhole: boolean };

/** How many imports are followed, one after the other. */
const MOST_STEPS = 4;

/** The flow of environment values through one file, and through the files that it imports. A signature is not a key. */
class FileFlow {
  readonly #found: LintFinding[] = [];
  readonly #reported = new Set<Node>();
  /** Files that this one imports, each parsed once. */
  readonly #others = new Map<string, FileFlow>();
  readonly #flow: DataFlow<Cargo> | undefined;

  constructor(
    readonly context: LintContext,
    readonly file: SourceText,
    readonly depth = 0,
  ) {
    const language = scriptLanguage(file.path);
    if (!language) return;
    const reads = file.reads.flatMap((read) => this.#cargoOf(read) ?? []);
    const modules = new Map(reads.flatMap((one) => (one.kind === 'import' && one.name ? [[one.name, one]] : [])));
    this.#flow = new DataFlow({
      program: parseSyntax(file.text, language).program,
      cargo: new Map(reads.map((one) => [`${one.start}:${one.end}`, one])),
      imported: (specifier, name) =>
        valueModules.has(specifier) || liveModules.has(specifier) ? modules.get(name) : this.#ofFile(specifier, name),
    });
  }

  #cargoOf(read: Read): Cargo | undefined {
    const isWhole = /^(whole|spread)$/.test(read.kind) || (read.kind === 'computed' && read.name === undefined);
    const name = this.#variableRead(read);
    const variable = name === undefined ? undefined : this.context.contract.variables.get(name);
    if (!isWhole && (!variable || variable.reach === 'public')) return undefined;
    return { ...read, isWhole, ...(name !== undefined && { name }) };
  }

  /** The variable of a read; a key of a runtime configuration has one that overrides it. */
  #variableRead({ name, object }: Read): string | undefined {
    if (name === undefined || readFrom(object)?.kind !== 'config') return name;
    const { bundles } = this.context;
    const prefix = bundles.flatMap(({ bundle }) => toolchainOf(bundle).runtimePrefix ?? [])[0];
    return prefix === undefined
      ? name
      : prefix + joinedName([...object.matchAll(/\.(public)\b/g)].map(() => 'public').concat(name.split('.')));
  }

  findings(): LintFinding[] {
    const { program } = this.#flow?.source ?? {};
    if (program)
      walk(program, (node, ancestors) => {
        if (isTypeOnly(node)) return false;
        for (const sink of sinks)
          if (sink.type === node.type)
            for (const value of sink.values(node, ancestors))
              if (value)
                this.#report(value, sink.type === 'ArrowFunctionExpression' ? [...ancestors, node] : ancestors, sink);
        return undefined;
      });
    return this.#found;
  }

  #ofFile(specifier: string, name: string): Cargo | undefined {
    if (this.depth >= MOST_STEPS) return undefined;
    const path = this.context.resolve(this.file.path, specifier);
    const file = path === undefined || path === this.file.path ? undefined : this.context.files.get(path);
    // Most files read nothing, and import nothing that does.
    if (!file || (file.reads.length === 0 && file.imports.length === 0)) return undefined;
    const other = this.#others.get(file.path) ?? new FileFlow(this.context, file, this.depth + 1);
    this.#others.set(file.path, other);
    return other.#flow?.exported(name);
  }

  #report(expression: Node, ancestors: readonly Node[], { to, wholeOnly }: (typeof sinks)[number]): void {
    for (const { cargo, at } of this.#flow?.carriedBy(expression, ancestors) ?? []) {
      // An inner expression is part of an outer one, which was already reported.
      if ((wholeOnly === true && !cargo.isWhole && !this.#isOnServer()) || this.#reported.has(at)) continue;
      this.#reported.add(at);
      this.#found.push(this.#finding(cargo, at, to));
    }
  }

  #isOnServer(): boolean {
    return this.context.bundles.some(({ onServer }) => onServer.has(this.file.path));
  }

  #finding({ isWhole, kind, object, name = '' }: Cargo, { start, end }: Node, to: Destination): LintFinding {
    const bundle = this.context.bundles.find(({ onServer }) => onServer.has(this.file.path))?.bundle.name;
    const at = { ...(bundle && { bundle }), ...placed(this.context, this.file, start, end) };
    if (isWhole) {
      const about = { object, isComputed: kind === 'computed', to };
      return finding('code/whole-object', 'sent', about, { ...at, level: 'error' });
    }
    const reach = this.context.contract.variables.get(name)?.reach ?? 'server';
    const level = to === 'log' ? { level: 'warning' as const } : {};
    return finding('code/server-read', 'sent', { variable: name, reach, to }, { ...level, ...at });
  }
}
