import { createRequire } from 'node:module';
import { Ajv } from 'ajv';

/** The standard's own JSON Schema (OASIS SARIF 2.1.0). Its `id` is of an older draft; it uses nothing else of that draft. */
const {
  id: _,
  $schema: __,
  ...schema
} = createRequire(import.meta.url)('@microsoft/jest-sarif/lib/schemas/sarif-2.1.0-rtm.5.json');
const validate = new Ajv({ strict: false, validateFormats: false, unicodeRegExp: false }).compile(schema);

/** Problems of a log; undefined if it is valid. */
export function problemOf(text: string): unknown {
  return validate(JSON.parse(text)) ? undefined : validate.errors;
}
