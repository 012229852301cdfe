import { runtimeConstants, runtimeFile, runtimeJson } from '../runtime/runtime.js';
import type { EmitKind } from './kind.js';

/** The values of a stage that an app reads when it loads: one build for all stages. */
export const runtime: EmitKind = {
  name: 'runtime',
  summary: 'the values that an app reads when it loads (--into DIST: beside the app, its pages pointed at it)',
  needs: ['bundle', 'stage'],
  forms: ['json', 'constants'],
  emit({ contract, bundle, resolution, as }) {
    if (!bundle || !resolution) return '';
    if (as === 'json') return runtimeJson(contract, bundle, resolution);
    if (as === 'constants') return runtimeConstants(contract, bundle, resolution);
    return runtimeFile(contract, bundle, resolution).text;
  },
};
