// Loaded into a build by NODE_OPTIONS: notes which names it reads from its environment, with the place that reads each.
'use strict';
const { appendFileSync } = require('node:fs');
const { fileURLToPath } = require('node:url');

const into = process.env.ADDER_TRIAL_OBSERVED;
const MOST_PLACES = 20;
/** Names to the places that were noted. */
const noted = new Map();

/** The place that reads; undefined for Node.js itself, which reads names of its own for whoever calls it. */
function place() {
  const { prepareStackTrace, stackTraceLimit } = Error;
  Error.prepareStackTrace = (_, frames) => frames;
  Error.stackTraceLimit = 30;
  const frames = new Error().stack;
  Object.assign(Error, { prepareStackTrace, stackTraceLimit });
  if (!Array.isArray(frames)) return undefined;
  for (const frame of frames) {
    const file = frame.getFileName();
    if (!file || file === __filename) continue;
    if (file.startsWith('node:')) return undefined;
    return [file.startsWith('file:') ? fileURLToPath(file) : file, frame.getLineNumber() ?? 0];
  }
  return undefined;
}

/** The names of an enumeration, whose values are then read one after the other: code that copies the object needs none of them. */
let enumerated = [];

function isCopied(name) {
  const at = enumerated.indexOf(name);
  if (at >= 0) enumerated = enumerated.slice(at + 1);
  return at >= 0;
}

function note(name) {
  if (typeof name !== 'string' || name === 'ADDER_TRIAL_OBSERVED' || isCopied(name)) return;
  const places = noted.get(name) ?? new Set();
  if (places.size >= MOST_PLACES) return;
  noted.set(name, places);
  try {
    const [file, line] = place() ?? [];
    const key = `${file}:${line}`;
    if (file === undefined || places.has(key)) return;
    places.add(key);
    appendFileSync(into, `${JSON.stringify([name, file, line])}\n`);
  } catch {
    // A build goes on without being observed.
  }
}

if (into !== undefined) {
  const real = process.env;
  const observed = new Proxy(real, {
    get(target, name) {
      note(name);
      return target[name];
    },
    has(target, name) {
      note(name);
      return name in target;
    },
    ownKeys(target) {
      enumerated = Reflect.ownKeys(target);
      queueMicrotask(() => {
        enumerated = [];
      });
      return Reflect.ownKeys(target);
    },
    set(target, name, value) {
      target[name] = value;
      return true;
    },
    // The default ones give process.env a partial descriptor, which it refuses.
    defineProperty(target, name, { value }) {
      target[name] = value;
      return true;
    },
    deleteProperty(target, name) {
      delete target[name];
      return true;
    },
  });
  Object.defineProperty(process, 'env', { value: observed, writable: true, configurable: true, enumerable: true });
}
