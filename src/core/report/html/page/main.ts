import { byId, count, h, pagedList } from './dom.js';
import { coverageElement, filesElement } from './files.js';
import { findingElement, showFindings } from './findings.js';
import { matrixElement } from './matrix.js';
import { type Filter, filtered, type Level, levels, type PageFinding, type PageReport } from './model.js';
import { trialElement } from './trial.js';

const report = JSON.parse(byId('report').textContent ?? '') as PageReport;
const chosen = new Set<Level>(levels);
const filter: Filter = { levels: chosen, code: '', variable: '', stage: '', file: '', text: '' };

/** Shows the findings that match, and how many they are. */
function update(): void {
  const found = filtered(report.findings, filter);
  showFindings(byId('findings-list'), found, report.codes);
  const all = report.findings.length.toLocaleString('en');
  byId('shown').textContent = `${found.length.toLocaleString('en')} of ${all} shown`;
}

function selectOf(key: 'code' | 'variable' | 'stage' | 'file', label: string, values: readonly (string | undefined)[]) {
  const options = [...new Set(values.flatMap((value) => (value === undefined || value === '' ? [] : [value])))].sort();
  const select = h(
    'select',
    {
      id: `filter-${key}`,
      change: () => {
        filter[key] = select.value;
        update();
      },
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
        'aria-pressed': 'true',
        click: () => {
          if (!chosen.delete(level)) chosen.add(level);
          button.setAttribute('aria-pressed', String(chosen.has(level)));
          update();
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
        filter.text = input.value;
        update();
      }, 120);
    },
  });
  return field('text', input);
}

function reset(): void {
  for (const level of levels) chosen.add(level);
  Object.assign(filter, { code: '', variable: '', stage: '', file: '', text: '' });
  for (const one of byId('filters').querySelectorAll<HTMLInputElement | HTMLSelectElement>('select, input'))
    one.value = '';
  for (const one of byId('filters').querySelectorAll('button.level')) one.setAttribute('aria-pressed', 'true');
  update();
}

function choose(variable: string, file: string): void {
  reset();
  Object.assign(filter, { variable, file });
  byId<HTMLSelectElement>('filter-variable').value = variable;
  byId<HTMLSelectElement>('filter-file').value = file;
  update();
  byId('findings').scrollIntoView();
  byId('findings-title').focus();
}

function start(): void {
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
    selectOf(
      'file',
      'file',
      findings.map(({ place }) => place?.path),
    ),
    selectOf(
      'stage',
      'stage',
      findings.map(({ stage }) => stage),
    ),
    h('button', { type: 'button', id: 'reset', click: reset }, 'Show all'),
    h('span', { id: 'shown', role: 'status' }),
  ];
  byId('filters').replaceChildren(...filters.filter((one) => one !== undefined));
  byId('filters').hidden = findings.length === 0;
  if (findings.length > 0) update();
  else byId('findings-list').replaceChildren(h('p', { class: 'none' }, 'No findings.'));
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
  pagedList(list, findings, findingElement, { size: 50, what });
  byId(id).append(findings.length > 0 ? list : h('p', { class: 'none' }, 'None.'));
}

start();
