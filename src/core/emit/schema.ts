import * as z from 'zod';
import { contractSchema } from '../contract/schema.js';
import { emitKind } from './kind.js';

/** JSON Schema of the contract, for editors; from the schema that Adder itself checks with. */
export const schema = emitKind({
  name: 'schema',
  summary: 'JSON Schema of the contract, for editors',
  takes: [],
  emit: () => `${JSON.stringify(contractJsonSchema(), null, 2)}\n`,
});

/** The JSON Schema of the contract as it is written. */
export function contractJsonSchema(): object {
  return { title: 'adder.yaml', ...z.toJSONSchema(contractSchema, { io: 'input' }) };
}
