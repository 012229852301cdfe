import { placeText } from '../findings/place.js';
import { describeSource } from '../resolve/layer.js';
import { isWrong } from '../resolve/value-state.js';
import { MASK } from '../secrets/secret.js';
import { displayText, localTime } from '../text/display.js';
import { joinWords } from '../text/nearest.js';
import type { WhyBundle, WhyReport, WhyStage } from './documents.js';
import { wrap } from './layout.js';
import type { PrintOptions, Style } from './style.js';
import { findingLines } from './text-findings.js';
import { countLine } from './text-summary.js';

const MOST_PLACES = 12;

/** One variable for a terminal: what it is, each stage, each bundle. */
export function printWhy(report: WhyReport, options: PrintOptions): string {
  const { style, quiet } = options;
  const { name, reach, declared, form, about, at } = report.variable;
  const header = [style.strong('adder why'), style.strong(name), style.reach(reach), form].filter(Boolean).join('  ');
  const where = declared && at ? `declared at ${at.path}:${at.line}` : 'not in the contract, so its reach is server';
  const intro = [header, style.dim([where, about].filter(Boolean).join('; ')), ''];
  const stages = report.stages.flatMap((stage) => [...stageLines(stage, report, options), '']);
  const bundles = report.bundles.flatMap((bundle) => [...bundleLines(bundle, style), '']);
  const body = quiet ? [] : [...intro, ...stages, ...bundles, ...findingLines(report.findings, options)];
  return [...body, countLine(report.summary, options), ''].join('\n');
}

function stageLines(
  { stage, bundle, state, value, from, overrides, tookIn, without }: WhyStage,
  { variable }: WhyReport,
  { style, width }: PrintOptions,
): string[] {
  const hidden =
    from && state !== 'empty' && (variable.reach !== 'public' || /^(set|malformed)$/.test(state)) ? MASK : '';
  const shown = displayText(value ?? hidden);
  return [
    [
      style.strong(bundle === undefined ? stage : `${stage} (${bundle})`),
      isWrong(state) ? style.level('error', state) : state,
      shown,
    ]
      .filter((text) => text !== '')
      .join('  '),
    ...(from ? [`  from ${displayText(describeSource(from))}`] : []),
    ...overrides.toReversed().map((source) => style.dim(`  over ${displayText(describeSource(source))}`)),
    ...(tookIn.length > 0 ? [`  refers to ${joinWords(tookIn)}`] : []),
    ...(without.length > 0
      ? wrap(`not in ${joinWords(without, 'or')}`, width - 4).map((line, index) =>
          style.dim(`${index === 0 ? '  ' : '    '}${line}`),
        )
      : []),
  ];
}

function bundleLines({ bundle, name, code, built }: WhyBundle, style: Style): string[] {
  const places = code
    .slice(0, MOST_PLACES)
    .map(({ path, line, column }) => `    ${displayText(path)}:${line}:${column}`);
  const more = code.length > MOST_PLACES ? [style.dim(`    and ${code.length - MOST_PLACES} more`)] : [];
  const held = [...new Set(built?.places.map(({ path, inside = [] }) => placeText({ path, inside })) ?? [])];
  const listed = new Set(code.map(({ path }) => path));
  const others = built?.modules.filter((path) => !listed.has(path)) ?? [];
  const artifacts = held.length > 0 ? joinWords(held) : 'no artifact';
  return [
    `${style.strong(bundle)}  reads it as ${style.strong(name)}`,
    ...(code.length === 0 ? [style.dim('  not read by its code')] : ['  read by its code at', ...places, ...more]),
    ...(others.length > 0 ? [`  read by ${joinWords(others.map(displayText))} in the last build`] : []),
    built
      ? `  in ${artifacts} after the last build, for ${built.stage}, ${localTime(built.at)}`
      : style.dim('  no build receipt'),
  ];
}
