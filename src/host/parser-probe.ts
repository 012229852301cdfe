import { createRequire } from 'node:module';
import type { ScriptLanguage } from '../core/files/languages.js';

const PARSE_SECONDS = 30;

/** Parses a text in a separate process, which may crash. @returns whether it survived */
export function survivesParsing(text: string, language: ScriptLanguage): boolean {
  const parser = JSON.stringify(createRequire(import.meta.url).resolve('oxc-parser'));
  const options = `{ lang: '${language}', sourceType: 'unambiguous' }`;
  const script = `require(${parser}).parseSync('source.${language}', require('fs').readFileSync(0, 'utf8'), ${options}).program`;
  const { status } = process.getBuiltinModule('node:child_process').spawnSync(process.execPath, ['-e', script], {
    input: text,
    env: {},
    stdio: ['pipe', 'ignore', 'ignore'],
    timeout: PARSE_SECONDS * 1000,
  });
  return status === 0;
}
