import { byId, count, h, pagedList, shortened, showEverything } from './dom.js';
import { coverageElement, filesElement } from './files.js';
import { findingElement, overviewElement, showFindings } from './findings.js';
import { matrixElement } from './matrix.js';
import {
  causesOf,
  type Filter,
  fileOf,
  filtered,
  filterIn,
  fragmentOf,
  levels,
  type PageFinding,
  type PageReport,
} from './model.js';
import { timelineElement } from './timeline.js';
import { treeElement } from './tree.js';
import { trialElement } from './trial.js';

const report = JSON.parse(byId('report').textContent ?? '') as PageReport;
const empty = (): Filter => ({ levels: new Set(levels), code: '', variable: '', stage: '', file: '', text: '' });
let filter = filterIn(location.hash) ?? empty();

/** Shows the findings that match, and how many they are. The URL has the filter, so that it can be shared. */
function update(): void {
  const found = filtered(report.findings, filter);
  const causes = causesOf(found);
  byId('overview').replaceChildren(overviewElement(causes, report));
  showFindings(byId('findings-list'), causes, report.codes);
  const all = report.findings.length.toLocaleString('en');
  byId('shown').textContent = `${found.length.toLocaleString('en')} of ${all} shown`;
  const fragment = fragmentOf(filter);
  const hash = fragment === '' ? (filterIn(location.hash) ? '#findings' : location.hash) : `#${fragment}`;
  if (hash !== location.hash) history.replaceState(null, '', hash);
}

/** Shows a filter in its controls. */
function showFilter(): void {
  for (const key of ['code', 'variable', 'stage'] as const) {
    const select = document.getElementById(`filter-${key}`);
    if (select instanceof HTMLSelectElement) select.value = filter[key];
  }
  byId<HTMLInputElement>('filter-text').value = filter.text;
  byId('filter-file').textContent = filter.file === '' ? 'all' : shortened(filter.file);
  for (const level of levels) byId(`level-${level}`).setAttribute('aria-pressed', String(filter.levels.has(level)));
}

function setFilter(changed: Partial<Filter>): void {
  filter = { ...filter, ...changed };
  showFilter();
  update();
}

function selectOf(key: 'code' | 'variable' | 'stage', label: string, values: readonly (string | undefined)[]) {
  const options = [...new Set(values.flatMap((value) => (value === undefined || value === '' ? [] : [value])))].sort();
  const select = h(
    'select',
    {
      id: `filter-${key}`,
      change: () => setFilter({ [key]: select.value }),
    },
    h('option', { value: '' }, 'all'),
    ...options.map((value) => h('option', { value }, value)),
  );
  return options.length < 2 && key === 'stage' ? undefined : field(label, select);
}

function levelButtons(): HTMLElement[] {
  return levels.map((level) => {
    const button = h(
      'button',
      {
        type: 'button',
        class: `level ${level}`,
        id: `level-${level}`,
        'aria-pressed': 'true',
        click: () => {
          const chosen = new Set(filter.levels);
          if (!chosen.delete(level)) chosen.add(level);
          setFilter({ levels: chosen });
        },
      },
      `${count(report.summary[level], level)}`,
    );
    return button;
  });
}

function field(label: string, control: HTMLElement): HTMLElement {
  return h('div', { class: 'field' }, h('label', { for: control.id }, label), control);
}

/** Typing waits for a pause, as 20,000 findings take a moment. */
function searchField(): HTMLElement {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const input = h('input', {
    type: 'search',
    id: 'filter-text',
    placeholder: 'name, file, message',
    input: () => {
      clearTimeout(timer);
      timer = setTimeout(() => {
        setFilter({ text: input.value });
      }, 120);
    },
  });
  return field('text', input);
}

function choose(variable: string, file: string): void {
  setFilter({ ...empty(), variable, file });
  byId('findings').scrollIntoView();
  byId('findings-title').focus();
}

/** A tree of files in a menu, which closes when one is chosen. */
function fileField(): HTMLElement {
  const files = report.findings.map(fileOf);
  const menu: HTMLDetailsElement = h(
    'details',
    { class: 'menu' },
    h('summary', { 'aria-label': 'file' }, h('span', { id: 'filter-file' }, 'all')),
    treeElement(files, (file) => {
      setFilter({ file });
      menu.open = false;
    }),
  );
  return h('div', { class: 'field' }, h('span', {}, 'file'), menu);
}

function start(): void {
  if (report.history) byId('timeline').append(timelineElement(report.history));
  else startFindings();
}

function startFindings(): void {
  const { findings, accepted = [], contents } = report;
  const filters = [
    h('div', { class: 'levels', role: 'group', 'aria-label': 'levels' }, ...levelButtons()),
    searchField(),
    selectOf(
      'code',
      'code',
      findings.map(({ code }) => code),
    ),
    selectOf(
      'variable',
      'variable',
      findings.map(({ variable }) => variable),
    ),
    fileField(),
    selectOf(
      'stage',
      'stage',
      findings.map(({ stage }) => stage),
    ),
    h('button', { type: 'button', id: 'reset', click: () => setFilter(empty()) }, 'Show all'),
    h('span', { id: 'shown', role: 'status' }),
  ];
  byId('filters').replaceChildren(...filters.filter((one) => one !== undefined));
  byId('filters').hidden = findings.length === 0;
  if (findings.length > 0) setFilter({});
  else {
    byId('overview').replaceChildren(overviewElement([], report));
    byId('findings-list').replaceChildren(h('p', { class: 'none' }, 'No findings.'));
  }
  if (report.trial) byId('trial').append(trialElement(report.trial));
  if (contents) byId('matrix').append(matrixElement(report, choose));
  if (contents) byId('files').append(filesElement(report));
  if (report.coverage) byId('coverage').append(coverageElement(report));
  if (accepted.length > 0) listed('accepted', accepted, 'accepted findings');
  for (const id of ['gone', 'same'] as const) {
    const all = report[id];
    if (all) listed(id, all, 'findings');
  }
}

function listed(id: string, findings: readonly PageFinding[], what: string): void {
  const list = h('div', {});
  pagedList(list, findings, (one) => findingElement(one), { size: 50, what });
  byId(id).append(findings.length > 0 ? list : h('p', { class: 'none' }, 'None.'));
}

addEventListener('hashchange', () => {
  const linked = filterIn(location.hash);
  if (linked) setFilter(linked);
});
addEventListener('beforeprint', showEverything);
addEventListener('afterprint', () => {
  if (report.findings.length > 0) update();
});
start();
