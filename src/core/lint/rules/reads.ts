import { type Bundle, type Variable, whereCodeGoes } from '../../contract/contract.js';
import { nameIn, prefixOf, readsFrom, replacedObjects, withoutPrefix } from '../../contract/names.js';
import { finding, type RawFinding } from '../../findings/finding.js';
import { isDartConstant } from '../../reads/dart.js';
import { usualObjects } from '../../reads/index.js';
import { namesSetIn, type Read, readKinds } from '../../reads/read.js';
import { editDistance } from '../../text/nearest.js';
import { isIn } from '../../text/ranges.js';
import { isReadOfMachine, toolchainOf } from '../../toolchains/index.js';
import { isForeignName } from '../../toolchains/known-names.js';
import { isReadLate, readExpression, readFrom } from '../../toolchains/read-from.js';
import { defineOption, type ReadForm, usualForms, type WayToRead } from '../../toolchains/toolchain.js';
import { aliasAsObject } from '../aliased.js';
import { literalReads } from '../destructured.js';
import type { BundleCode, LintContext, LintFinding, SourceText } from '../model.js';
import { placed, shipsAsItIs } from '../model.js';
import { Names } from '../names.js';
import { renamedImport } from '../renamed.js';
import { readAtRun } from './native.js';

/** Reads of one value in code that reaches the browser, held against what its bundle gets. */
export function readRules(context: LintContext): LintFinding[] {
  return context.bundles
    .filter(({ bundle }) => bundle.runs !== 'server')
    .flatMap((code) => new BundleReads(context, code).findings());
}

class BundleReads {
  readonly #names: Names;
  readonly #objects: readonly string[];
  /** Names of the contract that code reads, and that the configuration lists or not. */
  readonly #unchecked = new Set<string>();

  constructor(
    readonly context: LintContext,
    readonly code: BundleCode,
  ) {
    this.#names = new Names(context.contract, code.bundle, context.settings(code.bundle));
    this.#objects = replacedObjects(code.bundle).filter((object) => !isOfServer(code.bundle, object));
  }

  findings(): LintFinding[] {
    const found = [...this.code.shipped.keys()].flatMap((path) => {
      const file = this.context.files.get(path);
      if (!file) return [];
      const onServer = this.code.serverParts.get(path) ?? [];
      const shipped = file.reads.filter(({ start }) => !isIn(onServer, start));
      return shipped.flatMap((read) => this.#read(file, read));
    });
    return [...found, ...this.#notKnown()];
  }

  /** Reads of names that only a build tells, as one finding. */
  #notKnown(): LintFinding[] {
    const inlined = this.context.inlined(this.code.bundle);
    if (!inlined || this.#unchecked.size === 0) return [];
    const { name: bundle } = this.code.bundle;
    const about = { bundle, names: [...this.#unchecked].sort() };
    const place = { path: inlined.path, inside: [] };
    return [finding('code/unreachable-read', 'not-known', about, { bundle, place, level: 'note' })];
  }

  #read(file: SourceText, read: Read): LintFinding[] {
    const { name, kind } = read;
    if (shipsAsItIs(this.context, this.code, file.path)) return this.#inCopy(file, read);
    if (kind === 'whole' || kind === 'spread') return [];
    if (isReadOfMachine(this.code.bundle, file.path, read.object)) return this.#ofMachine(file, read);
    if (kind === 'assigned') return this.#assigned(file, read);
    if (name === undefined) return [this.#unnamed(file, read)];
    const meaning = this.#names.meaningOf(name, read.object);
    switch (meaning.kind) {
      case 'withheld':
        // One schema may be for the browser and for the server.
        return kind === 'schema' ? [] : [this.#serverRead(file, read, meaning.variable)];
      case 'misnamed':
        return kind === 'schema' ? [] : [this.#misnamed(file, read, meaning)];
      case 'elsewhere':
        return [
          this.#found(
            file,
            read,
            finding(
              'code/unreachable-read',
              'elsewhere',
              { name, because: meaning.because },
              { variable: meaning.variable.name },
            ),
          ),
        ];
      case 'unknown':
        return (kind === 'in' && !this.#throws(read)) || (kind === 'schema' && meaning.near.length === 0)
          ? []
          : [this.#unknown(file, read, meaning.near)];
      case 'public':
        return this.#replaced(file, read, meaning.variable.name);
      case 'builtIn':
        return [];
    }
  }

  /** Nothing is replaced in a script that is copied: neither the tool nor the plugin sees it. */
  #inCopy(file: SourceText, read: Read): LintFinding[] {
    const { name, object, kind, isTest, isUncertain = false } = read;
    if (isReadLate(object) || kind === 'placeholder' || (name === undefined && isTest)) return [];
    // A directory that is served may hold the scripts of others.
    const isServed = this.code.shipped.get(file.path)?.length === 1;
    if (isServed && (name === undefined || !('variable' in this.#names.meaningOf(name, object)))) return [];
    const { toolchain: tool } = this.code.bundle;
    const about = { read: name ?? object, tool, path: file.path, isUncertain, isServed };
    return [this.#found(file, read, finding('code/unreachable-read', 'copied', about))];
  }

  /** Reads have the value of the build, and where the object is left there is often nothing to write to. */
  #assigned(file: SourceText, read: Read): LintFinding[] {
    if (isReadLate(read.object) || this.code.bundle.runs !== 'browser') return [];
    const { name, object } = read;
    return [
      this.#found(file, read, finding('code/unreachable-read', 'assigned', { name: name ?? `a name of ${object}` })),
    ];
  }

  /** A machine has many variables of its own: only those of the contract are missing there. */
  #ofMachine(file: SourceText, read: Read): LintFinding[] {
    const { bundle } = this.code;
    const meaning = read.name === undefined ? undefined : this.#names.meaningOf(read.name, read.object);
    if (!meaning || !('variable' in meaning)) return [];
    if (meaning.kind === 'public' && this.#isReplacedByPlugin(read)) return [];
    const instead = `write ${this.#expression(nameIn(bundle, meaning.variable))}`;
    return [this.#found(file, read, readAtRun(meaning.variable, bundle, instead))];
  }

  /** A read whose name only the running code knows. */
  #unnamed(file: SourceText, read: Read): LintFinding {
    const { toolchain, name } = this.code.bundle;
    const way = this.#wayOf(read);
    const hasObject = this.context.hasPlugin(name) ? way?.inlinesObjectAnyway : way?.inlinesObject;
    const right = this.#expression('NAME');
    const found = hasObject
      ? finding('code/whole-object', 'computed', { tool: toolchain, right })
      : finding('code/unreachable-read', 'computed', {
          kind: readKinds[read.kind],
          right,
          isVersionDependent: way?.formsOfSomeVersions?.includes('computed') === true,
        });
    return this.#found(file, read, found);
  }

  #serverRead(file: SourceText, read: Read, { name, reach }: Variable): LintFinding {
    const chain = [...(this.code.shipped.get(file.path) ?? [])];
    const { bundle } = this.code;
    const about = {
      ...{ variable: name, name: read.name ?? '', reach, imports: chain },
      ...{ goes: whereCodeGoes(bundle), bundle: bundle.name },
    };
    return this.#found(
      file,
      read,
      finding('code/server-read', 'browser', about, { ...(chain.length > 1 && { chain }) }),
    );
  }

  #misnamed(
    file: SourceText,
    read: Read,
    { variable, mistake, right }: { variable: { name: string }; mistake: string; right: string },
  ): LintFinding {
    const { rendersOnServer = false } = toolchainOf(this.code.bundle);
    const about = { name: read.name ?? '', mistake, right: this.#expression(right), rendersOnServer };
    return {
      ...this.#found(file, read, finding('code/unknown-name', 'misnamed', about, { variable: variable.name })),
      fix: this.#rename(file, read, right),
    };
  }

  #unknown(file: SourceText, read: Read, near: readonly string[]): LintFinding {
    const [only, ...others] = near;
    const about = {
      ...{ name: read.name ?? '', near },
      ...(only !== undefined && this.#isLeftAs(file, read, only) && { right: this.#expression(only) }),
    };
    const found = this.#found(file, read, finding('code/unknown-name', 'undeclared', about));
    const isSlip = only !== undefined && others.length === 0 && editDistance(read.name ?? '', only) <= 2;
    return isSlip && read.kind !== 'schema' ? { ...found, fix: this.#rename(file, read, only) } : found;
  }

  /**
   * Tells whether the build would still not replace a read after its name is corrected. A separate instance checks the corrected read,
   * because the code does not contain it and this instance records the names that it checks.
   */
  #isLeftAs(file: SourceText, read: Read, name: string): boolean {
    return new BundleReads(this.context, this.code).#replaced(file, { ...read, name }, name).length > 0;
  }

  /** A name that the bundle has: is it read in a way that the build replaces? */
  #replaced(file: SourceText, read: Read, variable: string): LintFinding[] {
    const { bundle } = this.code;
    const name = read.name as string;
    const right = this.#expression(name);
    if (/^(import|placeholder|lookup|schema)$/.test(read.kind)) return [];
    if (this.#isReplacedByPlugin(read) && this.#isSkipped(read)) return [this.#guarded(file, read, variable)];
    if (this.#isReplacedByPlugin(read))
      return read.isUncertain
        ? [
            this.#unreachable(file, read, variable, right, (wrong) =>
              finding('code/unreachable-read', 'uncertain', wrong),
            ),
          ]
        : [];
    const exposed = this.#otherPrefixes(file.path, read.object, name);
    if (exposed !== undefined) return [this.#notExposed(file, read, variable, exposed)];
    if (read.kind === 'call' || isReadLate(read.object)) return [];
    // A member of an imported namespace is resolved like an import.
    if (read.kind === 'alias' && readFrom(read.object)?.kind === 'module') return [];
    const { objectsOfSomeVersions = [] } = toolchainOf(bundle);
    const isDefined = this.context.settings(bundle).defined.includes(writtenRead(read));
    if (!isDefined && objectsOfSomeVersions.includes(read.object))
      return [
        this.#unreachable(file, read, variable, right, (wrong) =>
          finding('code/unreachable-read', 'form', {
            ...wrong,
            how: `read from ${read.object}`,
            tool: bundle.toolchain,
            some: 'versions',
          }),
        ),
      ];
    if (!isDefined && !this.#objects.includes(read.object)) {
      const about = { bundle: bundle.name, tool: bundle.toolchain, object: read.object };
      const objects = this.#objects.map(objectShown);
      return [
        this.#unreachable(file, read, variable, right, (wrong) =>
          finding('code/unreachable-read', 'object', { ...wrong, ...about, objects }),
        ),
      ];
    }
    return this.#inForm(file, read, variable, right);
  }

  /** The plugin replaces reads of each usual object, whichever of them the tool replaces, and under any of the bundle's names. */
  #isReplacedByPlugin({ object }: Read): boolean {
    const objects: readonly string[] = [...usualObjects, ...this.#objects];
    return this.context.hasPlugin(this.code.bundle.name) && !isReadLate(object) && objects.includes(object);
  }

  /** A read of the right object: does the tool replace it as it is written? */
  #inForm(file: SourceText, read: Read, variable: string, right: string): LintFinding[] {
    const { toolchain: tool } = this.code.bundle;
    const way = this.#wayOf(read);
    if (this.#isSkipped(read)) return [this.#guarded(file, read, variable)];
    // An object that a package exports is real, whatever the code does with it.
    const isReal = way?.importedFrom !== undefined;
    const known = way?.forms ?? usualForms;
    const isBefore = way?.leavesBeforeMember === true && read.isBeforeMember === true;
    const other = otherKind(read) ?? (isBefore ? 'before a member' : undefined);
    const left = isReal ? undefined : (formsOf(read, file.text).find((form) => !known.includes(form)) ?? other);
    if (left === undefined) return this.#isListed(read) ? [] : [this.#notListed(file, read, variable)];
    const varies = way?.formsOfSomeVersions?.some((form) => form === left) === true;
    const how = howWritten[left];
    if (way?.inlinesObject && left !== 'object in brackets' && left !== 'object in optional')
      return [this.#carries(file, read, variable, right, how, varies)];
    const some = tool === 'other' ? ('builds' as const) : varies ? ('versions' as const) : undefined;
    const written = isBefore ? `(${right})` : right;
    return [
      this.#unreachable(file, read, variable, written, (wrong) =>
        finding('code/unreachable-read', 'form', { ...wrong, how, tool, some }),
      ),
    ];
  }

  /** Tells whether a read of any name throws in a browser, which has no such object. */
  #throws(read: Read): boolean {
    const { bundle } = this.code;
    if (this.#isReplacedByPlugin(read) || this.#isSkipped(read)) return false;
    const isThere = this.#wayOf(read)?.inlinesObject === true || read.object !== 'process.env';
    return bundle.runs === 'browser' && toolchainOf(bundle).lacksProcess === true && !isThere;
  }

  /** Tells whether a browser does not reach a read, because a condition asks for a `process`. */
  #isSkipped({ isGuarded }: Read): boolean {
    const { bundle } = this.code;
    return isGuarded === true && bundle.runs === 'browser' && toolchainOf(bundle).lacksProcess === true;
  }

  #guarded(file: SourceText, read: Read, variable: string): LintFinding {
    const about = { name: read.name ?? '', object: read.object };
    return this.#found(file, read, finding('code/unreachable-read', 'guarded', about, { variable }));
  }

  #wayOf({ object }: Read): WayToRead | undefined {
    return toolchainOf(this.code.bundle).reads.find(({ from }) => from === object);
  }

  /**
   * A framework with several ways exposes names by the prefixes of each.
   * @returns the prefixes of the way, if the name has another one
   */
  #otherPrefixes(path: string, object: string, name: string): string[] | undefined {
    const { reads } = toolchainOf(this.code.bundle);
    const ways = reads.filter(
      ({ from, side, except }) => from === object && side !== 'server' && except?.test(path) !== true,
    );
    const prefixes = ways.map(({ prefix }) => prefix).filter((prefix) => prefix !== '');
    const isOwn = prefixes.length === 0 || prefixes.some((prefix) => name.startsWith(prefix));
    // Settings of the tool may add a prefix to this way, which the contract then has.
    const ofName = prefixOf(this.code.bundle, name);
    const isOfOtherWay = ofName !== undefined && reads.some((way) => way.prefix === ofName && !ways.includes(way));
    return isOwn || !isOfOtherWay ? undefined : prefixes;
  }

  #notExposed(file: SourceText, read: Read, variable: string, prefixes: readonly string[]): LintFinding {
    const name = read.name as string;
    const about = { object: read.object, prefixes };
    const right = this.#expression(name);
    if (right !== `${read.object}.${name}`)
      return this.#unreachable(file, read, variable, right, (wrong) =>
        finding('code/unreachable-read', 'prefix', { ...wrong, ...about }),
      );
    // Other code of the bundle may read it so.
    return this.#found(file, read, finding('code/unreachable-read', 'rename', { name, ...about }, { variable }));
  }

  #isListed({ name = '', object }: Read): boolean {
    const inlined = this.context.inlined(this.code.bundle);
    const { listName, reads } = toolchainOf(this.code.bundle);
    // The tool's own objects have every name with the prefix, unless it lists names.
    if (!inlined || (!listName && reads.some(({ from }) => from === object))) return true;
    const { names } = inlined;
    if (!names) {
      this.#unchecked.add(name);
      return true;
    }
    // A plugin for names of the environment makes no constants of them.
    const isConstant = readFrom(object)?.kind === 'constant';
    return names.has(writtenRead({ name, object })) || (!isConstant && names.has(name));
  }

  #notListed(file: SourceText, read: Read, variable: string): LintFinding {
    const { listName, plugin } = toolchainOf(this.code.bundle);
    const name = read.name ?? '';
    const fix = (listName ?? defineOption)(name, writtenRead(read));
    const about = { name, bundle: this.code.bundle.name, fix, plugin };
    return this.#found(file, read, finding('code/unreachable-read', 'unlisted', about, { variable }));
  }

  /** @param how the read is written @param varies whether some versions of the tool inline the value alone */
  #carries(file: SourceText, read: Read, variable: string, right: string, how: string, varies: boolean): LintFinding {
    const { toolchain } = this.code.bundle;
    const about = { how, tool: toolchain, isVersionDependent: varies };
    return {
      ...this.#found(
        file,
        read,
        finding('code/whole-object', 'carried', { ...wrongRead(read, right), ...about }, { variable }),
      ),
      ...this.#literal(file, read, right),
    };
  }

  /** A read that is not replaced, with the read that is. @param of makes the finding */
  #unreachable(
    file: SourceText,
    read: Read,
    variable: string,
    right: string,
    of: (wrong: WrongRead) => RawFinding,
  ): LintFinding {
    const found = { ...of(wrongRead(read, right)), variable };
    return { ...this.#found(file, read, found), ...this.#literal(file, read, right) };
  }

  #expression(name: string): string {
    const from = readsFrom(this.code.bundle, name);
    if (from.kind === 'config') return readExpression(from, withoutPrefix(this.code.bundle, name));
    return from.kind === 'module' ? `import { ${name} } from '${from.specifier}'` : readExpression(from, name);
  }

  /** The read under its right name, as the remedy writes it. */
  #rename(file: SourceText, read: Read, right: string): NonNullable<LintFinding['fix']> {
    const { kind, nameStart, nameEnd, name = '', object } = read;
    // A name that the file writes is one of its own.
    if (file.reads.some((one) => one.kind === 'assigned' && one.name === name)) return [];
    const written = file.text.slice(nameStart, nameEnd);
    if (read.isUncertain || !written.includes(name)) return [];
    if (kind === 'import') return renamedImport(file, read, right);
    const from = readsFrom(this.code.bundle, right);
    const own = isDartConstant(object) ? 'compiled' : readFrom(object)?.kind;
    const isSame = own === from.kind && from.kind !== 'config' && (!('path' in from) || from.path === object);
    if (!isSame && own !== 'config' && kind !== 'placeholder')
      return this.#literal(file, read, this.#expression(right)).fix ?? [];
    // A destructured name keeps the name that the code goes on with.
    const isShort = kind === 'destructured' && /^\s*[,}=]/.test(file.text.slice(nameEnd, nameEnd + 20));
    const text = written.replace(name, right) + (isShort ? `: ${name}` : '');
    return [{ path: file.path, start: nameStart, end: nameEnd, text }];
  }

  /** The code of a name that the bundle has. */
  readonly #ofPublic = (name: string): string | undefined =>
    this.#names.meaning(name).kind === 'public' ? this.#expression(name) : undefined;

  /** A read of the wrong object or an alias, as a literal read. */
  #literal(file: SourceText, read: Read, right: string): Pick<LintFinding, 'fix'> {
    const { kind, start, end, optional, isUncertain } = read;
    // A constant of a define option needs a declaration, and a framework's module an import.
    const isPlain = /^[\w$]+(\.[\w$]+)+$/.test(right);
    if (isUncertain || !isPlain) return {};
    if (kind === 'destructured' || kind === 'alias') {
      const rewrite = kind === 'alias' ? aliasAsObject : literalReads;
      const edit = rewrite(file, read, this.#ofPublic);
      return edit ? { fix: [edit] } : {};
    }
    if (!/^(member|constant|key)$/.test(kind) || optional) return {};
    return { fix: [{ path: file.path, start, end, text: right }] };
  }

  #found(file: SourceText, { nameStart, nameEnd }: Read, of: RawFinding): LintFinding {
    return { ...of, bundle: this.code.bundle.name, ...placed(this.context, file, nameStart, nameEnd) };
  }
}

/** An entry of `reads` as people know it. */
function objectShown(entry: string): string {
  return readFrom(entry)?.kind === 'compiled' ? 'String.fromEnvironment' : entry;
}

/** Tells whether a framework has values in an object on its server alone. */
function isOfServer(bundle: Bundle, object: string): boolean {
  const ways = toolchainOf(bundle).reads.filter(({ from }) => from === object);
  return bundle.reads === undefined && ways.length > 0 && ways.every(({ side }) => side === 'server');
}

/** Why a read is not of a form that tools replace. */
type Left = ReadForm | 'key' | 'alias' | 'check' | 'before a member';

const howWritten: Readonly<Record<Left, string>> = {
  optional: 'read with `?.`',
  brackets: 'read with brackets',
  backticks: 'read with a template in brackets',
  destructuring: 'destructured',
  'object in brackets': 'read from an object whose name is in brackets',
  'object in parentheses': 'read from an object in parentheses',
  'object in pieces': 'read with a space, line break or comment in it',
  'object in optional': 'read from an object with `?.` in it',
  'destructuring in parts': 'destructured beside other things than names',
  key: 'read by a key that is a constant',
  alias: 'read through an alias of the object',
  check: 'checked with `in`',
  'before a member': 'read with a member after it',
};

interface WrongRead {
  name: string;
  right: string;
  isAlias: boolean;
}

/** An alias that is left throws in a browser that has no such object. */
function wrongRead({ kind, name = '' }: Read, right: string): WrongRead {
  return { name, right, isAlias: kind === 'alias' };
}

/** How a read differs from `object.NAME`, as far as tools differ in it. */
function formsOf(read: Read, text: string): ReadForm[] {
  const { kind, optional, objectForm, object, start, nameStart, isOfParameter } = read;
  const forms: ReadForm[] = objectForm ? [`object in ${objectForm}`] : [];
  if (kind === 'constant') forms.push(text[nameStart] === '`' ? 'backticks' : 'brackets');
  if (kind === 'destructured')
    forms.push(!isOfParameter && isPlainPattern(text, object, start) ? 'destructuring' : 'destructuring in parts');
  if (/^(member|constant)$/.test(kind) && optional) forms.push('optional');
  return forms;
}

/** Tells whether the pattern that a read is in names values only, and takes them from the object itself. */
function isPlainPattern(text: string, object: string, start: number): boolean {
  const open = text.lastIndexOf('{', start);
  const [, inner = '[', of = ''] = /^\{([^{}]*)\}\s*=\s*([\w.$]+)/.exec(text.slice(open)) ?? [];
  return !inner.includes('[') && of === object;
}

/** Kinds of reads that no tool replaces. */
function otherKind({ kind }: Read): Left | undefined {
  if (kind === 'in') return 'check';
  return kind === 'key' || kind === 'alias' ? kind : undefined;
}

/** Names that code of a server reads, which the contract should have. */
export function serverReadRules(context: LintContext): LintFinding[] {
  const set = namesSetIn([...context.files.values()].flatMap(({ reads }) => reads));
  return context.bundles.flatMap(({ bundle, onServer }) => {
    const names = new Names(context.contract, bundle, context.settings(bundle));
    return [...onServer].flatMap((path) => {
      const file = context.files.get(path);
      if (!file) return [];
      return file.reads.flatMap((read): LintFinding[] => {
        if (read.name === undefined || read.kind === 'assigned' || read.kind === 'in' || set.has(read.name)) return [];
        const meaning = names.meaningOf(read.name, read.object);
        if (meaning.kind !== 'unknown' || isForeignName(read.name)) return [];
        const near = [...meaning.near, ...nearServer(context, read.name)];
        const at = placed(context, file, read.nameStart, read.nameEnd);
        const more = { level: 'warning' as const, bundle: bundle.name, ...at };
        return [finding('code/unknown-name', 'server', { name: read.name, near: [...new Set(near)] }, more)];
      });
    });
  });
}

function nearServer({ contract }: LintContext, name: string): string[] {
  const upper = name.toUpperCase();
  return [...contract.variables.keys()].filter((one) => one !== name && one.toUpperCase() === upper);
}

/** A read as the define option of a build has it: `process.env.NAME`, `__NAME__`. */
function writtenRead({ name = '', object }: Pick<Read, 'name' | 'object'>): string {
  const from = readFrom(object);
  return from ? readExpression(from, name) : name;
}
