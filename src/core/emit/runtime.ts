import { runtimeConstants, runtimeFile, runtimeJson } from '../runtime/runtime.js';
import { emitKind } from './kind.js';

/** The values of a stage that an app reads when it loads: one build for all stages. */
export const runtime = emitKind({
  name: 'runtime',
  summary: 'the values that an app reads when it loads (--into DIST puts them into a build and its pages)',
  takes: ['bundle', 'resolution', 'format'],
  formats: ['json', 'constants'],
  delivery: 'pages',
  emit({ contract, bundle, resolution, format }) {
    if (format === 'json') return runtimeJson(contract, bundle, resolution);
    if (format === 'constants') return runtimeConstants(contract, bundle, resolution);
    return runtimeFile(contract, bundle, resolution).text;
  },
});
