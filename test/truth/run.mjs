// Runs built programs one after the other, as a browser would: without `process`. Writes what each of them saw.
import { writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';

const [, , list, into] = process.argv;
const { programs, env } = (await import(pathToFileURL(list), { with: { type: 'json' } })).default;
const print = (text) => writeFileSync(into, text);
delete globalThis.process;

const starting = [];
globalThis.Worker = class {
  constructor(url) {
    start(url);
  }
};
const start = (url) => starting.push(import(url));
Object.defineProperty(globalThis, 'navigator', { value: { serviceWorker: { register: start } } });
globalThis.window = globalThis;
globalThis.yes = true;
globalThis.h = (kind, props, ...children) => ({ kind, ...props, children });

const outcomes = {};
for (const [id, path] of programs) {
  const outcome = { seen: [] };
  outcomes[id] = outcome;
  globalThis.seen = (_, value) => {
    outcome.seen.push(value === undefined ? '(undefined)' : value);
  };
  if (env) globalThis.made = globalThis.process = { env: { ...env } };
  try {
    await import(pathToFileURL(path));
    await Promise.all(starting.splice(0));
  } catch (error) {
    outcome.error = error instanceof Error ? error.name : String(error);
  }
}
print(JSON.stringify(outcomes));
