import { runtimeFile, runtimeJson } from '../runtime/runtime.js';
import type { EmitKind } from './kind.js';

/** The values of a stage that an app reads when it loads: one build for all stages. */
export const runtime: EmitKind = {
  name: 'runtime',
  summary: 'the values that an app reads when it loads (--into DIST: beside the app, its pages pointed at it)',
  needs: ['bundle', 'stage'],
  emit({ contract, bundle, resolution, as }) {
    if (!bundle || !resolution) return '';
    return as === 'json' ? runtimeJson(contract, bundle, resolution) : runtimeFile(contract, bundle, resolution).text;
  },
};
