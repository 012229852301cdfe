import { type Variable, whereCodeGoes } from '../../contract/contract.js';
import { nameIn, prefixOf, readsFrom, replacedObjects, withoutPrefix } from '../../contract/names.js';
import { isDartConstant } from '../../reads/dart.js';
import { usualObjects } from '../../reads/index.js';
import { type Read, readKinds } from '../../reads/read.js';
import { editDistance, joinWords } from '../../text/nearest.js';
import { isReadOfMachine, toolchainOf } from '../../toolchains/index.js';
import { isForeignName } from '../../toolchains/known-names.js';
import { isReadLate, readExpression, readFrom } from '../../toolchains/read-from.js';
import { type ReadForm, usualForms, type WayToRead } from '../../toolchains/toolchain.js';
import { aliasAsObject } from '../aliased.js';
import { literalReads } from '../destructured.js';
import type { BundleCode, LintContext, LintFinding, SourceText } from '../model.js';
import { placed } from '../model.js';
import { Names } from '../names.js';
import { renamedImport } from '../renamed.js';
import { isIn } from '../server-parts.js';
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

  constructor(
    readonly context: LintContext,
    readonly code: BundleCode,
  ) {
    this.#names = new Names(context.contract, code.bundle);
    this.#objects = replacedObjects(code.bundle);
  }

  findings(): LintFinding[] {
    return [...this.code.shipped.keys()].flatMap((path) => {
      const file = this.context.files.get(path);
      if (!file) return [];
      const onServer = this.code.serverParts.get(path) ?? [];
      const shipped = file.reads.filter(({ start }) => !isIn(onServer, start));
      return shipped.flatMap((read) => this.#read(file, read));
    });
  }

  #read(file: SourceText, read: Read): LintFinding[] {
    const { name, kind } = read;
    if (kind === 'assigned' || kind === 'whole' || kind === 'spread') return [];
    if (isReadOfMachine(this.code.bundle, file.path, read.object)) return this.#ofMachine(file, read);
    if (name === undefined) return [this.#unnamed(file, read)];
    const meaning = this.#names.meaningOf(name, read.object);
    switch (meaning.kind) {
      case 'withheld':
        return [this.#serverRead(file, read, meaning.variable)];
      case 'misnamed':
        return [this.#misnamed(file, read, meaning)];
      case 'elsewhere':
        return [
          this.#found(file, read, {
            code: 'code/unreachable-read',
            variable: meaning.variable.name,
            message: `reads ${name}, but ${meaning.because}`,
            remedy: 'remove the read, or add this bundle to `bundles` of the variable',
          }),
        ];
      case 'unknown':
        return kind === 'in' ? [] : [this.#unknown(file, read, meaning.near)];
      case 'public':
        return this.#replaced(file, read, meaning.variable.name);
      case 'builtIn':
        return [];
    }
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
    if (!hasObject) return this.#unreachable(file, read, `no build replaces this read: ${readKinds[read.kind]}`);
    return this.#found(file, read, {
      code: 'code/whole-object',
      message: `the name is computed, so ${toolchain} inlines every public value here`,
      remedy: `write a literal read, such as ${this.#expression('NAME')}`,
    });
  }

  #serverRead(file: SourceText, read: Read, { name, reach }: Variable): LintFinding {
    const chain = [...(this.code.shipped.get(file.path) ?? [])];
    return this.#found(file, read, {
      code: 'code/server-read',
      variable: name,
      ...(chain.length > 1 && { chain }),
      message: `${read.name}, a ${reach}-only variable, is read by code that ${whereCodeGoes(this.code.bundle)}${this.#chain(file.path)}`,
      remedy: `move the read into code that runs on the server; if anybody may know the value, set ${name}: public in the contract`,
    });
  }

  /** Reported if the file is not itself an entry. */
  #chain(path: string): string {
    const chain = this.code.shipped.get(path) ?? [];
    return chain.length > 1 ? `: ${chain.join(' → ')}` : ` of ${this.code.bundle.name}`;
  }

  #misnamed(
    file: SourceText,
    read: Read,
    { variable, mistake, right }: { variable: { name: string }; mistake: string; right: string },
  ): LintFinding {
    return {
      ...this.#found(file, read, {
        code: 'code/unknown-name',
        variable: variable.name,
        message: `${read.name} is undefined here: ${mistake}${this.#rendersOnServer() ? ' (it works in the server render)' : ''}`,
        remedy: `write ${this.#expression(right)}`,
      }),
      fix: this.#rename(file, read, right),
    };
  }

  #rendersOnServer(): boolean {
    return toolchainOf(this.code.bundle).rendersOnServer === true;
  }

  #unknown(file: SourceText, read: Read, near: readonly string[]): LintFinding {
    const [only, ...others] = near;
    const remedy =
      only === undefined
        ? 'declare it in the contract, or remove the read'
        : `did you mean ${joinWords(near, 'or')}? Otherwise declare ${read.name} in the contract`;
    const finding = this.#found(file, read, {
      code: 'code/unknown-name',
      message: `${read.name} is undefined here: it is not in the contract`,
      remedy,
    });
    const isSlip = only !== undefined && others.length === 0 && editDistance(read.name ?? '', only) <= 2;
    return isSlip ? { ...finding, fix: this.#rename(file, read, only) } : finding;
  }

  /** A name that the bundle has: is it read in a way that the build replaces? */
  #replaced(file: SourceText, read: Read, variable: string): LintFinding[] {
    const { bundle } = this.code;
    const name = read.name as string;
    const right = this.#expression(name);
    if (read.kind === 'import' || read.kind === 'placeholder') return [];
    if (this.#isReplacedByPlugin(read))
      return read.isUncertain ? [this.#unreachable(file, read, uncertain(name), variable, right)] : [];
    const exposed = this.#otherPrefixes(file.path, read.object, name);
    if (exposed !== undefined) return [this.#notExposed(file, read, variable, exposed)];
    if (read.kind === 'call' || isReadLate(read.object)) return [];
    // A member of an imported namespace is resolved like an import.
    if (read.kind === 'alias' && readFrom(read.object)?.kind === 'module') return [];
    if (!this.#objects.includes(read.object)) {
      return [
        this.#unreachable(
          file,
          read,
          `the build of ${bundle.name} does not replace ${read.object} (${bundle.toolchain} replaces ${joinWords(this.#objects.map(objectShown))}), so ${name} is not inlined here`,
          variable,
          right,
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
    const form = formOf(read);
    const isReplaced = form === undefined ? read.kind === 'member' : (way?.forms ?? usualForms).includes(form);
    if (isReplaced) return this.#isListed(read.name ?? '') ? [] : [this.#notListed(file, read, variable)];
    const varies = form !== undefined && way?.formsOfSomeVersions?.includes(form) === true;
    if (way?.inlinesObject) return read.kind === 'in' ? [] : [this.#carries(file, read, variable, right, varies)];
    const because =
      varies || tool === 'other'
        ? `which not every ${tool === 'other' ? 'build' : `version of ${tool}`} replaces`
        : `but ${tool} replaces only literal reads`;
    const message = `${read.name} is ${howRead[read.kind] ?? 'read'}, ${because}`;
    return [this.#unreachable(file, read, message, variable, right)];
  }

  #wayOf({ object }: Read): WayToRead | undefined {
    return toolchainOf(this.code.bundle).reads.find(({ from }) => from === object);
  }

  /**
   * A framework with several ways exposes names by the prefixes of each.
   * @returns the prefixes of the way, if the name has another one
   */
  #otherPrefixes(path: string, object: string, name: string): string | undefined {
    const { bundle } = this.code;
    const ways = toolchainOf(bundle).reads.filter(
      ({ from, side, except }) => from === object && side !== 'server' && except?.test(path) !== true,
    );
    const prefixes = ways.map(({ prefix }) => prefix).filter((prefix) => prefix !== '');
    const isOwn = prefixes.length === 0 || prefixes.some((prefix) => name.startsWith(prefix));
    const isUsual = prefixes.every((prefix) => bundle.prefixes.includes(prefix));
    return isOwn || !isUsual || prefixOf(bundle, name) === undefined ? undefined : joinWords(prefixes, 'or');
  }

  #notExposed(file: SourceText, read: Read, variable: string, prefixes: string): LintFinding {
    const name = read.name as string;
    const message = `${read.object} has only names that start with ${prefixes}, so ${name} is undefined here`;
    const right = this.#expression(name);
    if (right !== `${read.object}.${name}`) return this.#unreachable(file, read, message, variable, right);
    // Other code of the bundle may read it so.
    const remedy = `give it a name that starts with ${prefixes}, in the contract too`;
    return this.#found(file, read, { code: 'code/unreachable-read', variable, message, remedy });
  }

  #isListed(name: string): boolean {
    return this.context.inlined(this.code.bundle.name)?.has(name) !== false;
  }

  #notListed(file: SourceText, read: Read, variable: string): LintFinding {
    const { name, toolchain } = this.code.bundle;
    return this.#found(file, read, {
      code: 'code/unreachable-read',
      variable,
      message: `the configuration of ${name} does not inline ${read.name}, so it is undefined in the browser`,
      remedy: `add new EnvironmentPlugin(['${read.name}']) to its plugins, or the Adder plugin (adder/${toolchain})`,
    });
  }

  /** @param varies whether some versions of the tool inline the value alone */
  #carries(file: SourceText, read: Read, variable: string, right: string, varies: boolean): LintFinding {
    const { toolchain } = this.code.bundle;
    const then = varies ? `some versions of ${toolchain} then inline` : `${toolchain} then inlines`;
    return {
      ...this.#found(file, read, {
        code: 'code/whole-object',
        variable,
        message: `${read.name} is ${howRead[read.kind] ?? 'read'}: ${then} every public value here`,
        remedy: remedyFor(read, right),
      }),
      ...this.#literal(file, read, right),
    };
  }

  #unreachable(file: SourceText, read: Read, message: string, variable?: string, right?: string): LintFinding {
    return {
      ...this.#found(file, read, {
        code: 'code/unreachable-read',
        ...(variable && { variable }),
        message,
        remedy: right ? remedyFor(read, right) : `write a literal read, such as ${this.#expression('NAME')}`,
      }),
      ...(right && this.#literal(file, read, right)),
    };
  }

  #expression(name: string): string {
    const from = readsFrom(this.code.bundle, name);
    if (from.kind === 'config') return readExpression(from, withoutPrefix(this.code.bundle, name));
    return from.kind === 'module' ? `import { ${name} } from '${from.specifier}'` : readExpression(from, name);
  }

  /** The read under its right name, as the remedy writes it. */
  #rename(file: SourceText, read: Read, right: string): NonNullable<LintFinding['fix']> {
    const { kind, nameStart, nameEnd, name = '', object } = read;
    const written = file.text.slice(nameStart, nameEnd);
    if (read.isUncertain || !written.includes(name)) return [];
    if (kind === 'import') return renamedImport(file, read, right);
    const from = readsFrom(this.code.bundle, right);
    const own = isDartConstant(object) ? 'dart' : readFrom(object)?.kind;
    const isSame = kind === 'placeholder' || (own === from.kind && (!('path' in from) || from.path === object));
    if (!isSame || from.kind === 'config') return this.#literal(file, read, this.#expression(right)).fix ?? [];
    // A destructured name keeps the name that the code goes on with.
    const isShort = kind === 'destructured' && /^\s*[,}=]/.test(file.text.slice(nameEnd, nameEnd + 20));
    const text = written.replace(name, right) + (isShort ? `: ${name}` : '');
    return [{ path: file.path, start: nameStart, end: nameEnd, text }];
  }

  /** A read of the wrong object or an alias, as a literal read. */
  #literal(file: SourceText, read: Read, right: string): Pick<LintFinding, 'fix'> {
    const { kind, start, end, optional, isUncertain } = read;
    // A constant of a define option needs a declaration, and a framework's module an import.
    const isPlain = /^[\w$]+(\.[\w$]+)+$/.test(right);
    if (isUncertain || !isPlain) return {};
    if (kind === 'destructured' || kind === 'alias') {
      const rewrite = kind === 'alias' ? aliasAsObject : literalReads;
      const edit = rewrite(file, read, (name) =>
        this.#names.meaning(name).kind === 'public' ? this.#expression(name) : undefined,
      );
      return edit ? { fix: [edit] } : {};
    }
    if (!/^(member|constant|key)$/.test(kind) || optional) return {};
    return { fix: [{ path: file.path, start, end, text: right }] };
  }

  #found(
    file: SourceText,
    { nameStart, nameEnd }: Read,
    finding: Pick<LintFinding, 'code' | 'message' | 'remedy' | 'variable'>,
  ): LintFinding {
    return { ...finding, bundle: this.code.bundle.name, ...placed(this.context, file, nameStart, nameEnd) };
  }
}

/** Why the plugin stops a build at a read through an alias that changes. */
function uncertain(name: string): string {
  return `${name} is read through a name that may mean another object by then, so the plugin stops the build`;
}

/** An entry of `reads` as people know it. */
function objectShown(entry: string): string {
  return readFrom(entry)?.kind === 'dart' ? 'String.fromEnvironment' : entry;
}

const howRead: Partial<Record<Read['kind'], string>> = {
  member: 'read with `?.`',
  constant: 'read with brackets',
  key: 'read by a key that is a constant',
  destructured: 'destructured',
  alias: 'read through an alias of the object',
  in: 'checked with `in`',
};

/** An alias that is left throws in a browser that has no such object. */
function remedyFor({ kind }: Read, right: string): string {
  return kind === 'alias' ? `write ${right}, and remove the alias` : `write ${right}`;
}

/** How a read differs from `object.NAME`, as far as tools differ in it. */
function formOf({ kind, optional }: Read): ReadForm | undefined {
  if (kind === 'constant') return 'brackets';
  if (kind === 'destructured') return 'destructuring';
  return kind === 'member' && optional ? 'optional' : undefined;
}

/** Names that code of a server reads, which the contract should have. */
export function serverReadRules(context: LintContext): LintFinding[] {
  return context.bundles.flatMap(({ bundle, onServer }) => {
    const names = new Names(context.contract, bundle);
    return [...onServer].flatMap((path) => {
      const file = context.files.get(path);
      if (!file) return [];
      return file.reads.flatMap((read): LintFinding[] => {
        if (read.name === undefined || read.kind === 'assigned' || read.kind === 'in') return [];
        const meaning = names.meaningOf(read.name, read.object);
        if (meaning.kind !== 'unknown' || isForeignName(read.name)) return [];
        const near = [...meaning.near, ...nearServer(context, read.name)];
        return [
          {
            code: 'code/unknown-name',
            level: 'warning',
            bundle: bundle.name,
            message: `${read.name} is not in the contract`,
            remedy:
              near.length > 0
                ? `did you mean ${joinWords([...new Set(near)], 'or')}? Otherwise declare it: ${read.name}: server`
                : `declare it: ${read.name}: server`,
            ...placed(context, file, read.nameStart, read.nameEnd),
          },
        ];
      });
    });
  });
}

function nearServer({ contract }: LintContext, name: string): string[] {
  const upper = name.toUpperCase();
  return [...contract.variables.keys()].filter((one) => one !== name && one.toUpperCase() === upper);
}
