/** The core as a library: `adder/core`. Nothing here touches files, the network, a clock or a process. */
export type { Bundle, Contract, Layer, Reach, Stage, Variable } from './contract/contract.js';
export { nameIn, namesOf } from './contract/names.js';
export { type ParsedContract, parseContract } from './contract/parse.js';
export type { EnvEntry, EnvFile, EnvNode, EnvProblem, Template } from './envfile/ast.js';
export { parseEnvFile } from './envfile/parse.js';
export { quoteEnvValue, setEnvValue, writeEnvFile } from './envfile/write.js';
export { type Code, codes, type Level } from './findings/codes.js';
export { type Finding, type RawFinding, settle, summarize } from './findings/finding.js';
export { planSearch, type SearchPlan } from './inspect/plan.js';
export { encodings, type Needle, needlesFor } from './needles/index.js';
export { weakness } from './needles/weak.js';
export type { FindingsReport, Report, ValuesReport } from './report/report.js';
export { valuesReport } from './report/values.js';
export { absentLayer, type ReadLayer, readEnvFileLayer, readProcessLayer } from './resolve/layers.js';
export { type Resolution, type ResolvedValue, resolveStage } from './resolve/resolve.js';
export { findAll, type Hit, type Matcher } from './search/matcher.js';
export { sampledGrams } from './search/sampled-grams.js';
export { reveal, Secret } from './secret.js';
