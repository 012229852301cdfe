import {
  closeSync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { createRequire, Module } from 'node:module';
import { basename, dirname, join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { Script } from 'node:vm';
import { crc32 } from 'node:zlib';

type Compile = (this: Module, content: string, path: string, format?: string) => unknown;

/** File name to the place of its compiled code in the stored file, with its CRC-32: V8 would run damaged code. */
type Index = Record<string, { start: number; length: number; sum: number }>;

interface Stored {
  read(name: string): Buffer | undefined;
  close(): void;
}

/** The length of the header and its CRC-32. */
const PREFIX_BYTES = 8;

/**
 * Keeps the compiled code of the program's own files between runs: compiling takes longer than most commands do. It is
 * stored beside the program, so only someone who may replace the program may replace it. A folder that cannot be
 * written to, code of another Node.js and a damaged file only mean that nothing is kept.
 * @param program the folder of the program's files
 * @param call what is run; each call has its own file, because it compiles other functions
 * @param build identifies the program's files: V8 compares no more of them than their length
 */
export function keepCompiled(program: string, call: string, build: string): void {
  const { NODE_V8_COVERAGE, NODE_DISABLE_COMPILE_CACHE } = process.env;
  if (NODE_V8_COVERAGE || NODE_DISABLE_COMPILE_CACHE) return;
  const path = join(program, 'compiled', `${build}-${process.version}-${process.arch}-${call}`);
  const stored = readStored(path);
  const scripts = new Map<string, Script>();
  let isComplete = stored !== undefined;
  // V8 drops the code of functions that did not run lately, and what it dropped would not be stored. It accepts stored code only under
  // the same flags.
  setFlagsFromString('--no-flush-bytecode');
  const prototype = Module.prototype as unknown as { _compile: Compile };
  const { _compile: compileAsUsual } = prototype;
  const { cache } = createRequire(join(program, 'any.cjs'));

  function run(module: Module, name: string, content: string): unknown {
    const cachedData = stored?.read(name);
    const script = new Script(`(function (exports, require, module, __filename, __dirname) { ${content}\n})`, {
      filename: join(program, name),
      ...(cachedData && { cachedData }),
    });
    scripts.set(name, script);
    isComplete &&= cachedData !== undefined && script.cachedDataRejected === false;
    const require = (id: string) => (id.startsWith('./') ? load(id.slice(2), module) : module.require(id));
    return script.runInThisContext().call(module.exports, module.exports, require, module, module.filename, program);
  }

  /** The program's files need nothing of the search for a package, which takes longer than running most of them. */
  function load(name: string, parent: Module): unknown {
    const path = join(program, name);
    const known = cache[path];
    if (known) return known.exports;
    const module = new Module(path, parent);
    Object.assign(module, { filename: path, paths: parent.paths });
    cache[path] = module;
    run(module, name, readFileSync(path, 'utf8'));
    module.loaded = true;
    return module.exports;
  }

  prototype._compile = function (this: Module, content, path, format) {
    if (dirname(path) !== program) return compileAsUsual.call(this, content, path, format);
    return run(this, basename(path), content);
  };
  process.on('exit', () => {
    stored?.close();
    if (!isComplete) store(path, scripts);
  });
}

function readStored(path: string): Stored | undefined {
  try {
    const file = openSync(path, 'r');
    const { size } = fstatSync(file);
    const bytesAt = (position: number, length: number) => {
      const bytes = Buffer.alloc(Math.min(length, size));
      return bytes.subarray(0, readSync(file, bytes, 0, bytes.length, position));
    };
    const [length = 0, sum] = new Uint32Array(bytesAt(0, PREFIX_BYTES).buffer);
    const header = bytesAt(PREFIX_BYTES, length);
    const index = crc32(header) === sum ? (JSON.parse(header.toString()) as Index) : {};
    return {
      read: (name) => {
        const place = index[name];
        const bytes = place && bytesAt(PREFIX_BYTES + length + place.start, place.length);
        return bytes && crc32(bytes) === place.sum ? bytes : undefined;
      },
      close: () => closeSync(file),
    };
  } catch {
    return undefined;
  }
}

/** Replaces the stored file in one step, so that a program that starts meanwhile reads the old one or the new one. */
function store(path: string, scripts: ReadonlyMap<string, Script>): void {
  const temporary = `${path}.${process.pid}`;
  try {
    mkdirSync(dirname(path), { recursive: true });
    const index: Index = {};
    const parts: Buffer[] = [];
    let start = 0;
    for (const [name, script] of scripts) {
      const data = script.createCachedData();
      index[name] = { start, length: data.length, sum: crc32(data) };
      start += data.length;
      parts.push(data);
    }
    const header = Buffer.from(JSON.stringify(index));
    const prefix = Buffer.from(Uint32Array.of(header.length, crc32(header)).buffer);
    writeFileSync(temporary, Buffer.concat([prefix, header, ...parts]), { flag: 'wx' });
    renameSync(temporary, path);
  } catch {
    rmSync(temporary, { force: true });
  }
}
