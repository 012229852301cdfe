import { dart } from './dart.js';
import { defines } from './defines.js';
import { example } from './example.js';
import type { EmitKind } from './kind.js';
import { launch } from './launch.js';
import { module } from './module.js';
import { needs } from './needs.js';
import { runtime } from './runtime.js';
import { schema } from './schema.js';
import { types } from './types.js';

/** Every kind of file that Adder makes for other tools. One line per kind. */
export const emitKinds: readonly EmitKind[] = [types, module, example, defines, dart, launch, runtime, schema, needs];

export type { EmitKind, EmitRequest } from './kind.js';
