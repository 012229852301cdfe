import type { ScriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf, hasWrittenProperties, isConstant } from '../syntax/scopes.js';
import { constantText, isTypeOnly, isWrapper, unwrap, walk } from '../syntax/walk.js';
import { importedObjects, valueModules } from '../toolchains/index.js';
import { liveModules, readFrom } from '../toolchains/read-from.js';
import { goesOnOf, isTested } from './goes-on.js';
import type { FileReads, Import, ObjectUse, Read, ReadKind, StartedAs, Taken } from './read.js';

const processModules = new Set(['process', 'node:process']);

/**
 * The reads of a JavaScript or TypeScript text.
 * @param objects what values are read from, as entries of a contract's `reads`
 * @param isPiece for a script of a component or page, whose other parts may write its variables
 */
export function readsInJavaScript(
  text: string,
  kind: ScriptLanguage,
  objects: readonly string[],
  isPiece = false,
): FileReads {
  const syntax = parseSyntax(text, kind);
  const { module, problem } = syntax;
  const imports: Import[] = [
    ...module.staticImports
      .filter(({ entries }) => entries.length === 0 || entries.some(({ isType }) => !isType))
      .map(({ moduleRequest: { value, start, end } }) => ({
        ...{ specifier: value, start, end, isDynamic: false },
        // Bundlers give the address or the text of such a file, and the file is not theirs.
        ...(/\?(.*&)?(url|raw)\b/.test(value) && !/[?&]worker\b/.test(value) && { startedAs: 'other' as const }),
      })),
    ...module.staticExports.flatMap(({ entries }) => reExports(entries)),
    ...module.dynamicImports.flatMap(({ moduleRequest: { start, end } }) => {
      const specifier = /^(["'`])([^"'`$\\]*)\1$/.exec(text.slice(start, end))?.[2];
      return specifier === undefined ? [] : [{ specifier, start, end, isDynamic: true }];
    }),
  ];
  if (module.importMetas.length > 0) imports.push(...started(text));
  if (text.includes('require(')) imports.push(...required(text));
  if (!mayRead(text, objects)) return { reads: [], imports, ...(problem && { problem }) };
  const plain = plainReads(text, module.importMetas, objects);
  if (plain) return { reads: plain, imports, ...(problem && { problem }) };
  const finder = new Finder(text, objects, isPiece);
  finder.run(syntax.program);
  const { reads, sources, aliases } = finder;
  return { reads, imports, objectUses: sources, aliases, ...(problem && { problem }) };
}

/** Modules loaded by a call; one in a comment is harmless, and no syntax tree is needed. */
function required(text: string): Import[] {
  return [...text.matchAll(/(?<![\w$.])require\(\s*(["'`])([^"'`$\\\n]+)\1\s*\)/dg)].map(
    ({ 2: specifier = '', indices }) => {
      const [start = 0, end = 0] = indices?.[2] ?? [];
      return { specifier, start, end, isDynamic: false };
    },
  );
}

/** Scripts that a module starts by their addresses, such as workers: `new URL('./worker.js', import.meta.url)`. */
function started(text: string): Import[] {
  const pattern = /new\s+URL\(\s*(["'`])([^"'`$\\\n:]+)\1\s*,\s*import\.meta\.url\s*,?\s*\)/dg;
  return [...text.matchAll(pattern)].flatMap(({ 2: path = '', index, indices }) => {
    const [start = 0, end = 0] = indices?.[2] ?? [];
    if (!/(\.[cm]?[jt]sx?|\/[^./]+)$/.test(`/${path}`)) return [];
    const specifier = /^\.{0,2}\//.test(path) ? path : `./${path}`;
    return [{ specifier, start, end, isDynamic: true, startedAs: startedAs(text.slice(0, index)) }];
  });
}

/** How a script is started. @param before the text that precedes its address */
function startedAs(before: string): StartedAs {
  const near = before.slice(-80);
  if (/\bnew\s+(Shared)?Worker\(\s*(\/\*[^*]*\*\/\s*)*$/.test(near)) return 'worker';
  return /\bserviceWorker\s*\??\.\s*register\(\s*$/.test(near) ? 'service worker' : 'other';
}

/**
 * The usual module: every read is a literal `import.meta.env.NAME`. The parser reports the offsets of `import.meta`, so no syntax
 * tree is needed. Undefined if the module may contain other reads.
 */
function plainReads(
  text: string,
  metas: readonly { start: number; end: number }[],
  objects: readonly string[],
): Read[] | undefined {
  if (
    metas.length === 0 ||
    mayRead(
      text,
      objects.filter((object) => object !== 'import.meta.env'),
    )
  )
    return undefined;
  const reads: Read[] = [];
  for (const { start, end } of metas) {
    const [all, name = ''] = /^\.env\.([A-Za-z_$][\w$]*)/.exec(text.slice(end, end + 200)) ?? [];
    // Assignments, optional chains and fallbacks need the syntax tree.
    const after = text.slice(end + (all?.length ?? 0), end + (all?.length ?? 0) + 40);
    if (all === undefined || !/^\s*([)\];,}]|\+(?![+=]))|^\s*\.\w/.test(after)) return undefined;
    const before = text.slice(Math.max(0, start - 60), start);
    if (/\bdelete\s*\(*$|(\+\+|--)\s*$|[=.]\s*\{[^}]*$/.test(before)) return undefined;
    // Tests and logical expressions need the syntax tree.
    if (/(\b(if|while|Boolean)\s*\(|\btypeof|!|[=&|?;])\s*\(*\s*$/.test(before) && !/(^|[^=!<>])=\s*$/.test(before))
      return undefined;
    // A read that may be a whole statement.
    if (/(^|[;{}):\n])\s*$/.test(before) && /^\s*[;}]/.test(after)) return undefined;
    const nameEnd = end + all.length;
    reads.push({
      ...(text[nameEnd] === '.' && { isBeforeMember: true }),
      kind: 'member',
      name,
      object: 'import.meta.env',
      optional: false,
      start,
      end: nameEnd,
      nameStart: nameEnd - name.length,
      nameEnd,
    });
  }
  return reads;
}

/** Tells whether a text contains the path of an object. All other texts contain no read, and need no parsing. */
export function mayRead(text: string, objects: readonly string[]): boolean {
  if (text.includes('env') && /["'](\$|astro:)env\b|["'](node:)?process["']/.test(text)) return true;
  return objects.some((object) => {
    const from = readFrom(object);
    switch (from?.kind) {
      case 'object':
      case 'call': {
        const words = from.path.split('.');
        return words.every((word) => text.includes(word)) && pathPattern(words).test(text);
      }
      case 'config':
        return text.includes(rootOf(from.path));
      case 'constant':
        return text.includes(from.before) && text.includes(from.after) && constantPatternIn(from).test(text);
      case 'module':
      case 'live':
        return text.includes(from.specifier);
      default:
        return false;
    }
  });
}

/**
 * A pattern that every text matches which may read one of these objects, for bundlers that look for it themselves: without
 * lookaround, which their expressions do not have. @see mayRead
 */
export function readPattern(objects: readonly string[]): RegExp {
  const sources = objects.flatMap((object) => {
    const from = readFrom(object);
    switch (from?.kind) {
      case 'object':
      case 'call':
        return literalPattern(from.path.split('.').at(-1) ?? '');
      case 'config':
        return literalPattern(rootOf(from.path));
      case 'constant':
        return literalPattern(from.before || from.after) || '[A-Z0-9]_';
      case 'module':
      case 'live':
        return literalPattern(from.specifier);
      default:
        return [];
    }
  });
  return new RegExp([...new Set(['env', ...sources])].join('|'));
}

/** A word of a text that may be a constant. */
function constantPatternIn({ before, after }: { before: string; after: string }): RegExp {
  const name = before === '' && after === '' ? '[A-Z][A-Z0-9]*_[A-Z0-9_]*' : '\\w+';
  return new RegExp(`(?<![\\w$])${literalPattern(before)}${name}${literalPattern(after)}`);
}

/** The name that a path begins with: `a` of `a.b` and of `a().b`. */
function rootOf(path: string): string {
  return path.split(/[.(]/)[0] as string;
}

const patterns = new Map<string, RegExp>();

/** `a.b` however it is written: with a dot, an optional chain or brackets, or taken out of `a`. */
function pathPattern(words: readonly string[]): RegExp {
  const key = words.join('.');
  const known = patterns.get(key);
  if (known) return known;
  const base = words.slice(0, -1).map(literalPattern).join('\\s*\\??\\.\\s*');
  const last = literalPattern(words.at(-1) as string);
  const made =
    base === ''
      ? new RegExp(`(?<![\\w$])${last}(?![\\w$])`)
      : new RegExp(
          `(?<![\\w$])${base}\\s*[)!]*\\s*(?:\\??\\.\\s*${last}(?![\\w$])|(?:\\?\\.)?\\[\\s*["'\`]${last}["'\`])|=\\s*${base}(?!\\s*[\\w$.?[(])`,
        );
  patterns.set(key, made);
  return made;
}

function literalPattern(word: string): string {
  return word.replace(/[$()*+.?[\]^{|}]/g, '\\$&');
}

function reExports(
  entries: readonly { moduleRequest: { value: string; start: number; end: number } | null; isType: boolean }[],
): Import[] {
  const found = new Map<number, Import>();
  for (const { moduleRequest, isType } of entries) {
    if (!moduleRequest || isType) continue;
    const { value, start, end } = moduleRequest;
    found.set(start, { specifier: value, start, end, isDynamic: false });
  }
  return [...found.values()];
}

class Finder {
  readonly reads: Read[] = [];
  readonly sources: ObjectUse[] = [];
  readonly aliases: string[] = [];
  /** The path of an object that values are read from, and its entry. */
  readonly #objects = new Map<string, string>();
  /** Functions to the objects that they read from. */
  readonly #calls = new Map<string, string>();
  /** Local names to the reads of their imports. */
  readonly #imported = new Map<string, Read>();
  readonly #modules = new Set(valueModules.keys());
  readonly #constants: { entry: string; pattern: RegExp }[] = [];
  /** Objects whose keys are a framework's own, and may be nested. */
  readonly #configs = new Set<string>();
  /** Declarations that give an object another name. */
  readonly #aliases = new Map<Node, string>();
  /** Declarations of aliases that code reads from, or uses as a whole. */
  readonly #usedAliases = new Set<Node>();
  /** Declarations of aliases that may be another object when they are read. */
  readonly #uncertain = new Set<Node>();
  /** Names that may refer to an object, or begin its path. All other names are skipped. */
  readonly #names = new Set<string>(['env']);
  readonly #roots = new Set<string>();
  /** Expressions that are accounted for already. */
  readonly #seen = new Set<Node>();

  constructor(
    readonly text: string,
    objects: readonly string[],
    readonly isPiece: boolean,
  ) {
    for (const module of liveModules) this.#objects.set(module, module);
    for (const entry of objects) this.#know(entry);
  }

  #know(entry: string): void {
    const from = readFrom(entry);
    if (from?.kind === 'module') this.#modules.add(from.specifier);
    if (from?.kind === 'constant') this.#constants.push({ entry, pattern: patternOf(from) });
    if (from?.kind !== 'object' && from?.kind !== 'call' && from?.kind !== 'config') return;
    this.#roots.add(rootOf(from.path));
    if (from.kind === 'call') this.#calls.set(from.path, from.path);
    else this.#objects.set(from.path, entry);
    if (from.kind === 'config') this.#configs.add(from.path);
    if (!/[.(]/.test(from.path)) this.#names.add(from.path);
  }

  run(program: Node): void {
    walk(program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'ImportDeclaration') this.#import(node);
      if (node.type === 'VariableDeclarator' && node.init) this.#declarator(node, ancestors);
      else if (/^Assignment(Expression|Pattern)$/.test(node.type)) this.#assignment(node, ancestors);
      return undefined;
    });
    walk(program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      if (node.type === 'MemberExpression') this.#member(node, ancestors);
      else if (node.type === 'CallExpression') this.#call(node, ancestors);
      else if (node.type === 'Identifier') this.#identifier(node, ancestors);
      return undefined;
    });
    this.#unusedAliases();
    this.reads.sort((a, b) => a.start - b.start);
  }

  /** Another name of an object is a use of it, if nothing is read through the name. */
  #unusedAliases(): void {
    for (const [declarator, object] of this.#aliases)
      if (!this.#usedAliases.has(declarator) && object === 'process.env' && declarator.init)
        this.#add('whole', object, unwrap(declarator.init as Node), declarator.init as Node);
  }

  #identifier(node: Node, ancestors: readonly Node[]): void {
    const name = node.name as string;
    const constant = this.#constants.find(({ pattern }) => pattern.test(name));
    const imported = this.#imported.get(name);
    if (imported) this.#importedUse(imported, node, ancestors);
    if (constant) this.#constantRead(node, constant, ancestors);
    else if (this.#names.has(name) && !isName(node, ancestors)) this.#occurrence(node, ancestors);
  }

  /** A fallback stands where the code uses an imported value, not at its import. */
  #importedUse(read: Read, node: Node, ancestors: readonly Node[]): void {
    if (read.fallback || declarationOf(node.name as string, ancestors)?.type !== 'ImportSpecifier') return;
    Object.assign(read, missingOf(node, ancestors));
  }

  #constantRead(node: Node, { entry, pattern }: { entry: string; pattern: RegExp }, ancestors: readonly Node[]): void {
    if (isName(node, ancestors) || isBinding(node, ancestors) || isDeclared(node, ancestors)) return;
    const name = pattern.exec(node.name as string)?.[1] as string;
    const kind = isAssigned(node, ancestors) ? 'assigned' : 'member';
    const around = { ...shorthandOf(ancestors), ...statementOf(ancestors), ...missingOf(node, ancestors) };
    this.#add(kind, entry, node, node, { name, ...around });
  }

  /** Whose values an expression has: `process.env` for `process.env`, and for another name of it. */
  #object(
    node: Node,
    ancestors: readonly Node[],
  ): { object: string; isAlias: boolean; isUncertain?: true } | undefined {
    const inner = unwrap(node);
    if (inner.type === 'Identifier') {
      if (!this.#names.has(inner.name as string)) return undefined;
      const declaration = declarationOf(inner.name as string, ancestors);
      const object = declaration && (this.#aliases.get(declaration) ?? importedObject(declaration));
      if (declaration && object !== undefined && this.#objects.has(object)) return this.#through(declaration, object);
    }
    const path = this.#path(inner, ancestors);
    if (path === undefined || !this.#objects.has(path)) return undefined;
    const declaration = this.#configs.has(path) ? undefined : this.#aliasAtRoot(inner, ancestors);
    return declaration ? this.#through(declaration, path) : { object: path, isAlias: false };
  }

  #through(declaration: Node, object: string): { object: string; isAlias: true; isUncertain?: true } {
    this.#usedAliases.add(declaration);
    return { object, isAlias: true, ...(this.#uncertain.has(declaration) && { isUncertain: true }) };
  }

  /** The declaration of `host` in `host.env`, after `const host = process`. */
  #aliasAtRoot(node: Node, ancestors: readonly Node[]): Node | undefined {
    let root = node;
    while (root.type === 'MemberExpression') root = unwrap(root.object as Node);
    const declaration = root.type === 'Identifier' ? declarationOf(root.name as string, ancestors) : undefined;
    return declaration && this.#aliases.has(declaration) ? declaration : undefined;
  }

  /** `a.b.c` for an expression that starts at a global name or at import.meta. */
  #path(node: Node, ancestors: readonly Node[]): string | undefined {
    const inner = unwrap(node);
    if (inner.type === 'MetaProperty') return 'import.meta';
    if (inner.type === 'Identifier') {
      return this.#pathOfName(inner.name as string, ancestors);
    }
    if (inner.type === 'CallExpression' && this.#configs.size > 0) {
      const callee = this.#path(inner.callee as Node, ancestors);
      return callee === undefined ? undefined : `${callee}()`;
    }
    if (inner.type !== 'MemberExpression') return undefined;
    const name = inner.computed ? constantText(inner.property as Node) : ((inner.property as Node).name as string);
    const base = name === undefined ? undefined : this.#path(inner.object as Node, ancestors);
    return base === undefined ? undefined : `${base}.${name}`;
  }

  #pathOfName(name: string, ancestors: readonly Node[]): string | undefined {
    const isAlias = this.#names.has(name);
    if (!isAlias && !this.#roots.has(name) && !isDefaultProcess.test(name)) return undefined;
    const declaration = declarationOf(name, ancestors);
    const exporter = importedObjects.get(name);
    if (!declaration) return exporter === undefined ? name : undefined;
    const module = (declaration.source as Node | undefined)?.value as string | undefined;
    if (module !== undefined && processModules.has(module)) return 'process';
    if (module !== undefined && module === exporter) return name;
    // A framework's function may be imported or global.
    if (module !== undefined && this.#startsConfig(`${name}()`)) return name;
    return isAlias ? this.#aliases.get(declaration) : undefined;
  }

  /** Tells whether another name of a path leads to values. */
  #mayBeAlias(path: string): boolean {
    return this.#startsConfig(path) || this.#leadsToObject(path);
  }

  /** Tells whether a path leads to a configuration's keys. */
  #startsConfig(path: string): boolean {
    return [...this.#configs].some((config) => config === path || config.startsWith(`${path}.`));
  }

  #declarator(node: Node, ancestors: readonly Node[]): void {
    const init = unwrap(node.init as Node);
    const id = node.id as Node;
    const found = this.#object(init, ancestors);
    const path = found?.object ?? this.#path(init, ancestors);
    if (path === undefined) return;
    if (id.type === 'Identifier' && this.#mayBeAlias(path)) {
      this.#alias(node, id, path, ancestors, found?.isUncertain);
      this.#source(init, path);
      if (isAtTop(ancestors)) this.aliases.push(`const ${id.name} = ${path};`);
      if (isExported(ancestors) && this.#objects.has(path)) this.#exportedAlias(node, path, init);
    } else if (id.type === 'ObjectPattern') this.#destructure(id, path, init, ancestors, found?.isUncertain, node);
  }

  #exportedAlias(declarator: Node, path: string, init: Node): void {
    this.#usedAliases.add(declarator);
    this.#add('whole', path, init, init);
  }

  /** `({ NAME } = object)`, and the parameter `{ NAME } = object`. */
  #assignment({ type, left, right, operator }: Node, ancestors: readonly Node[]): void {
    const pattern = unwrap(left as Node);
    if (pattern.type !== 'ObjectPattern' || (operator !== undefined && operator !== '=')) return;
    const init = unwrap(right as Node);
    const found = this.#object(init, ancestors);
    const path = found?.object ?? this.#path(init, ancestors);
    if (path === undefined) return;
    const { length } = this.reads;
    this.#destructure(pattern, path, init, ancestors, found?.isUncertain);
    if (type === 'AssignmentPattern') for (const read of this.reads.slice(length)) read.isOfParameter = true;
  }

  /** @param declarator absent for patterns that declare nothing */
  #destructure(
    pattern: Node,
    path: string,
    init: Node,
    ancestors: readonly Node[],
    isUncertain: true | undefined,
    declarator?: Node,
  ): void {
    if (!this.#leadsToObject(path)) return;
    const taken = this.#pattern(pattern, path, { ancestors, declarator, isUncertain });
    this.#source(init, path, taken);
    if (declarator && isExported(ancestors))
      for (const { object } of Object.values(taken.below)) if (object) this.#add('whole', object, init, init);
  }

  /** `const { env: { NAME } } = process`, as deep as it goes. */
  #pattern(pattern: Node, path: string, at: PatternPlace): Taken {
    const object = this.#objects.get(path);
    const taken: Taken = { path, names: [], below: Object.create(null), others: false, ...(object && { object }) };
    for (const property of pattern.properties as Node[]) this.#taken(property, taken, at);
    return taken;
  }

  #taken(property: Node, taken: Taken, at: PatternPlace): void {
    const { path, object } = taken;
    const key = property.key as Node | undefined;
    const name =
      key && (property.computed ? this.#constant(key, at.ancestors) : ((key.name ?? key.value) as string | undefined));
    const inner = `${path}.${name}`;
    const value = property.value as Node | undefined;
    const target = value?.type === 'AssignmentPattern' ? (value.left as Node) : value;
    if (name !== undefined && target?.type === 'ObjectPattern' && this.#leadsToObject(inner)) {
      taken.below[name] = this.#pattern(target, inner, at);
    } else if (name !== undefined && this.#mayBeAlias(inner) && target?.type === 'Identifier' && at.declarator) {
      this.#alias(at.declarator, target, inner, at.ancestors, at.isUncertain);
      const own = this.#objects.get(inner);
      taken.below[name] = { path: inner, names: [], below: {}, others: false, ...(own && { object: own }) };
    } else if (object === undefined || !key) {
      taken.others = true;
      if (object !== undefined) this.#add('whole', path, property, property);
    } else if (name === undefined) this.#add('computed', path, property, key);
    else {
      taken.names.push(name);
      const more = { ...defaultOf(value as Node), ...(at.isUncertain && { isUncertain: true as const }) };
      this.#add('destructured', path, property, key, { name, ...more });
    }
  }

  /** Tells whether a path is an object of values, or contains one: `process`. */
  #leadsToObject(path: string): boolean {
    return this.#objects.has(path) || [...this.#objects.keys()].some((object) => object.startsWith(`${path}.`));
  }

  #source(init: Node, path: string, taken?: Taken): void {
    this.#seen.add(init);
    const object = this.#objects.get(path) ?? path;
    this.sources.push({ start: init.start, end: init.end, object, ...(taken && { taken }) });
  }

  #alias(
    declarator: Node,
    { name }: Node,
    object: string,
    ancestors: readonly Node[],
    isUncertain: true | undefined,
  ): void {
    this.#aliases.set(declarator, object);
    this.#names.add(name as string);
    const isSame = isConstant(declarator, ancestors, this.isPiece) && !hasWrittenProperties(declarator, ancestors);
    if (isUncertain || !isSame) this.#uncertain.add(declarator);
  }

  #import(node: Node): void {
    const source = (node.source as Node).value as string;
    if (processModules.has(source) || liveModules.has(source))
      for (const { imported, local } of node.specifiers as Node[])
        if ((imported as Node | undefined)?.name === 'env') {
          this.#names.add((local as Node).name as string);
          this.aliases.push(`import { env as ${(local as Node).name} } from '${source}';`);
        }
    for (const { imported, local } of node.specifiers as Node[]) {
      const name = (imported as Node | undefined)?.name as string | undefined;
      if (name !== undefined && importedObjects.get(name) === source && this.#objects.has(name))
        this.#names.add((local as Node).name as string);
    }
    if (!this.#modules.has(source)) return;
    for (const specifier of node.specifiers as Node[]) {
      const imported = specifier.imported as Node | undefined;
      if (imported && valueModules.get(source)?.lookup === imported.name) {
        const local = (specifier.local as Node).name as string;
        this.#roots.add(local);
        this.#names.add(local);
        this.#calls.set(local, source);
      } else if (imported) {
        this.#add('import', source, specifier, imported, { name: (imported.name ?? imported.value) as string });
        this.#imported.set((specifier.local as Node).name as string, this.reads.at(-1) as Read);
      } else if (specifier.type === 'ImportNamespaceSpecifier') {
        // Bundlers resolve members of a namespace one by one.
        this.#names.add((specifier.local as Node).name as string);
        this.#objects.set(source, source);
      } else this.#add('whole', source, specifier, specifier);
    }
  }

  #member(node: Node, ancestors: readonly Node[]): void {
    const found = this.#object(node.object as Node, ancestors);
    if (!found) {
      this.#occurrence(node, ancestors);
      return;
    }
    this.#seen.add(unwrap(node.object as Node));
    if (this.#configs.has(found.object)) {
      this.#key(node, found.object, ancestors);
      return;
    }
    const property = node.property as Node;
    const name = node.computed ? this.#constant(property, ancestors) : (property.name as string);
    const kind: ReadKind = isAssigned(node, ancestors)
      ? 'assigned'
      : name === undefined
        ? 'computed'
        : found.isAlias
          ? 'alias'
          : !node.computed
            ? 'member'
            : constantText(property) === undefined
              ? 'key'
              : 'constant';
    const objectForm = found.isAlias
      ? undefined
      : (formOfObject(node.object as Node) ?? this.#inPieces(node, found.object));
    this.#add(kind, found.object, node, property, {
      ...(name !== undefined && { name }),
      optional: node.optional === true,
      ...(objectForm && { objectForm }),
      ...(this.text[node.end] === '.' && { isBeforeMember: true }),
      ...(isGuarded(node, ancestors) && { isGuarded: true }),
      ...(isSet(node, ancestors) && { isSet: true }),
      ...(found.isUncertain && { isUncertain: true }),
      ...statementOf(ancestors),
      ...missingOf(node, ancestors),
    });
  }

  /** Tells whether a plain read is not written as one word, but with a comment or a line break in it. */
  #inPieces({ start, end, computed, optional }: Node, object: string): 'pieces' | undefined {
    const text = this.text.slice(start, end);
    const isPlain = !computed && !optional && !text.includes('?.');
    return isPlain && !text.startsWith(`${object}.`) ? 'pieces' : undefined;
  }

  /** A key of a configuration, as deep as it is written: `config.public.api.baseUrl`. */
  #key(node: Node, object: string, ancestors: readonly Node[]): void {
    const keyOf = (one: Node) =>
      one.computed ? constantText(one.property as Node) : ((one.property as Node).name as string);
    const keys = [keyOf(node)];
    let last = node;
    if (this.#objects.has(`${object}.${keys[0]}`)) return;
    for (const parent of [...ancestors].reverse()) {
      if (isWrapper(parent)) continue;
      if (parent.type !== 'MemberExpression' || unwrap(parent.object as Node) !== last) break;
      last = parent;
      keys.push(keyOf(parent));
    }
    const end = keys.indexOf(undefined);
    const name = keys.slice(0, end < 0 ? undefined : end).join('.');
    if (name !== '') this.#add('member', object, node, node.property as Node, { name });
  }

  /** The text of a constant expression, one name followed: `const KEY = 'NAME'`. */
  #constant(node: Node, ancestors: readonly Node[]): string | undefined {
    const direct = constantText(node);
    if (direct !== undefined || node.type !== 'Identifier') return direct;
    const declaration = declarationOf(node.name as string, ancestors);
    const isName = (declaration?.id as Node | undefined)?.type === 'Identifier';
    return declaration && isName && isConstant(declaration, ancestors, this.isPiece)
      ? constantText(unwrap(declaration.init as Node))
      : undefined;
  }

  #call(node: Node, ancestors: readonly Node[]): void {
    const [first] = node.arguments as Node[];
    const callee = node.callee as Node;
    if (this.#calls.size === 0 || !first) return;
    const path = this.#path(callee, ancestors);
    const object = path === undefined ? undefined : this.#calls.get(path);
    if (object === undefined) return;
    const name = this.#constant(first, ancestors);
    this.#add(name === undefined ? 'computed' : 'call', object, node, first, {
      ...(name !== undefined && { name }),
      ...statementOf(ancestors),
      ...missingOf(node, ancestors),
    });
  }

  /** The object itself, if none of its members is read. */
  #occurrence(node: Node, ancestors: readonly Node[]): void {
    if (this.#seen.has(node)) return;
    const parent = parentOf(ancestors);
    if (parent?.type === 'VariableDeclarator' && unwrap(parent.id as Node) === node) return;
    const found = this.#object(node, ancestors);
    if (!found) return;
    if (parent?.type === 'AssignmentExpression' && unwrap(parent.left as Node) === node) return;
    if (parent?.type === 'BinaryExpression' && parent.operator === 'in') {
      const name = this.#constant(parent.left as Node, ancestors);
      const at = (name === undefined ? parent.right : parent.left) as Node;
      this.#add('in', found.object, parent, at, {
        ...(name !== undefined && { name }),
        ...(found.isUncertain && { isUncertain: true }),
        ...(isGuarded(node, ancestors) && { isGuarded: true }),
      });
      return;
    }
    const isSpread = parent?.type === 'SpreadElement' || parent?.type === 'JSXSpreadAttribute';
    const isTest = isSpread ? undefined : testOf(node, parent);
    this.#add(isSpread ? 'spread' : 'whole', found.object, node, node, {
      ...shorthandOf(ancestors),
      ...(isTest && { isTest }),
    });
  }

  #add(kind: ReadKind, path: string, { start, end }: Node, at: Node, more: Partial<Read> = {}): void {
    // The configuration as a whole holds nothing that its pages do not have anyway.
    if (more.name === undefined && this.#configs.has(path)) return;
    const object = this.#objects.get(path) ?? path;
    this.reads.push({ kind, object, optional: false, start, end, nameStart: at.start, nameEnd: at.end, ...more });
  }
}

/** Where a destructuring pattern is. */
interface PatternPlace {
  ancestors: readonly Node[];
  /** Absent for patterns that declare nothing. */
  declarator: Node | undefined;
  isUncertain: true | undefined;
}

/** Usual names of the import of Node's process module. */
const isDefaultProcess = /^_?process\d?$/;

function importedObject({ type, source, imported }: Node): string | undefined {
  const module = (source as Node | undefined)?.value as string | undefined;
  if (type === 'ImportNamespaceSpecifier') return module;
  const name = (imported as Node | undefined)?.name as string | undefined;
  if (module !== undefined && name !== undefined && importedObjects.get(name) === module) return name;
  if (module === undefined || name !== 'env') return undefined;
  if (processModules.has(module)) return 'process.env';
  return liveModules.has(module) ? module : undefined;
}

/** Tells whether an identifier is a name of something and not a use of it. */
function isName(node: Node, ancestors: readonly Node[]): boolean {
  const parent = ancestors.at(-1);
  if (!parent) return false;
  if (parent.type === 'MemberExpression') return parent.property === node && !parent.computed;
  if (parent.type === 'Property') {
    const isBinding = ancestors.at(-2)?.type === 'ObjectPattern';
    return isBinding || (parent.key === node && !parent.computed);
  }
  if (parent.type === 'ExportSpecifier') return parent.local !== node;
  if (parent.type === 'ExportDefaultDeclaration') return false;
  if (parent.type === 'PropertyDefinition') return parent.key === node && !parent.computed;
  return /^(Import|Export)|^(MethodDefinition|LabeledStatement|MetaProperty)$/.test(parent.type);
}

/** The node around an expression, without brackets and type assertions. */
function parentOf(ancestors: readonly Node[]): Node | undefined {
  return ancestors.findLast((one) => !isWrapper(one));
}

/** Tells whether code only asks if the object is there: `typeof object`, `object && …`, `object !== undefined`, `if (object)`. */
function testOf(node: Node, parent: Node | undefined): Read['isTest'] {
  if (parent?.type === 'LogicalExpression')
    return parent.operator === '&&' && unwrap(parent.left as Node) === node ? '&&' : undefined;
  return parent && isTested(node, parent) ? 'other' : undefined;
}

/** How an object is written, if not as a path with dots. */
function formOfObject(node: Node): Read['objectForm'] {
  for (let at = node; ; ) {
    if (isWrapper(at) && at.type !== 'ChainExpression') return 'parentheses';
    if (at.type === 'MemberExpression' && at.computed) return 'brackets';
    if (at.type === 'MemberExpression' && at.optional) return 'optional';
    if (at.type !== 'MemberExpression' && at.type !== 'ChainExpression') return undefined;
    at = (at.object ?? at.expression) as Node;
  }
}

/** Tells whether an expression is evaluated only where `process` exists, because a condition around it asks for that. */
function isGuarded(node: Node, ancestors: readonly Node[]): boolean {
  return ancestors.some((parent, index) => {
    const child = ancestors[index + 1] ?? node;
    if (parent.type === 'LogicalExpression')
      return parent.operator === '&&' && parent.right === child && asksForProcess(parent.left as Node, true);
    if (parent.type !== 'IfStatement' && parent.type !== 'ConditionalExpression') return false;
    const test = parent.test as Node;
    return (
      (parent.consequent === child && asksForProcess(test, true)) ||
      (parent.alternate === child && asksForProcess(test, false))
    );
  });
}

/** `typeof process !== "undefined"`, alone or with other conditions. @param isThere the result if there is one */
function asksForProcess(wrapped: Node, isThere: boolean): boolean {
  const node = unwrap(wrapped);
  if (node.type === 'LogicalExpression')
    return (
      node.operator === (isThere ? '&&' : '||') &&
      (asksForProcess(node.left as Node, isThere) || asksForProcess(node.right as Node, isThere))
    );
  if (node.type !== 'BinaryExpression' || !/^[!=]==?$/.test(node.operator as string)) return false;
  const sides = [unwrap(node.left as Node), unwrap(node.right as Node)];
  const isOfProcess = sides.some(
    ({ type, operator, argument }) =>
      type === 'UnaryExpression' && operator === 'typeof' && unwrap(argument as Node).name === 'process',
  );
  const isUndefined = sides.some((one) => constantText(one) === 'undefined');
  const isNot = (node.operator as string).startsWith('!');
  return isOfProcess && (isNot === isUndefined) === isThere;
}

function isExported(ancestors: readonly Node[]): boolean {
  return ancestors.at(-2)?.type === 'ExportNamedDeclaration';
}

/** Without text around the name, only constants as they are usually written, such as `FERRY_API_URL`. */
function patternOf({ before, after }: { before: string; after: string }): RegExp {
  if (before === '' && after === '') return /^([A-Z][A-Z0-9]*(?:_[A-Z0-9]+)+)$/;
  return new RegExp(`^${literalPattern(before)}(\\w+)${literalPattern(after)}$`);
}

function isBinding(node: Node, ancestors: readonly Node[]): boolean {
  const parent = ancestors.at(-1);
  return parent?.type === 'VariableDeclarator' && parent.id === node;
}

function shorthandOf(ancestors: readonly Node[]): Pick<Read, 'isShorthand'> {
  const parent = ancestors.at(-1);
  return parent?.type === 'Property' && parent.shorthand ? { isShorthand: true } : {};
}

/** A string in brackets is no directive. */
function statementOf(ancestors: readonly Node[]): Pick<Read, 'isStatement'> {
  const parent = ancestors.findLast((one) => one.type === 'ParenthesizedExpression' || !isWrapper(one));
  return parent?.type === 'ExpressionStatement' ? { isStatement: true } : {};
}

function isAtTop(ancestors: readonly Node[]): boolean {
  return ancestors.every(({ type }) => /^(Program|VariableDeclaration|ExportNamedDeclaration)$/.test(type));
}

function isDeclared({ name }: Node, ancestors: readonly Node[]): boolean {
  return declarationOf(name as string, ancestors) !== undefined;
}

function isAssigned(node: Node, ancestors: readonly Node[]): boolean {
  const parent = parentOf(ancestors);
  if (parent?.type === 'AssignmentExpression') return unwrap(parent.left as Node) === node;
  return parent?.type === 'UpdateExpression' || (parent?.type === 'UnaryExpression' && parent.operator === 'delete');
}

/** Tells whether a value is written whatever it was: `||=` and `delete` may leave what a machine set. */
function isSet(node: Node, ancestors: readonly Node[]): boolean {
  const parent = parentOf(ancestors);
  return parent?.type === 'AssignmentExpression' && parent.operator === '=' && unwrap(parent.left as Node) === node;
}

/** Fallback of a read, and how code handles a missing value. */
function missingOf(node: Node, ancestors: readonly Node[]): Pick<Read, 'fallback' | 'goesOn'> {
  return { ...fallbackOf(node, ancestors), ...goesOnOf(node, ancestors) };
}

function fallbackOf(node: Node, ancestors: readonly Node[]): Pick<Read, 'fallback'> {
  const parent = parentOf(ancestors);
  const isLeft =
    parent?.type === 'LogicalExpression' && parent.operator !== '&&' && unwrap(parent.left as Node) === node;
  return isLeft ? { fallback: fallbackAt(parent.right as Node) } : {};
}

function defaultOf(pattern: Node): Pick<Read, 'fallback'> {
  return pattern.type === 'AssignmentPattern' ? { fallback: fallbackAt(pattern.right as Node) } : {};
}

function fallbackAt(node: Node): NonNullable<Read['fallback']> {
  const text = constantText(unwrap(node));
  return { start: node.start, end: node.end, ...(text !== undefined && { text }) };
}
