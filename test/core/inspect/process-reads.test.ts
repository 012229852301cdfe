import vm from 'node:vm';
import { describe, expect, test } from 'vitest';
import { throwingReads } from '../../../src/core/inspect/process-reads.js';

/** Runs a script where there is no process. @returns whether it throws a ReferenceError */
function throwsInBrowser(script: string): boolean {
  try {
    vm.runInNewContext(script, {});
    return false;
  } catch (error) {
    return (error as Error).name === 'ReferenceError';
  }
}

describe('a read of the process environment', () => {
  test.each([
    'const a = process.env.KEY;',
    'const a = process?.env?.KEY;',
    'const a = process.env["KEY"];',
    'const a = (process.env).KEY || "";',
    'try { const a = process.env.KEY } finally {}',
    'if (typeof window !== "undefined") { process.env.KEY }',
    'var a = typeof other !== "undefined" && process.env.KEY; var b = process.env.KEY',
    'const { env } = { env: 1 }; process.env.KEY',
    'const fail = (e) => { throw e }; try { process.env.KEY } catch (e) { fail(e) }',
  ])('throws: %s', (script) => {
    expect([
      throwsInBrowser(script),
      throwingReads(script, 'js')
        .map(({ name }) => name)
        .at(-1),
    ]).toEqual([!script.includes('window'), 'KEY']);
  });

  test.each([
    'const a = typeof process !== "undefined" && process.env.KEY;',
    'const a = typeof process < "u" ? process.env.KEY : "";',
    'try { const a = process.env.KEY } catch {}',
    'const log = () => {}; try { process.env.KEY } catch (e) { log("none", e) }',
    'const log = () => {}; try { process.env.KEY } catch { log() }',
    'if (typeof process !== "undefined") { const a = process.env.KEY }',
    'const a = globalThis.process && process.env.KEY;',
    '(function () { if (typeof process === "undefined") return; process.env.KEY })();',
    'var process = { env: {} }; process.env.KEY;',
    '(function (process) { process.env.KEY })({ env: {} });',
    'globalThis.process ??= { env: {} }; process.env.KEY;',
    '"process.env.KEY"; // process.env.KEY',
    'const a = { process: { env: {} } }; a.process.env.KEY;',
  ])('does not throw: %s', (script) => {
    expect([throwsInBrowser(script), throwingReads(script, 'js')]).toEqual([false, []]);
  });

  test.each([
    'const all = process.env; all.KEY',
    'const { KEY } = process.env',
    'const key = "KEY"; process.env[key]',
    'const a = { ...process.env }',
    'const host = process; host.env.KEY',
    'const { env: all } = process; all.KEY',
    'let host; host = process',
    '"KEY" in process?.env',
    'delete process.env.KEY; process.env',
  ])('throws without a name: %s', (script) => {
    expect([throwsInBrowser(script), throwingReads(script, 'js').at(-1)?.name]).toEqual([true, undefined]);
  });

  test('in a module that only its `await` tells from a script', () => {
    expect(throwingReads('f(await process.env.KEY);', 'js').map(({ name }) => name)).toEqual(['KEY']);
  });

  test('of NODE_ENV is a matter of development builds', () => {
    expect(throwingReads('if (process.env.NODE_ENV === "x") {}', 'js')).toEqual([]);
  });

  test('has its place', () => {
    const text = 'f("ä", process.env.KEY)';
    const [{ start, end } = expect.unreachable()] = throwingReads(text, 'js');
    expect(text.slice(start, end)).toBe('process.env.KEY');
  });
});
