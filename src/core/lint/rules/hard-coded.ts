import { nameIn, readsFrom } from '../../contract/names.js';
import { layersOf } from '../../contract/scopes.js';
import { sideOfFile } from '../../files/side.js';
import { finding } from '../../findings/finding.js';
import { withoutArticle } from '../../text/display.js';
import { isGenerated } from '../../text/generated.js';
import { localUrl } from '../../text/local-address.js';
import { oncePer } from '../../text/once.js';
import { JoinedRanges } from '../../text/ranges.js';
import { tokensIn } from '../../tokens/in-text.js';
import { readExpression } from '../../toolchains/read-from.js';
import { isText, type Literal, literalAt, literalsOf } from '../literals.js';
import { type LintContext, type LintFinding, placed, type SourceText } from '../model.js';
import { type TextHit, TextSearch } from '../text-search.js';

const anyUrl = /\bhttps?:\/\/[a-z0-9.-]+\.[a-z]{2,}(?::\d+)?(?=[/"'`\s?#$]|$)/gi;

/** Hard-coded values, URLs and secrets. */
export function writtenRules(context: LintContext): LintFinding[] {
  const search = new TextSearch(context.contract, context.stages);
  const findings: LintFinding[] = [];
  const bases = new Map<string, { file: SourceText; start: number; end: number }[]>();
  const known = new Set<string>();
  // A module of constants that is a layer is where the values belong.
  const layers = new Set(layersOf(context.contract).map(({ name }) => name));
  for (const file of context.files.values()) {
    const hits = search.hits(file.text);
    findings.push(
      ...hits.filter(({ knownText }) => knownText.kind === 'secret').map((hit) => secretFinding(context, file, hit)),
    );
    findings.push(...tokenFindings(context, file, hits));
    if (!isShipped(context, file) || isGenerated(file.text)) continue;
    if (layers.has(file.path)) {
      findings.push(...allStagesFinding(context, file));
      continue;
    }
    const shown = hits.filter(
      ({ knownText, start }) => knownText.kind !== 'secret' && isText(file, start) && !inFallback(file, start),
    );
    for (const { knownText } of shown) if (knownText.text) known.add(originOf(knownText.text));
    findings.push(...shown.map((hit) => valueFinding(context, file, hit)));
    findings.push(...addressFindings(context, file, shown));
    collectBases(file, bases);
  }
  return [...findings, ...repeatedBases(context, bases, known)];
}

/** A module with an object for each stage ships all of them, whichever stage is chosen. */
function allStagesFinding({ contract }: LintContext, { path }: SourceText): LintFinding[] {
  const keys = layersOf(contract).flatMap((layer) =>
    layer.kind === 'file' && layer.name === path ? (layer.key ?? []) : [],
  );
  if (new Set(keys).size < 2) return [];
  const more = { level: 'note' as const, place: { path, inside: [] } };
  return [finding('code/hard-coded', 'stages', { path, stages: [...new Set(keys)] }, more)];
}

/** Code of a bundle that is neither a test nor part of the build. */
function isShipped(context: LintContext, file: SourceText): boolean {
  return (
    context.bundles.some(({ shipped, onServer }) => shipped.has(file.path) || onServer.has(file.path)) &&
    /^(browser|server)$/.test(sideOfFile(file, false))
  );
}

/** Tells whether a string starts at an offset: a URL inside a message is prose. */
function beginsText(file: SourceText, offset: number): boolean {
  const literals = literalsOf(file);
  if (!literals) return /["'`=(]$/.test(file.text.slice(0, offset)) && isText(file, offset);
  const literal = literalAt(literals, offset);
  return literal !== undefined && file.text.slice(literal.start, offset).trim().length <= 1;
}

/** The rule about fallbacks reports those. */
function inFallback(file: SourceText, offset: number): boolean {
  return fallbacksOf(file).has(offset);
}

const fallbacksOf = oncePer(
  ({ reads }: SourceText) => new JoinedRanges(reads.flatMap(({ fallback }) => fallback ?? [])),
);

function valueFinding(context: LintContext, file: SourceText, { knownText, start, end }: TextHit): LintFinding {
  const { variable, stages, kind, text } = knownText;
  const bundle = context.bundles.find(({ shipped }) => shipped.has(file.path))?.bundle;
  const declared = context.contract.variables.get(variable);
  const right =
    bundle && declared
      ? readExpression(readsFrom(bundle, nameIn(bundle, declared)), nameIn(bundle, declared))
      : variable;
  const literal = literalsOf(file) && literalAt(literalsOf(file) as Literal[], start);
  const isWritten = file.reads.some(({ kind: read, name }) => read === 'assigned' && right.endsWith(`.${name}`));
  const isPath = bundle !== undefined && /^(object|constant)$/.test(readsFrom(bundle).kind) && /^[\w.]+$/.test(right);
  const isRead = isPath && !isWritten;
  const more = { ...(bundle && { bundle: bundle.name }), ...placed(context, file, start, end) };
  const instead = isRead && literal && kind === 'public' ? replacementOf(file, literal, text ?? '', right) : undefined;
  const about = { variable, stages, right: instead ?? right };
  return {
    ...(kind === 'base'
      ? finding('code/hard-coded', 'base', { ...about, base: text ?? '' }, more)
      : finding('code/hard-coded', 'value', about, more)),
    ...(instead !== undefined &&
      literal && { fix: [{ path: file.path, start: literal.start, end: literal.end, text: instead }] }),
  };
}

/**
 * The text in the place of a string with a value: the read, or a template of the read and the rest of the string. A string with
 * escape sequences stays.
 */
function replacementOf(
  file: SourceText,
  { role, text, start, end }: Literal,
  value: string,
  right: string,
): string | undefined {
  const rest = text.slice(value.length);
  if (role !== 'expression' || !text.startsWith(value)) return undefined;
  if (rest === '') return right;
  const isPlain = file.text.slice(start + 1, end - 1) === text && !/[`\\]|\$\{/.test(rest);
  return isPlain ? `\`\${${right}}${rest}\`` : undefined;
}

function addressFindings(context: LintContext, file: SourceText, hits: readonly TextHit[]): LintFinding[] {
  if (!file.text.includes('://')) return [];
  return [...file.text.matchAll(localUrl)].flatMap(({ 0: found, index }): LintFinding[] => {
    const isTold = hits.some(({ start, end }) => start <= index && index < end);
    if (isTold || !isText(file, index) || inFallback(file, index)) return [];
    const at = placed(context, file, index, index + found.length);
    return [finding('code/hard-coded', 'local-url', { url: found }, at)];
  });
}

function secretFinding(context: LintContext, file: SourceText, { knownText, start, end }: TextHit): LintFinding {
  const { variable, stages, encoding } = knownText;
  const about = { variable, stages, encodings: encoding.filter((name) => name !== 'plain') };
  return finding('code/secret-in-code', 'value', about, placed(context, file, start, end));
}

function tokenFindings(context: LintContext, file: SourceText, hits: readonly TextHit[]): LintFinding[] {
  return tokensIn(file.text).flatMap(({ shape, start, end }): LintFinding[] => {
    const isKnown = hits.some(
      ({ knownText, ...hit }) => knownText.kind === 'secret' && hit.start < end && hit.end > start,
    );
    if (isKnown || shape.kind !== 'secret') return [];
    const about = { shape: withoutArticle(shape.name) };
    return [finding('code/secret-in-code', 'token', about, placed(context, file, start, end))];
  });
}

/** Addresses of services that look like an API, whole or as the beginning of a string. */
function collectBases(file: SourceText, bases: Map<string, { file: SourceText; start: number; end: number }[]>): void {
  if (!file.text.includes('://')) return;
  for (const { 0: found, index } of file.text.matchAll(anyUrl)) {
    const behind = file.text.slice(index + found.length, index + found.length + 12);
    const isService =
      /^https?:\/\/([\w-]+\.)*(api|gateway|backend|graphql|rest|bff)[\w-]*\./i.test(found) ||
      /^\/(api|graphql|v\d+)\b/.test(behind);
    if (!isService || !beginsText(file, index) || inFallback(file, index)) continue;
    const places = bases.get(found) ?? [];
    bases.set(found, [...places, { file, start: index, end: index + found.length }]);
  }
}

function repeatedBases(
  context: LintContext,
  bases: ReadonlyMap<string, { file: SourceText; start: number; end: number }[]>,
  known: ReadonlySet<string>,
): LintFinding[] {
  return [...bases].flatMap(([base, places]) => {
    if (places.length < 2 || known.has(base)) return [];
    const about = { url: base, number: places.length };
    return places.map(({ file, start, end }) =>
      finding('code/hard-coded', 'repeated', about, placed(context, file, start, end)),
    );
  });
}

function originOf(text: string): string {
  return URL.canParse(text) ? new URL(text).origin : text;
}
