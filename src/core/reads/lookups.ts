import { scriptLanguage } from '../files/languages.js';
import { type Node, parseSyntax } from '../syntax/parse.js';
import { declarationOf } from '../syntax/scopes.js';
import { constantText, isTypeOnly, nameOfImport, unwrap, walk } from '../syntax/walk.js';
import { oncePer } from '../text/once.js';
import type { Read } from './read.js';

/** A source text with what is known of it. */
interface Source {
  path: string;
  text: string;
  reads: readonly Read[];
}

/** A function of the project that reads the name that it is given: `requireEnv('NAME')`. */
interface Lookup {
  /** The function, or the declarator with it. */
  declaration: Node;
  /** Name under which other modules import it; for a default export, its own. */
  exported?: string;
  parameter: number;
  object: string;
}

/** A schema of another module that the whole object is checked by. */
interface Schema {
  exported: string;
  object: string;
}

/**
 * Reads through the project's own functions and schemas: `requireEnv('NAME')`, where the function reads `process.env[name]`,
 * and `schema.parse(process.env)`, for each key of the schema that is written like a name. By path, with offsets in the text
 * of that path. Only projects with such a function or schema have any of their files parsed again.
 */
export function indirectReads(sources: Iterable<Source>): Map<string, Read[]> {
  const all = [...sources].filter(({ path }) => scriptLanguage(path) !== undefined);
  const found = new Map<string, Read[]>();
  const add = (path: string, reads: readonly Read[]) => {
    if (reads.length > 0) found.set(path, [...(found.get(path) ?? []), ...reads]);
  };
  const scriptOf = oncePer((source: Source) => new Script(source));
  const scripts = all.filter(({ reads }) => reads.some(isIndirect)).map(scriptOf);
  for (const script of scripts) add(script.source.path, script.own());
  const lookups = byName(scripts.flatMap(({ lookups: all }) => all.filter(({ exported }) => exported !== undefined)));
  const schemas = byName(scripts.flatMap(({ schemas: all }) => all));
  for (const source of all) {
    const mentions = (name: string) => source.text.includes(name);
    if ([...lookups.keys()].some(mentions)) add(source.path, scriptOf(source).imported(lookups));
    if ([...schemas.keys()].some(mentions)) add(source.path, scriptOf(source).ofSchemas(schemas));
  }
  return found;
}

/** Adds the {@link indirectReads} of files to their reads. */
export function addIndirectReads<One extends Source>(files: Map<string, One>): void {
  for (const [path, more] of indirectReads(files.values())) {
    const file = files.get(path);
    if (file) files.set(path, { ...file, reads: [...file.reads, ...more] });
  }
}

function isIndirect({ kind, name }: Read): boolean {
  return kind === 'whole' || kind === 'spread' || (kind === 'computed' && name === undefined);
}

function byName<One extends { exported?: string }>(all: readonly One[]): Map<string, One> {
  return new Map(all.map((one) => [one.exported ?? '', one]));
}

/** Names of variables, as schemas have them for keys. */
const isVariable = /^[A-Z][A-Z0-9]*(_[A-Z0-9]+)*$/;

class Script {
  readonly #program: Node;
  readonly lookups: Lookup[] = [];
  /** Schemas that this script imports. */
  readonly schemas: Schema[] = [];

  constructor(readonly source: Source) {
    this.#program = parseSyntax(source.text, scriptLanguage(source.path) ?? 'js').program;
  }

  /** Reads through functions and schemas of this script. */
  own(): Read[] {
    const places = new Map(this.source.reads.filter(isIndirect).map((read) => [`${read.start}:${read.end}`, read]));
    const found: Read[] = [];
    walk(this.#program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      const read = places.get(`${node.start}:${node.end}`);
      if (!read || (read.kind === 'computed' && node.type !== 'MemberExpression')) return undefined;
      // A node around it may have the same offsets.
      places.delete(`${node.start}:${node.end}`);
      if (read.kind === 'computed') this.#lookup(node, read.object, ancestors);
      else found.push(...this.#checked(read, ancestors));
      return undefined;
    });
    // A function may pass its name on to another one.
    for (let known = 0; known < this.lookups.length; known++) this.#passedOn(this.lookups[known] as Lookup);
    return [...found, ...this.#calls((_, declaration) => this.lookups.find((one) => one.declaration === declaration))];
  }

  /** Calls of functions that this script imports. */
  imported(lookups: ReadonlyMap<string, Lookup>): Read[] {
    return this.#calls((name, declaration) => {
      if (declaration.type === 'ImportSpecifier') return lookups.get(nameOfImport(declaration));
      if (declaration.type === 'ImportDefaultSpecifier') return lookups.get(name);
      return undefined;
    });
  }

  /** Keys of schemas that this script exports, and another one checks the object by. */
  ofSchemas(schemas: ReadonlyMap<string, Schema>): Read[] {
    const found: Read[] = [];
    walk(this.#program, (node) => {
      if (node.type !== 'ExportNamedDeclaration') return undefined;
      const declaration = node.declaration as Node | null;
      for (const one of (declaration?.declarations ?? []) as Node[]) {
        const schema = schemas.get((one.id as Node).name as string);
        if (schema && one.init) found.push(...keysIn(one.init as Node, schema.object));
      }
      return false;
    });
    return found;
  }

  /** `process.env[name]` in a function with the parameter `name`. */
  #lookup(node: Node, object: string, ancestors: readonly Node[]): void {
    const key = unwrap(node.property as Node);
    if (key.type === 'Identifier') this.#byParameter(key.name as string, object, ancestors);
  }

  #byParameter(name: string, object: string, ancestors: readonly Node[]): void {
    const parameter = declarationOf(name, ancestors);
    const at = ancestors.findLastIndex(
      (one) => /Function/.test(one.type) && (one.params as Node[]).includes(parameter as Node),
    );
    const made = ancestors[at];
    if (!made || !parameter) return;
    const around = ancestors.slice(0, at);
    const declarator = around.at(-1)?.type === 'VariableDeclarator' ? around.at(-1) : undefined;
    const exporter = around.findLast(({ type }) => /^Export(Named|Default)Declaration$/.test(type));
    const own = ((declarator?.id ?? made.id) as Node | null | undefined)?.name as string | undefined;
    const exported = exporter || this.#isListed(own) ? own : undefined;
    this.lookups.push({
      declaration: declarator ?? made,
      ...(exported !== undefined && { exported }),
      parameter: (made.params as Node[]).indexOf(parameter),
      object,
    });
  }

  /** Tells whether `export { name }` or `export default name` is in the script. */
  #isListed(name: string | undefined): boolean {
    return (this.#program.body as Node[]).some(({ type, specifiers, declaration }) =>
      type === 'ExportDefaultDeclaration'
        ? (declaration as Node).name === name
        : type === 'ExportNamedDeclaration' &&
          (specifiers as Node[]).some(({ local }) => (local as Node).name === name),
    );
  }

  /** `(name) => requireEnv(name) ?? ''`. */
  #passedOn({ declaration, parameter, object }: Lookup): void {
    walk(this.#program, (node, ancestors) => {
      const argument = calledWith(node, declaration, parameter, ancestors);
      const isKnown = this.lookups.length > MOST_LOOKUPS;
      if (argument?.type === 'Identifier' && !isKnown) this.#byParameter(argument.name as string, object, ancestors);
      return undefined;
    });
  }

  #calls(lookupOf: (name: string, declaration: Node) => Lookup | undefined): Read[] {
    const found: Read[] = [];
    walk(this.#program, (node, ancestors) => {
      if (isTypeOnly(node)) return false;
      const callee = node.type === 'CallExpression' ? unwrap(node.callee as Node) : undefined;
      const declaration = callee?.type === 'Identifier' ? declarationOf(callee.name as string, ancestors) : undefined;
      const lookup = declaration && lookupOf(callee?.name as string, declaration);
      const argument = lookup && (node.arguments as Node[])[lookup.parameter];
      const name = argument && constantText(unwrap(argument));
      if (lookup && argument && name !== undefined) found.push(readAt('lookup', lookup.object, name, node, argument));
      return undefined;
    });
    return found;
  }

  /** Keys of the objects in a call that the whole object is given to, and of the schema whose method is called. */
  #checked({ object }: Read, ancestors: readonly Node[]): Read[] {
    const at = ancestors.findLastIndex(({ type }) => /^(Call|New)Expression$/.test(type));
    const call = ancestors[at];
    // A function around it belongs to other calls.
    if (!call || ancestors.slice(at).some(({ type }) => /Function/.test(type))) return [];
    // Keys beside a spread object are added to it, for a program that is started, say.
    const beside = ancestors.at(-1)?.type === 'SpreadElement' ? ancestors.at(-2) : undefined;
    const inCall = (call.arguments as Node[]).flatMap((one) => keysIn(one, object, beside));
    const callee = unwrap(call.callee as Node);
    const owner = callee.type === 'MemberExpression' ? unwrap(callee.object as Node) : callee;
    if (owner.type !== 'Identifier') return [...inCall, ...keysIn(owner, object)];
    const declaration = declarationOf(owner.name as string, ancestors.slice(0, at));
    if (declaration?.type === 'ImportSpecifier') this.schemas.push({ exported: nameOfImport(declaration), object });
    const init = declaration?.type === 'VariableDeclarator' ? (declaration.init as Node | null) : null;
    return [...inCall, ...(init ? keysIn(init, object) : [])];
  }
}

/** More functions than a script has that look names up. */
const MOST_LOOKUPS = 100;

function calledWith(node: Node, declaration: Node, parameter: number, ancestors: readonly Node[]): Node | undefined {
  if (node.type !== 'CallExpression') return undefined;
  const callee = unwrap(node.callee as Node);
  const isCalled = callee.type === 'Identifier' && declarationOf(callee.name as string, ancestors) === declaration;
  const argument = isCalled ? (node.arguments as Node[])[parameter] : undefined;
  return argument && unwrap(argument);
}

/** Keys of object literals that are written like names of variables, and whose values say more than a text. */
function keysIn(node: Node, object: string, except?: Node): Read[] {
  const found: Read[] = [];
  walk(node, (one) => {
    if (one === except || /Function/.test(one.type)) return false;
    if (one.type !== 'Property' || one.computed || (one.value as Node).type === 'Literal') return undefined;
    const key = one.key as Node;
    const name = (key.name ?? key.value) as unknown;
    if (typeof name === 'string' && isVariable.test(name)) found.push(readAt('schema', object, name, one, key));
    return undefined;
  });
  return found;
}

function readAt(kind: 'lookup' | 'schema', object: string, name: string, { start, end }: Node, at: Node): Read {
  return { kind, object, name, optional: false, start, end, nameStart: at.start, nameEnd: at.end };
}
