import { count, h, pagedColumns, shortened } from './dom.js';
import { fileOf, type Level, levels, type PageFinding, type PageReport } from './model.js';

/** Columns at first; a button shows the others. */
const MOST_COLUMNS = 12;

interface Cell {
  findings: PageFinding[];
  /** Places of the public value. */
  places: number;
  sources: Set<string>;
}

/** Called when a cell is chosen. */
type Choose = (variable: string, file: string) => void;

/** Variables, grouped by reach, and the files in which something of them is. */
export function matrixElement(report: PageReport, choose: Choose): HTMLElement {
  const cells = cellsOf(report);
  const files = filesOf(cells);
  if (files.length === 0) return h('p', { class: 'none' }, 'No variable of the contract is in any file.');
  const groups = groupsOf(report, cells);
  const matrix = pagedColumns(files, (columns, isPaper) => table({ groups, cells, isPaper }, columns, choose), {
    most: MOST_COLUMNS,
    label: 'Variables and files',
  });
  const unsought = new Set(report.coverage?.notSearched?.map(({ variable }) => variable));
  const others = (report.contents?.variables ?? []).map(({ name }) => name).filter((name) => !cells.has(name));
  const lines: [string, string[]][] = [
    ['Found in no file', others.filter((name) => !unsought.has(name))],
    ['Not searched for', others.filter((name) => unsought.has(name))],
  ];
  for (const [title, names] of lines)
    if (names.length > 0) matrix.append(h('p', { class: 'help' }, `${title}: ${names.join(', ')}`));
  return matrix;
}

function cellsOf({ findings, contents }: PageReport): Map<string, Map<string, Cell>> {
  const cells = new Map<string, Map<string, Cell>>();
  const cellOf = (variable: string, file: string): Cell => {
    const row = cells.get(variable) ?? new Map<string, Cell>();
    const cell = row.get(file) ?? { findings: [], places: 0, sources: new Set<string>() };
    cells.set(variable, row.set(file, cell));
    return cell;
  };
  for (const finding of findings)
    if (finding.variable !== undefined && finding.place)
      cellOf(finding.variable, fileOf(finding)).findings.push(finding);
  for (const { variable, path, places, origin } of contents?.values ?? []) {
    const cell = cellOf(variable, path);
    cell.places += places;
    if (origin) cell.sources.add(`${origin.path}:${origin.line}`);
  }
  return cells;
}

/** The files with the most findings first, then those with the most values. */
function filesOf(cells: ReadonlyMap<string, ReadonlyMap<string, Cell>>): string[] {
  const weights = new Map<string, number>();
  for (const row of cells.values())
    for (const [file, { findings, places }] of row)
      weights.set(file, (weights.get(file) ?? 0) + findings.length * 1_000_000 + places);
  return [...weights].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).map(([file]) => file);
}

interface Matrix {
  /** Variables by reach. */
  groups: readonly [string, string[]][];
  cells: ReadonlyMap<string, ReadonlyMap<string, Cell>>;
  /** Rows without a cell are left out on paper, where a table has few columns. */
  isPaper: boolean;
}

function table({ groups, cells, isPaper }: Matrix, files: readonly string[], choose: Choose): HTMLElement {
  const head = h(
    'tr',
    {},
    h('th', { scope: 'col' }, 'variable'),
    ...files.map((file) => h('th', { scope: 'col', title: file }, h('span', {}, shortened(file)))),
  );
  const body = groups.flatMap(([reach, all]) => {
    const names = isPaper ? all.filter((name) => files.some((file) => cells.get(name)?.has(file))) : all;
    if (names.length === 0) return [];
    return h(
      'tbody',
      {},
      h('tr', { class: 'group' }, h('th', { colspan: files.length + 1, scope: 'rowgroup' }, reach)),
      ...names.map((name) =>
        h(
          'tr',
          {},
          h('th', { scope: 'row' }, name),
          ...files.map((file) => h('td', {}, ...cellElement(name, file, cells.get(name)?.get(file), choose))),
        ),
      ),
    );
  });
  return h('table', { class: 'matrix' }, h('thead', {}, head), ...body);
}

/** Variables of the contract in its order, then names that only findings have. */
function groupsOf(
  { contents, findings }: PageReport,
  cells: ReadonlyMap<string, ReadonlyMap<string, Cell>>,
): [string, string[]][] {
  const reachOf = new Map((contents?.variables ?? []).map(({ name, reach }) => [name, reach as string]));
  for (const { variable, reach } of findings)
    if (variable !== undefined && !reachOf.has(variable)) reachOf.set(variable, reach ?? 'undeclared');
  for (const name of cells.keys()) if (!reachOf.has(name)) reachOf.set(name, 'undeclared');
  return ['server', 'build', 'public', 'undeclared'].flatMap((reach): [string, string[]][] => {
    const names = [...reachOf].flatMap(([name, of]) => (of === reach && cells.has(name) ? [name] : []));
    const weights = new Map(names.map((name) => [name, weightOf(cells.get(name))]));
    const sorted = names.sort((a, b) => (weights.get(b) ?? 0) - (weights.get(a) ?? 0));
    return sorted.length > 0 ? [[reach, sorted]] : [];
  });
}

/** Errors weigh more than any number of warnings, warnings more than notes, and findings more than places of a value. */
function weightOf(row: ReadonlyMap<string, Cell> | undefined): number {
  const cells = [...(row?.values() ?? [])];
  const findings = cells.flatMap((cell) => cell.findings);
  const worst = Math.min(...findings.map(({ level }) => levels.indexOf(level)), levels.length);
  const places = cells.reduce((sum, cell) => sum + cell.places, 0);
  return (levels.length - worst) * 1e12 + findings.length * 1e6 + Math.min(places, 999_999);
}

function cellElement(variable: string, file: string, cell: Cell | undefined, choose: Choose): (HTMLElement | string)[] {
  if (!cell) return [];
  const { findings, places, sources } = cell;
  const level = levels.find((one) => findings.some((finding) => finding.level === one));
  const parts = [
    findings.length > 0 && count(findings.length, 'finding'),
    places > 0 && `its value, ${count(places, 'place')}`,
    sources.size > 0 && `from ${[...sources].join(', ')}`,
  ].filter(Boolean);
  const label = `${variable} in ${file}: ${parts.join('; ')}`;
  const present = h('span', { class: 'present', title: label, role: 'img', 'aria-label': label }, `● ${places}`);
  if (!level) return [present];
  const button = h(
    'button',
    { type: 'button', class: level, title: label, 'aria-label': label, click: () => choose(variable, file) },
    `${signs[level]} ${findings.length}`,
  );
  return places > 0 ? [button, ' ', present] : [button];
}

const signs: Readonly<Record<Level, string>> = { error: '✕', warning: '▲', note: 'i' };
