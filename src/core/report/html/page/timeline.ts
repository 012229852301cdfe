import { groupBy } from '../../../text/group-by.js';
import type { HistoryReport } from '../../documents.js';
import { periodText } from '../../period.js';
import { h } from './dom.js';

type History = HistoryReport;
type Value = History['values'][number];
type Build = History['builds'][number];

const DAY = 86_400_000;

/** Days on the scale, from the first entry to the end of today. */
class Scale {
  readonly #first: number;
  readonly #length: number;

  constructor({ values, builds, today }: History) {
    const days = [
      ...values.flatMap(({ from, to }) => [from, to ?? from]),
      ...builds.map(({ builtAt }) => builtAt),
      today,
    ];
    const times = days.map((day) => Date.parse(day));
    this.#first = Math.min(...times);
    this.#length = Math.max(...times, Date.parse(today)) + DAY - this.#first;
  }

  /** Place of a day or time: a fraction of the width. */
  at(time: string): number {
    return (Date.parse(time) - this.#first) / this.#length;
  }

  /** Days that the scale names, evenly spaced. */
  get ticks(): string[] {
    const days = Math.round(this.#length / DAY);
    const count = Math.min(6, days);
    return Array.from({ length: count }, (_, index) =>
      new Date(this.#first + Math.round((index * days) / count) * DAY).toISOString().slice(0, 10),
    );
  }
}

/** Each variable's values as bars along the days, one lane for each stage, and on them the builds that had them. */
export function timelineElement(history: History): HTMLElement {
  if (history.values.length === 0)
    return h('p', { class: 'none' }, 'No value is recorded that this machine can recognise.');
  const scale = new Scale(history);
  const rows = [...groupBy(history.values, ({ variable }) => variable)].map(([name, values]) =>
    variableElement(name, values, history, scale),
  );
  return h('div', { class: 'timeline' }, legend(), axis(scale), ...rows);
}

function legend(): HTMLElement {
  const item = (kind: string, text: string) => h('li', {}, h('span', { class: kind, 'aria-hidden': 'true' }), text);
  return h(
    'ul',
    { class: 'legend' },
    item('period current', 'in use now'),
    item('period past', 'replaced'),
    item('period unknown', 'last known'),
    item('mark', 'a build with the value'),
    item('mark stale', 'a build with a value that was replaced'),
    item('mark served', 'a site serves it'),
  );
}

function axis(scale: Scale): HTMLElement {
  const ticks = scale.ticks.map((day) => placed(h('span', { class: 'tick' }, day), scale.at(day)));
  return h('div', { class: 'row axis', 'aria-hidden': 'true' }, h('span', {}), h('div', { class: 'lane' }, ...ticks));
}

function variableElement(name: string, values: readonly Value[], history: History, scale: Scale): HTMLElement {
  const lanes = [...groupBy(values, ({ stage }) => stage)].map(([stage, ones]) =>
    h(
      'div',
      { class: 'row' },
      h('span', { class: 'stage' }, stage),
      h('div', { class: 'lane' }, ...ones.flatMap((one) => [bar(one, history, scale), ...marks(one, history, scale)])),
    ),
  );
  const reach = values[0]?.reach ?? '';
  return h('section', { 'aria-label': name }, h('h3', {}, name, ' ', h('span', { class: 'dim' }, reach)), ...lanes);
}

function bar(value: Value, { today }: History, scale: Scale): HTMLElement {
  const { from, to, because, current, past } = value;
  const kind = current && to === undefined ? 'current' : past || to !== undefined ? 'past' : 'unknown';
  const label = `${value.variable}, ${value.stage}: ${periodText(value)}${because === undefined ? '' : ` (${because})`}`;
  const element = h('div', { class: `period ${kind}`, role: 'img', title: label, 'aria-label': label });
  const last = scale.at(to ?? nextDay(today));
  element.style.width = `${(100 * Math.max(0, last - scale.at(from))).toFixed(2)}%`;
  return placed(element, scale.at(from));
}

function nextDay(day: string): string {
  return new Date(Date.parse(day) + DAY).toISOString().slice(0, 10);
}

function marks({ id, current }: Value, { builds }: History, scale: Scale): HTMLElement[] {
  return builds.filter(({ values }) => values.includes(id)).map((build) => mark(build, current, scale));
}

function mark({ bundle, stage, builtAt, servedAt }: Build, isCurrent: boolean, scale: Scale): HTMLElement {
  const age = isCurrent ? '' : ', with a value that was replaced since';
  const served = servedAt === undefined ? '' : `; ${servedAt} served it`;
  const label = `build of ${bundle} for ${stage}, ${builtAt.slice(0, 16).replace('T', ' ')} UTC${age}${served}`;
  const kind = `mark${isCurrent ? '' : ' stale'}${servedAt === undefined ? '' : ' served'}`;
  return placed(h('span', { class: kind, role: 'img', title: label, 'aria-label': label }), scale.at(builtAt));
}

function placed<T extends HTMLElement>(element: T, at: number): T {
  element.style.left = `${(100 * at).toFixed(2)}%`;
  return element;
}
