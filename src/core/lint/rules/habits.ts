import { belongsTo, writtenNames } from '../../contract/names.js';
import { finding } from '../../findings/finding.js';
import { placeOfWord } from '../../findings/place.js';
import type { BundleCode, LintContext, LintFinding, SourceText } from '../model.js';
import { placed } from '../model.js';
import { Names } from '../names.js';

/** Fallbacks after reads, and values that are switched by comments. */
export function habitRules(context: LintContext): LintFinding[] {
  const shipped = context.bundles.flatMap((code) => [...code.shipped.keys()].map((path) => ({ code, path })));
  return [...fallbacks(context, shipped), ...switches(context, shipped)];
}

type Shipped = readonly { code: BundleCode; path: string }[];

function fallbacks(context: LintContext, shipped: Shipped): LintFinding[] {
  const names = new Map(
    context.bundles.map((code) => [code, new Names(context.contract, code.bundle, context.settings(code.bundle))]),
  );
  return shipped.flatMap(({ code, path }) => {
    const file = context.files.get(path);
    return (file?.reads ?? []).flatMap(({ name, fallback }): LintFinding[] => {
      if (!file || !name || !fallback?.text) return [];
      const meaning = names.get(code)?.meaning(name);
      if (meaning?.kind !== 'public' || meaning.variable.required === false || meaning.variable.default) return [];
      return [
        finding(
          'code/fallback',
          'fallback',
          { name },
          {
            variable: meaning.variable.name,
            bundle: code.bundle.name,
            ...placed(context, file, fallback.start, fallback.end),
          },
        ),
      ];
    });
  });
}

/** A name that is set to a string, in JavaScript, TypeScript or Dart: a declaration, a class field, a key. */
const setting =
  /^\s*(?:(?:export|public|private|protected|static|readonly|final|const|let|var|late|String)\s+)*([\w.$'"-]+)\s*(?::\s*\w+\s*)?[:=]\s*(['"`])((?:(?!\2).)+)\2/;
const commented = /^\s*(?:\/\/|#|\/?\*|<!--)\s?(.*)$/;

/** A line that sets a name, next to commented-out lines that set the same name to something else. */
function switches(context: LintContext, shipped: Shipped): LintFinding[] {
  const paths = [...new Set(shipped.map(({ path }) => path))];
  return paths.flatMap((path) => {
    const file = context.files.get(path);
    return file && /^\s*(\/\/|\/?\*).*[:=]\s*['"`]/m.test(file.text) ? switchesIn(context, file) : [];
  });
}

function switchesIn(context: LintContext, file: SourceText): LintFinding[] {
  const lines: string[] = [];
  const starts: number[] = [];
  for (const { 0: line, index } of file.text.matchAll(/.*(?:\r?\n)?/g)) {
    lines.push(line.trimEnd());
    starts.push(index);
  }
  return lines.flatMap((line, index): LintFinding[] => {
    const active = commented.test(line) ? null : setting.exec(line);
    if (!active || !isStageLike(active[3] ?? '')) return [];
    const siblings = [-1, 1].reduce((sum, step) => sum + siblingCount(lines, index, step, active), 0);
    if (siblings === 0) return [];
    const [, name = '', quote = '', value = ''] = active;
    const start = (starts[index] ?? 0) + line.indexOf(quote + value);
    const at = placed(context, file, start, start + value.length + 2);
    return [finding('code/switched-by-comment', 'comments', { name, number: siblings }, at)];
  });
}

/** Comments next to a line that set its name to another value. */
function siblingCount(
  lines: readonly string[],
  from: number,
  step: number,
  [, name, , value]: RegExpExecArray,
): number {
  let count = 0;
  for (let index = from + step; ; index += step) {
    const inner = commented.exec(lines[index] ?? '')?.[1];
    if (inner === undefined) return count;
    const other = setting.exec(inner);
    if (other && other[1] === name && other[3] !== value && isStageLike(other[3] ?? '')) count++;
  }
}

/** Texts that differ by stage: addresses, hosts and keys, not labels. */
function isStageLike(text: string): boolean {
  return /^(https?|wss?):\/\/|^[\w-]+(\.[\w-]+)+(:\d+)?(\/|$)|^localhost\b|^[\w-]{16,}$/.test(text);
}

/** Public and build variables that no code of their bundles names. */
export function unusedRule(context: LintContext): LintFinding[] {
  const { contract, files, bundles } = context;
  if (!bundles.some(({ bundle, shipped }) => bundle.code.length > 0 && shipped.size > 0)) return [];
  const texts = [...[...files.values()].map(({ text }) => text), ...context.native.values()];
  // Constants of a module reach the code by its import.
  const inModules = new Set(
    context.stages
      .flatMap(({ layers }) => layers)
      .filter(({ path }) => path !== undefined && files.has(path))
      .flatMap(({ offers }) => offers.map(({ name }) => name)),
  );
  // Other values may be made of it.
  const parts = new Set(context.stages.flatMap(({ values }) => [...values.values()].flatMap(({ tookIn }) => tookIn)));
  return [...contract.variables.values()].flatMap((variable): LintFinding[] => {
    if (parts.has(variable.name)) return [];
    const owners = [...contract.bundles.values()].filter((bundle) => belongsTo(bundle, variable));
    // Code may read it by a key that only a build knows.
    if (owners.some((bundle) => context.settings(bundle).unknown.length > 0)) return [];
    const written = owners.flatMap((bundle) => writtenNames(bundle, variable));
    const names = [...new Set([variable.name, ...variable.aka, ...written])];
    const mayBeRead = variable.reach !== 'server' && owners.length > 0;
    if (!mayBeRead || inModules.has(variable.name) || names.some((name) => texts.some((text) => mentions(text, name))))
      return [];
    const place = placeOfWord({ path: contract.path }, variable.at, variable.name);
    return [finding('code/unused', 'unread', { variable: variable.name }, { place })];
  });
}

function mentions(text: string, name: string): boolean {
  for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) {
    if (!/[A-Za-z0-9$]/.test(text[at - 1] ?? '') && !/[A-Za-z0-9$]/.test(text[at + name.length] ?? '')) return true;
  }
  return false;
}
