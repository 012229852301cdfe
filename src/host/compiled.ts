import { closeSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire, Module } from 'node:module';
import { basename, dirname, join, sep } from 'node:path';
import { Script } from 'node:vm';
import { crc32 } from 'node:zlib';

type Compile = (this: Module, content: string, path: string, format?: string) => unknown;

/** A module of the program, wrapped as Node.js wraps CommonJS modules. */
type ModuleFunction = (
  this: unknown,
  exports: unknown,
  require: (id: string) => unknown,
  module: Module,
  path: string,
  folder: string,
) => unknown;

/** The cache of one call: the source of all modules that it loads as one script, and V8's compiled code. */
interface Kept {
  names: string[];
  source: string;
  /** Absent until a call has run the script: V8 compiles a function when it first runs. */
  code?: Buffer;
}

/** The start of a stored file. The checksum covers source and code: V8 would run damaged code. */
interface Header {
  names: string[];
  sourceLength: number;
  sum: number;
}

/** The length of the header and its CRC-32. */
const PREFIX_BYTES = 8;

/**
 * Keeps the program's own files between calls, as one script with its compiled code: finding, reading and compiling them one by one takes
 * longer than most commands do. The first call of a command notes its modules, the second runs them as one script and keeps the compiled
 * code. It is stored beside the program, so only someone who may replace the program may replace it. A folder that cannot be written
 * to, code of another Node.js and a damaged file only mean that nothing is kept.
 * @param program the folder of the program's files, which are ASCII
 * @param call what is run; each call has its own file, because it loads other modules
 * @param build identifies the program's files: V8 compares no more of them than their length
 */
export function keepCompiled(program: string, call: string, build: string): void {
  const { NODE_V8_COVERAGE, NODE_DISABLE_COMPILE_CACHE } = process.env;
  if (NODE_V8_COVERAGE || NODE_DISABLE_COMPILE_CACHE) return;
  const path = join(program, 'compiled', `${build}-${process.version}-${process.arch}-${call}`);
  new Loader(program, path).install();
}

class Loader {
  readonly #kept: Kept | undefined;
  readonly #script: Script | undefined;
  readonly #functions = new Map<string, ModuleFunction>();
  /** Loaded modules that the cached script lacks. */
  readonly #others = new Set<string>();
  readonly #cache: NodeJS.Dict<NodeModule>;

  constructor(
    readonly program: string,
    readonly path: string,
  ) {
    this.#cache = createRequire(join(program, 'any.cjs')).cache;
    this.#kept = readKept(path);
    if (!this.#kept) return;
    const { names, source, code } = this.#kept;
    // V8 drops the code of functions that did not run lately, and what it dropped would not be stored.
    if (!code) setFlags('--no-flush-bytecode');
    this.#script = new Script(source, { filename: path, ...(code && { cachedData: code }) });
    const functions = this.#script.runInThisContext() as ModuleFunction[];
    for (const [index, name] of names.entries()) this.#functions.set(name, functions[index] as ModuleFunction);
  }

  install(): void {
    const loader = this;
    const prototype = Module.prototype as unknown as { _compile: Compile };
    const { _compile: compileAsUsual } = prototype;
    prototype._compile = function (this: Module, content, path, format) {
      if (dirname(path) !== loader.program) return compileAsUsual.call(this, content, path, format);
      return loader.#run(this, basename(path));
    };
    process.on('exit', () => loader.#keep());
  }

  #run(module: Module, name: string): unknown {
    const require = (id: string) => (id.startsWith('./') ? this.#load(id.slice(2), module) : module.require(id));
    const { exports, filename } = module;
    return this.#functionOf(name).call(exports, exports, require, module, filename, this.program);
  }

  /** The program's files need nothing of the search for a package, which takes longer than running most of them. */
  #load(name: string, parent: Module): unknown {
    const path = this.program + sep + name;
    const known = this.#cache[path];
    if (known) return known.exports;
    const module = new Module(path, parent);
    Object.assign(module, { filename: path, paths: parent.paths });
    this.#cache[path] = module;
    this.#run(module, name);
    module.loaded = true;
    return module.exports;
  }

  #functionOf(name: string): ModuleFunction {
    const kept = this.#functions.get(name);
    if (kept) return kept;
    this.#others.add(name);
    return new Script(wrapped(this.program, name), { filename: join(this.program, name) }).runInThisContext();
  }

  #keep(): void {
    const { names = [], source, code } = this.#kept ?? {};
    if (this.#others.size > 0) {
      const all = [...names, ...this.#others];
      const sources = () => all.map((name) => wrapped(this.program, name));
      store(this.path, () => ({ names: all, source: `[${sources().join(',\n')}]` }));
    } else if (source !== undefined && this.#script && (!code || this.#script.cachedDataRejected)) {
      const script = this.#script;
      store(this.path, () => {
        // V8 accepts stored code only under the flags that it was stored under.
        setFlags('--flush-bytecode');
        return { names, source, code: script.createCachedData() };
      });
    }
  }
}

/** Imports `node:v8` lazily, because it loads the stream modules. */
function setFlags(flags: string): void {
  process.getBuiltinModule('node:v8').setFlagsFromString(flags);
}

function wrapped(program: string, name: string): string {
  const source = readFileSync(join(program, name), 'latin1');
  return `(function (exports, require, module, __filename, __dirname) { ${source}\n})`;
}

function readKept(path: string): Kept | undefined {
  try {
    const bytes = readFileSync(path);
    const [length, sum] = [bytes.readUInt32LE(0), bytes.readUInt32LE(4)];
    const content = PREFIX_BYTES + length;
    const header = bytes.subarray(PREFIX_BYTES, content);
    if (crc32(header) !== sum) return undefined;
    const { names, sourceLength, sum: contentSum } = JSON.parse(header.toString()) as Header;
    if (crc32(bytes.subarray(content)) !== contentSum) return undefined;
    const code = bytes.subarray(content + sourceLength);
    return {
      names,
      source: bytes.toString('latin1', content, content + sourceLength),
      ...(code.length > 0 && { code }),
    };
  } catch {
    return undefined;
  }
}

/**
 * Replaces the stored file in one step, so that a program that starts meanwhile reads the old one or the new one. Where nothing can be
 * written, nothing is made.
 */
function store(path: string, make: () => Kept): void {
  const temporary = `${path}.${process.pid}`;
  try {
    mkdirSync(dirname(path), { recursive: true });
    const file = openSync(temporary, 'wx');
    try {
      writeFileSync(file, stored(make()));
    } finally {
      closeSync(file);
    }
    renameSync(temporary, path);
  } catch {
    rmSync(temporary, { force: true });
  }
}

function stored({ names, source, code }: Kept): Buffer {
  const content = Buffer.concat([Buffer.from(source, 'latin1'), ...(code ? [code] : [])]);
  const about: Header = { names, sourceLength: source.length, sum: crc32(content) };
  const header = Buffer.from(JSON.stringify(about));
  const prefix = Buffer.from(Uint32Array.of(header.length, crc32(header)).buffer);
  return Buffer.concat([prefix, header, content]);
}
