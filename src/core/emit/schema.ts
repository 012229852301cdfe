import * as z from 'zod';
import { contractSchema } from '../contract/schema.js';
import type { EmitKind } from './kind.js';

/** JSON Schema of the contract, for editors; from the schema that Adder itself checks with. */
export const schema: EmitKind = {
  name: 'schema',
  summary: 'JSON Schema of the contract, for editors',
  needs: [],
  emit: () =>
    `${JSON.stringify({ title: 'adder.yaml', ...z.toJSONSchema(contractSchema, { io: 'input' }) }, null, 2)}\n`,
};
