import * as z from 'zod';
import { contractJsonSchema } from '../src/core/emit/schema.js';
import { overviewSchema } from '../src/core/overview/overview.js';
import { receiptSchema } from '../src/core/receipt/schema.js';
import { reportSchema } from '../src/core/report/documents.js';

export { contractJsonSchema };

/** The JSON Schema of what `--format json` prints, made from the schema that the tests use. */
export function reportJsonSchema(): unknown {
  return { title: "Adder's reports, version 1", ...z.toJSONSchema(z.union([reportSchema, overviewSchema])) };
}

/** The JSON Schema of receipts, made from the schema that reads them. */
export function receiptJsonSchema(): unknown {
  return { title: "Adder's receipts, version 1", ...z.toJSONSchema(receiptSchema) };
}
