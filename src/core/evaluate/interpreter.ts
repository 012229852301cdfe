import { posix } from 'node:path';
import { scriptLanguage } from '../files/languages.js';
import { limits } from '../limits/index.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { constantText, isWrapper, nameOfImport, unwrap } from '../syntax/walk.js';
import { type Caller, callForeign, callMethod } from './calls.js';
import { globalValue, imported, loadedEnvironment, metaOf, valueOfJson } from './modules.js';
import { member, operate, setField, spreadInto } from './operations.js';
import { Scope } from './scope.js';
import {
  carriedBy,
  eachOf,
  either,
  type FunctionValue,
  keyOf,
  known,
  listOf,
  mixed,
  nothing,
  type ObjectValue,
  type Origin,
  objectOf,
  optionsOf,
  textOf,
  truth,
  unknown,
  type Value,
} from './value.js';

/** Callbacks for the steps of a configuration as its text is followed. An object may get more fields after a callback has it. */
export interface Observer {
  /** A field of an object, with the key of the object around it. */
  field?(key: string, value: Value, parent: string, at: Origin): void;
  /** A call or constructor, by the last part of its name. */
  call?(name: string, args: readonly Value[], at: Origin): void;
  /** An env file that the configuration loads in any case, by a path that is relative to the working directory. */
  load?(path: string, at: Origin): void;
  /** A text that stands for a missing variable of the environment. */
  fallback?(name: string, text: string, at: Origin): void;
  /** A read of a variable of the environment. */
  read?(name: string, at: Origin): void;
  /** An assignment to a variable of the environment. */
  environment?(name: string, value: Value, at: Origin): void;
}

export interface EvaluateHow {
  /** The directory that paths in values are relative to; that of the configuration if absent. */
  folder?: string;
  /** The project's own file that a module imports. */
  load?(from: string, specifier: string): { path: string; text: string } | undefined;
  /** Functions that return the variables of env files. */
  loaders?: readonly string[];
  /** The names that the environment is known to have. */
  names?: Iterable<string>;
  /** Keys of the object that an exported function gets, and no others; any arguments if absent. */
  argument?: readonly string[];
}

/** The result of following a file. */
export interface Evaluated {
  /** The value of the default export, or of `module.exports`. */
  exported: Value;
  /** Modules that it imports and that were not followed. */
  imports: readonly string[];
  /** Tells whether all of it was followed. */
  isWhole: boolean;
  /** Tells whether the file itself could be parsed. */
  isParsed: boolean;
}

const DEEPEST_CALL = 40;

/** How a statement ends. */
type End = 'end' | 'return' | 'break' | 'continue';

class TooMuch extends Error {}

/**
 * Follows what the text of a configuration does, without running it: objects, lists, functions, loops, imports of the project's own
 * files, and the functions of the platform that {@link callForeign} knows. Values of the environment, and whatever depends on
 * them or on the command line, are not known; both sides of a condition on them are followed.
 */
export function evaluate(path: string, text: string, observer: Observer = {}, how: EvaluateHow = {}): Evaluated {
  const interpreter = new Interpreter(observer, how);
  const rest = () => ({ imports: [...interpreter.imports], isParsed: !interpreter.broken.has(path) });
  try {
    const exports = interpreter.module(path, text);
    const exported = member(exports, known('default'));
    interpreter.callTheRest(exported);
    return { ...rest(), exported, isWhole: interpreter.broken.size === 0 };
  } catch (error) {
    if (!(error instanceof TooMuch || error instanceof RangeError)) throw error;
    return { ...rest(), exported: unknown, isWhole: false };
  }
}

/** One call of a function. */
interface Frame {
  returned: Value[];
}

/** Where code runs: its variables, its file, and the call that it belongs to. */
interface At {
  scope: Scope;
  path: string;
  frame: Frame;
}

class Interpreter implements Caller {
  /** How many unknown conditions are around. */
  unsure = 0;
  /** Paths of files that could not be parsed. */
  readonly broken = new Set<string>();
  readonly imports = new Set<string>();
  readonly names: readonly string[];
  /** The exports of each module. */
  readonly #modules = new Map<string, ObjectValue>();
  readonly #uncalled = new Set<FunctionValue>();
  #steps = 0;
  #depth = 0;

  constructor(
    readonly observer: Observer,
    readonly how: EvaluateHow,
  ) {
    this.names = [...(how.names ?? [])];
  }

  module(path: string, text: string): ObjectValue {
    const done = this.#modules.get(path);
    if (done) return done;
    const exports = objectOf([]);
    this.#modules.set(path, exports);
    if (path.endsWith('.json')) {
      exports.fields.set('default', valueOfJson(text));
      return exports;
    }
    const scope = new Scope(undefined, true);
    const own = posix.relative(this.how.folder ?? posix.dirname(path), path);
    const common = objectOf([['exports', exports]]);
    for (const [name, value] of [
      ['module', common],
      ['exports', exports],
      ['__dirname', known(posix.dirname(own))],
      ['__filename', known(own)],
      ['import.meta', metaOf(own)],
    ] as const)
      scope.declare(name, value, 0);
    const { program, problem } = parseSyntax(text, scriptLanguage(path) ?? 'js');
    if (problem) this.broken.add(path);
    this.#block(program.body as Node[], { scope, path, frame: { returned: [] } });
    const assigned = common.fields.get('exports');
    if (assigned && assigned !== exports) exports.fields.set('default', assigned);
    // `exports.x = …` of a module without a default export is what `require` returns.
    else if (!exports.fields.has('default')) exports.fields.set('default', objectOf(exports.fields));
    return exports;
  }

  /** Functions that the file itself calls nowhere are called by its tool; only the arguments of the exported one may be known. */
  callTheRest(exported: Value): void {
    const args = this.how.argument ? [objectOf(this.how.argument.map((key) => [key, unknown]))] : [];
    for (const one of optionsOf(exported)) if (one.kind === 'function' && this.#uncalled.delete(one)) one.call(args);
    for (const one of this.#uncalled) this.maybe(() => one.call([]));
  }

  /** Calls a function of the configuration, or says that a function of others does what it does. */
  call(callee: Value, args: readonly Value[], at: Origin): Value {
    return eachOf(callee, (one) => {
      if (one.kind === 'function') return one.call(args);
      if (one.kind === 'foreign') return callForeign(this, one.name, args, at);
      this.passOn(args);
      return unknown;
    });
  }

  /** A function that is not known may call the functions that it gets. */
  passOn(args: readonly Value[]): void {
    for (const one of args.flatMap(optionsOf)) if (one.kind === 'function') this.maybe(() => one.call([]));
  }

  settle(args: readonly Value[]): void {
    for (const one of args) if (one.kind === 'function') this.#uncalled.delete(one);
  }

  loaded(path: string, at: Origin): void {
    if (this.unsure === 0) this.observer.load?.(path, at);
  }

  required(specifier: Value, from: string): Value {
    const text = keyOf(specifier);
    return text === undefined ? unknown : imported(this.#required(text, from), 'default');
  }

  /** Does what may happen or not. */
  maybe<Result>(action: () => Result): Result {
    this.unsure++;
    const result = action();
    this.unsure--;
    return result;
  }

  #step(): void {
    if (++this.#steps > limits.configurationSteps.value) throw new TooMuch();
  }

  // Statements

  #block(statements: readonly Node[], at: At): End {
    for (const one of statements) {
      const declared = one.type.startsWith('Export') ? (one.declaration as Node | null) : one;
      if (declared && /^(Function|Class)Declaration$/.test(declared.type) && declared.id)
        at.scope.declare((declared.id as Node).name as string, this.#function(declared, at), this.unsure);
    }
    for (const one of statements) {
      const end = this.#statement(one, at);
      if (end !== 'end') return end;
    }
    return 'end';
  }

  #statement(node: Node, at: At): End {
    this.#step();
    switch (node.type) {
      case 'VariableDeclaration':
        this.#declare(node, at);
        return 'end';
      case 'ExpressionStatement':
        this.value(node.expression as Node, at);
        return 'end';
      case 'ReturnStatement':
        at.frame.returned.push(node.argument ? this.value(node.argument as Node, at) : nothing);
        return 'return';
      case 'ThrowStatement':
        return 'return';
      case 'BreakStatement':
        return 'break';
      case 'ContinueStatement':
        return 'continue';
      case 'BlockStatement':
        return this.#block(node.body as Node[], inner(at));
      case 'LabeledStatement':
        return this.#statement(node.body as Node, at);
      case 'IfStatement':
        return this.#if(node, at);
      case 'ForOfStatement':
      case 'ForInStatement':
        return this.#forEach(node, at);
      case 'ForStatement':
      case 'WhileStatement':
      case 'DoWhileStatement':
        return this.#loop(node, inner(at));
      case 'SwitchStatement':
        return this.#switch(node, inner(at));
      case 'TryStatement':
        return this.#try(node, at);
      case 'ImportDeclaration':
        this.#import(node, at);
        return 'end';
      case 'TSExportAssignment':
        this.#export('default', this.value(node.expression as Node, at), at);
        return 'end';
      default:
        if (node.type.startsWith('Export')) this.#exported(node, at);
        return 'end';
    }
  }

  #declare(node: Node, at: At): void {
    for (const { id, init } of node.declarations as Node[]) {
      const value = init ? this.value(init as Node, at) : nothing;
      const scope = node.kind === 'var' ? at.scope.owner() : at.scope;
      this.#bind(id as Node, value, at, (name, bound) => scope.declare(name, bound, this.unsure));
    }
  }

  #if(node: Node, at: At): End {
    const holds = truth(this.value(node.test as Node, at));
    const branch = (name: 'consequent' | 'alternate'): End =>
      node[name] ? this.#statement(node[name] as Node, at) : 'end';
    if (holds !== undefined) return branch(holds ? 'consequent' : 'alternate');
    return this.maybe(() => {
      const ends = [branch('consequent'), branch('alternate')];
      return ends[0] === ends[1] ? (ends[0] as End) : 'end';
    });
  }

  #forEach(node: Node, at: At): End {
    const over = this.value(node.right as Node, at);
    const left = node.left as Node;
    const round = (item: Value): End => {
      const within = inner(at);
      const target = left.type === 'VariableDeclaration' ? ((left.declarations as Node[])[0]?.id as Node) : left;
      this.#bind(target, item, within, (name, bound) => within.scope.declare(name, bound, this.unsure));
      return this.#statement(node.body as Node, within);
    };
    const items = node.type === 'ForInStatement' ? callForeign(this, 'Object.keys', [over], originOf(node, at)) : over;
    for (const one of optionsOf(items)) {
      const isList = one.kind === 'list';
      for (const item of isList ? one.items : []) {
        const end = round(item);
        if (end === 'return') return end;
        if (end === 'break') break;
      }
      if (!isList || one.isOpen) this.maybe(() => round(isList ? unknown : mixed([one])));
    }
    return 'end';
  }

  #loop(node: Node, at: At): End {
    if (node.init) {
      const init = node.init as Node;
      if (init.type === 'VariableDeclaration') this.#declare(init, at);
      else this.value(init, at);
    }
    // A loop that does not end takes more steps than a configuration may.
    for (let isFirst = true; ; isFirst = false) {
      const isFirstOfDo = node.type === 'DoWhileStatement' && isFirst;
      const holds = isFirstOfDo || !node.test ? true : truth(this.value(node.test as Node, at));
      if (holds === false) return 'end';
      const round = () => this.#statement(node.body as Node, at);
      const end = holds ? round() : this.maybe(round);
      if (end === 'return') return holds ? end : 'end';
      if (end === 'break' || holds === undefined) return 'end';
      if (node.update) this.value(node.update as Node, at);
    }
  }

  #switch(node: Node, at: At): End {
    const subject = this.value(node.discriminant as Node, at);
    const cases = node.cases as Node[];
    const run = (from: number): End => {
      const end = this.#block(
        cases.slice(from).flatMap((one) => one.consequent as Node[]),
        at,
      );
      return end === 'break' ? 'end' : end;
    };
    if (subject.kind !== 'known') {
      this.maybe(() => cases.forEach((_, from) => void run(from)));
      return 'end';
    }
    const matches = cases.findIndex(
      ({ test }) => test && truth(operate('===', subject, this.value(test as Node, at))) === true,
    );
    const from = matches >= 0 ? matches : cases.findIndex(({ test }) => !test);
    return from < 0 ? 'end' : run(from);
  }

  #try(node: Node, at: At): End {
    const end = this.#statement(node.block as Node, at);
    const handler = node.handler as Node | null;
    if (handler) {
      const within = inner(at);
      if (handler.param)
        this.#bind(handler.param as Node, unknown, within, (name, value) => within.scope.declare(name, value, 0));
      this.maybe(() => this.#statement(handler.body as Node, within));
    }
    const last = node.finalizer ? this.#statement(node.finalizer as Node, at) : 'end';
    return last === 'end' ? end : last;
  }

  // Modules

  #import(node: Node, at: At): void {
    if (node.importKind === 'type') return;
    const module = this.#required((node.source as Node).value as string, at.path);
    for (const one of node.specifiers as Node[]) {
      const local = (one.local as Node).name as string;
      const value =
        one.type === 'ImportNamespaceSpecifier'
          ? module
          : imported(module, one.type === 'ImportDefaultSpecifier' ? 'default' : nameOfImport(one));
      at.scope.declare(local, value, 0);
    }
  }

  /** The exports of another module. */
  #required(specifier: string, from: string): Value {
    const file = specifier.startsWith('.') ? this.how.load?.(from, specifier) : undefined;
    if (file) return this.module(file.path, file.text);
    this.imports.add(specifier);
    // A module that loads the usual env file as it is imported.
    if (/env[\w-]*\/config$/i.test(specifier)) this.loaded('.env', { path: from, start: 0, end: 0 });
    return { kind: 'foreign', name: specifier.replace(/^node:/, '') };
  }

  #exported(node: Node, at: At): void {
    const declaration = node.declaration as Node | null;
    if (node.type === 'ExportDefaultDeclaration' && declaration) {
      // One with a name is declared already.
      const named = (declaration.id as Node | null)?.name as string | undefined;
      const value = /^(Function|Class)Declaration$/.test(declaration.type)
        ? (named !== undefined && at.scope.value(named)) || this.#function(declaration, at)
        : this.value(declaration, at);
      this.#export('default', value, at);
    } else if (declaration) {
      this.#statement(declaration, at);
      const named =
        declaration.type === 'VariableDeclaration'
          ? (declaration.declarations as Node[]).map(({ id }) => id as Node)
          : [declaration.id as Node];
      for (const { name } of named)
        if (name) this.#export(name as string, at.scope.value(name as string) ?? unknown, at);
    } else if (node.source) {
      const module = this.#required((node.source as Node).value as string, at.path);
      if (node.type === 'ExportAllDeclaration') this.#exportAll(module, at);
      else
        for (const one of (node.specifiers ?? []) as Node[])
          this.#export(textOfName(one.exported as Node), imported(module, textOfName(one.local as Node)), at);
    } else
      for (const one of (node.specifiers ?? []) as Node[])
        this.#export(textOfName(one.exported as Node), this.value(one.local as Node, at), at);
  }

  #exportAll(module: Value, at: At): void {
    if (module.kind === 'object')
      for (const [name, value] of module.fields) if (name !== 'default') this.#export(name, value, at);
  }

  #export(name: string, value: Value, at: At): void {
    this.#modules.get(at.path)?.fields.set(name, value);
  }

  // Expressions

  value(node: Node, at: At, parent = ''): Value {
    this.#step();
    const value = (one: unknown) => this.value(one as Node, at);
    if (isWrapper(node)) return this.value(node.expression as Node, at, parent);
    switch (node.type) {
      case 'Literal':
        return 'regex' in node && !(node.value instanceof RegExp) ? unknown : known(node.value as string);
      case 'Identifier':
        return at.scope.value(node.name as string) ?? globalValue(node.name as string);
      case 'TemplateLiteral':
        return this.#template(node, at);
      case 'ObjectExpression':
        return this.#object(node, at, parent);
      case 'ArrayExpression':
        return this.#list(node.elements as (Node | null)[], at);
      case 'ArrowFunctionExpression':
      case 'FunctionExpression':
      case 'ClassExpression':
        return this.#function(node, at);
      case 'ThisExpression':
        return at.scope.value('this') ?? unknown;
      case 'MemberExpression':
        return this.#member(node, at);
      case 'MetaProperty':
        return at.scope.value('import.meta') ?? unknown;
      case 'CallExpression':
      case 'NewExpression':
        return this.#call(node, at);
      case 'ImportExpression':
        return this.#required(keyOf(value(node.source)) ?? '', at.path);
      case 'AwaitExpression':
        return value(node.argument);
      case 'SequenceExpression':
        return (node.expressions as Node[]).map(value).at(-1) ?? nothing;
      case 'ConditionalExpression':
        return this.#conditional(node, at);
      case 'LogicalExpression':
        return this.#logical(node.operator as string, value(node.left), node.right as Node, at);
      case 'BinaryExpression':
        return operate(node.operator as string, value(node.left), value(node.right));
      case 'UnaryExpression':
        return this.#unary(node, at);
      case 'AssignmentExpression':
        return this.#assign(node, at);
      case 'UpdateExpression':
        return this.#update(node, at);
      default:
        return unknown;
    }
  }

  #template(node: Node, at: At): Value {
    const texts = node.quasis as { value: { cooked: string | null } }[];
    return (node.expressions as Node[]).reduce<Value>(
      (sum, one, index) =>
        operate('+', operate('+', sum, this.value(one, at)), known(texts[index + 1]?.value.cooked ?? '')),
      known(texts[0]?.value.cooked ?? ''),
    );
  }

  #object(node: Node, at: At, parent: string): Value {
    const made = objectOf([], this.unsure);
    for (const one of node.properties as Node[]) {
      if (one.type === 'SpreadElement') {
        spreadInto(made, this.value(one.argument as Node, at));
        continue;
      }
      const key = this.#key(one.key as Node, one.computed, at);
      const name = keyOf(key) ?? '';
      const value = one.kind === 'get' ? unknown : this.value(one.value as Node, at, name);
      const place = originOf(one.value as Node, at);
      setField(made, key, value, place, this.unsure);
      if (name !== '') this.observer.field?.(name, value, parent, place);
    }
    return made;
  }

  #list(elements: readonly (Node | null)[], at: At): Value {
    const made = listOf([]);
    for (const one of elements) {
      const isSpread = one?.type === 'SpreadElement';
      const value = one ? this.value((isSpread ? one.argument : one) as Node, at) : nothing;
      if (isSpread && value.kind === 'list') {
        made.items.push(...value.items);
        made.isOpen ||= value.isOpen;
      } else if (isSpread) {
        made.items.push(mixed([value]));
        made.isOpen = true;
      } else made.items.push(value);
    }
    return made;
  }

  #function(node: Node, at: At): Value {
    const made: FunctionValue = {
      kind: 'function',
      call: (args) => {
        this.#uncalled.delete(made);
        return node.type.startsWith('Class') ? this.#instance(node, args, at) : this.#invoke(node, args, at);
      },
    };
    this.#uncalled.add(made);
    return made;
  }

  /** An object of a class, without what it inherits. */
  #instance(node: Node, args: readonly Value[], at: At): Value {
    const made = objectOf([], this.unsure);
    const within = inner(at);
    within.scope.declare('this', made, this.unsure);
    const members = (node.body as Node).body as Node[];
    const named = members.filter(({ key, computed, static: isStatic }) => key && !computed && !isStatic);
    for (const one of named) {
      const value = one.value as Node | null;
      const isField = one.type === 'PropertyDefinition' && value !== null;
      if (isField || one.kind === 'method')
        setField(made, known(textOfName(one.key as Node)), this.value(value as Node, within), originOf(one, at), 0);
    }
    const own = named.find(({ kind }) => kind === 'constructor');
    if (own) this.#invoke(own.value as Node, args, within);
    return made;
  }

  #invoke(node: Node, args: readonly Value[], { scope, path }: At): Value {
    const body = node.body as Node | null;
    if (this.#depth > DEEPEST_CALL || !body) return mixed(args);
    this.#depth++;
    const at: At = { scope: new Scope(scope, true), path, frame: { returned: [] } };
    const declare = (name: string, value: Value) => at.scope.declare(name, value, this.unsure);
    for (const [index, parameter] of (node.params as Node[]).entries()) {
      if (parameter.type === 'RestElement')
        this.#bind(parameter.argument as Node, listOf(args.slice(index), args.length === 0), at, declare);
      else this.#bind(parameter, args[index] ?? (args.length === 0 ? unknown : nothing), at, declare);
    }
    let result: Value;
    if (body.type === 'BlockStatement') {
      const end = this.#block(body.body as Node[], at);
      result = either(end === 'end' ? [...at.frame.returned, nothing] : at.frame.returned);
    } else result = this.value(body, at);
    this.#depth--;
    return result;
  }

  #member(node: Node, at: At): Value {
    const key = this.#key(node.property as Node, node.computed, at);
    return this.#read(this.value(node.object as Node, at), key, originOf(node, at));
  }

  /** The name of a field or member, which is an expression in brackets. */
  #key(node: Node, computed: unknown, at: At): Value {
    return computed ? this.value(node, at) : known(textOfName(node));
  }

  /** A member of a value, which may be a variable of the environment. */
  #read(object: Value, key: Value, at: Origin): Value {
    const name = keyOf(key);
    const isRead = name !== undefined && optionsOf(object).some(({ kind }) => kind === 'environment');
    if (isRead) this.observer.read?.(name, at);
    return member(object, key, at);
  }

  #call(node: Node, at: At): Value {
    const callee = unwrap(node.callee as Node);
    const args = this.#list(node.arguments as Node[], at);
    const values = args.kind === 'list' ? args.items : [];
    const place = originOf(node, at);
    const name = lastName(callee);
    if (name !== undefined) this.observer.call?.(name, values, place);
    if (name !== undefined && this.how.loaders?.includes(name)) return loadedEnvironment(values, place);
    if (callee.type !== 'MemberExpression') return this.call(this.value(callee, at), values, place);
    const object = this.value(callee.object as Node, at);
    const key = this.#key(callee.property as Node, callee.computed, at);
    return eachOf(object, (one) => {
      const own = one.kind === 'object' || one.kind === 'foreign' ? member(one, key) : undefined;
      if (own && /^(function|foreign)$/.test(own.kind)) return this.call(own, values, place);
      return callMethod(this, one, keyOf(key) ?? '', values, place);
    });
  }

  #conditional(node: Node, at: At): Value {
    const holds = truth(this.value(node.test as Node, at));
    if (holds !== undefined) return this.value((holds ? node.consequent : node.alternate) as Node, at);
    return this.maybe(() => either([this.value(node.consequent as Node, at), this.value(node.alternate as Node, at)]));
  }

  #logical(operator: string, left: Value, right: Node, at: At): Value {
    if (operator === '??') {
      const isAbsent = left.kind === 'known' ? (left.value ?? undefined) === undefined : undefined;
      if (left.kind === 'known') return isAbsent ? this.value(right, at) : left;
      if (!/^(opaque|choice|foreign)$/.test(left.kind)) return left;
    } else {
      const holds = truth(left);
      if (holds !== undefined) return holds === (operator === '&&') ? this.value(right, at) : left;
    }
    const other = this.maybe(() => this.value(right, at));
    if (operator === '&&') return other;
    this.#noteFallback(left, other, originOf(right, at));
    return either([left, other]);
  }

  #noteFallback(value: Value, other: Value, at: Origin): void {
    const text = textOf(other);
    const [name, more] = carriedBy([value]).keys();
    if (text !== undefined && name !== undefined && more === undefined) this.observer.fallback?.(name, text, at);
  }

  #unary(node: Node, at: At): Value {
    if (node.operator === 'delete') return this.#delete(unwrap(node.argument as Node), at);
    const value = this.value(node.argument as Node, at);
    if (node.operator === '!') {
      const holds = truth(value);
      return holds === undefined ? unknown : known(!holds);
    }
    if (node.operator === 'void') return nothing;
    if (value.kind !== 'known') return unknown;
    if (node.operator === 'typeof') return known(typeof value.value);
    return node.operator === '-' ? known(-(value.value as number)) : known(Number(value.value));
  }

  #delete(target: Node, at: At): Value {
    if (target.type === 'MemberExpression') this.#write(target, nothing, at);
    return known(true);
  }

  #assign(node: Node, at: At): Value {
    const left = unwrap(node.left as Node);
    const right = node.right as Node;
    const operator = (node.operator as string).slice(0, -1);
    const value =
      operator === ''
        ? this.value(right, at)
        : /^(\|\||&&|\?\?)$/.test(operator)
          ? this.#logical(operator, this.value(left, at), right, at)
          : operate(operator, this.value(left, at), this.value(right, at));
    if (left.type === 'MemberExpression') this.#write(left, value, at, right);
    else this.#bind(left, value, at, (name, bound) => at.scope.assign(name, bound, this.unsure));
    return value;
  }

  #update(node: Node, at: At): Value {
    const target = unwrap(node.argument as Node);
    const old = this.value(target, at);
    const value = operate(node.operator === '++' ? '+' : '-', old, known(1));
    if (target.type === 'Identifier') at.scope.assign(target.name as string, value, this.unsure);
    return old;
  }

  /** Writes a field. */
  #write(target: Node, value: Value, at: At, from: Node = target): void {
    const key = this.#key(target.property as Node, target.computed, at);
    const name = keyOf(key);
    const place = originOf(from, at);
    for (const object of optionsOf(this.value(target.object as Node, at))) {
      if (object.kind === 'object') setField(object, key, value, place, this.unsure);
      if (object.kind === 'environment' && name !== undefined) this.observer.environment?.(name, value, place);
    }
    const owner = unwrap(target.object as Node);
    const inBrackets = owner.computed ? constantText(owner.property as Node) : undefined;
    const parent = owner.type === 'MemberExpression' ? (inBrackets ?? lastName(owner) ?? '') : '';
    if (name !== undefined) this.observer.field?.(name, value, parent, place);
  }

  /** Gives a value to the names of a pattern. */
  #bind(pattern: Node, value: Value, at: At, write: (name: string, value: Value) => void): void {
    switch (pattern.type) {
      case 'Identifier':
        write(pattern.name as string, value);
        break;
      case 'AssignmentPattern': {
        const isAbsent = value.kind === 'known' && value.value === undefined;
        const isKnown = value.kind !== 'opaque' && value.kind !== 'choice';
        const usual = () => this.value(pattern.right as Node, at);
        const other = isAbsent || isKnown ? undefined : this.maybe(usual);
        if (other) this.#noteFallback(value, other, originOf(pattern.right as Node, at));
        const bound = isAbsent ? usual() : other ? either([value, other]) : value;
        this.#bind(pattern.left as Node, bound, at, write);
        break;
      }
      case 'ObjectPattern':
        for (const one of pattern.properties as Node[]) {
          if (one.type === 'RestElement') this.#bind(one.argument as Node, value, at, write);
          else {
            const key = this.#key(one.key as Node, one.computed, at);
            this.#bind(one.value as Node, this.#read(value, key, originOf(one, at)), at, write);
          }
        }
        break;
      case 'ArrayPattern':
        for (const [index, one] of (pattern.elements as (Node | null)[]).entries()) {
          if (one?.type === 'RestElement') this.#bind(one.argument as Node, mixed([value]), at, write);
          else if (one) this.#bind(one, member(value, known(index)), at, write);
        }
        break;
      case 'MemberExpression':
        this.#write(pattern, value, at);
        break;
    }
  }
}

function inner({ scope, ...at }: At): At {
  return { ...at, scope: new Scope(scope) };
}

function originOf({ start, end }: Node, { path }: At): Origin {
  return { path, start, end };
}

function textOfName(node: Node): string {
  return String(node.type === 'Literal' ? node.value : node.name);
}

/** `DefinePlugin` of `webpack.DefinePlugin`. */
function lastName(node: Node): string | undefined {
  if (node.type === 'Identifier') return node.name as string;
  return node.type === 'MemberExpression' && !node.computed ? ((node.property as Node).name as string) : undefined;
}
