import { h, pagedColumns, shortened } from './dom.js';
import type { PageReport } from './model.js';

type Rows = NonNullable<PageReport['trial']>;
type Row = Rows[number];
type Arrival = Row['arrivesIn'][number];

/** Columns at first; a button shows the others. */
const MOST_COLUMNS = 8;

/** Names by reach, and the files in which their made-up values arrived; below, the way of each from its file to the output. */
export function trialElement(rows: Rows): HTMLElement {
  const files = filesOf(rows);
  const table = pagedColumns(files, (columns) => matrix(rows, columns), {
    most: MOST_COLUMNS,
    label: 'Names and files',
  });
  const ways = rows.flatMap((row) => row.arrivesIn.map((arrival) => wayElement(row, arrival)));
  return h(
    'div',
    {},
    table,
    ...(ways.length > 0 ? [h('h3', {}, 'The way of each value'), h('ul', { class: 'ways' }, ...ways)] : []),
  );
}

/** The files with the most names first. */
function filesOf(rows: Rows): string[] {
  const counts = new Map<string, number>();
  for (const { arrivesIn } of rows)
    for (const path of new Set(arrivesIn.map((one) => one.path))) counts.set(path, (counts.get(path) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).map(([path]) => path);
}

function matrix(rows: Rows, files: readonly string[]): HTMLElement {
  const heads = ['name', 'set in', 'read by'].map((text) => h('th', { scope: 'col' }, text));
  const columns = files.map((file) => h('th', { scope: 'col', title: file }, h('span', {}, shortened(file))));
  const groups = ['server', 'build', 'public', 'undeclared'].flatMap((reach) => {
    const own = rows.filter((row) => (row.reach ?? 'undeclared') === reach);
    if (own.length === 0) return [];
    const title = h('tr', { class: 'group' }, h('th', { colspan: files.length + 3, scope: 'rowgroup' }, reach));
    return [h('tbody', {}, title, ...own.map((row) => line(row, files)))];
  });
  return h('table', { class: 'matrix' }, h('thead', {}, h('tr', {}, ...heads, ...columns)), ...groups);
}

function line(row: Row, files: readonly string[]): HTMLElement {
  return h(
    'tr',
    {},
    h('th', { scope: 'row' }, row.name),
    h('td', {}, row.setIn.join(', ')),
    h('td', {}, row.readBy.join(', ')),
    ...files.map((file) => h('td', {}, cell(row, file))),
  );
}

function cell(row: Row, file: string): HTMLElement | string {
  const arrivals = row.arrivesIn.filter(({ path }) => path === file);
  const [first] = arrivals;
  if (!first)
    return row.isUnmarked
      ? h('span', { class: 'dim', title: 'not known: the value has no room for a made-up one' }, '?')
      : '';
  const isOut = first.audience === 'browser' && row.reach !== 'public';
  const label = `${row.name} in ${file}, from ${[...new Set(arrivals.map(({ from }) => from))].join(' and ')}`;
  const props = { title: label, role: 'img', 'aria-label': label };
  return h('span', { class: isOut ? 'badge error' : 'present', ...props }, isOut ? '✕' : '●');
}

/** `FARE_KEY: .env:3 → src/main.ts:2 → dist/a.js, as base64`. */
function wayElement({ name, setIn }: Row, { from, source, path, encoding, audience }: Arrival): HTMLElement {
  const isByDifference = encoding[0] === 'difference';
  const parts = [isByDifference ? setIn.join(' and ') : from, ...(source === undefined ? [] : [source]), path];
  const how = encoding.filter((one) => one !== 'plain');
  const more = [
    how.length > 0 && (isByDifference ? 'differs with another value' : `as ${how.join(', ')}`),
    audience !== 'browser' && audience,
  ]
    .filter(Boolean)
    .join(', ');
  return h('li', {}, h('strong', {}, name), ` ${parts.join(' → ')}${more ? ` (${more})` : ''}`);
}
