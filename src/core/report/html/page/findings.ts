import { count, h, pagedList } from './dom.js';
import { type Cause, fileOf, type Group, type PageFinding, type PageReport, placeText } from './model.js';

/** Findings of one cause that are shown at a time. */
const SIZE = 50;
/** Few findings are all unfolded. */
const FEW = 30;

/** Fills an element with findings, grouped by cause and variable. A folded group is filled when it is opened. */
export function showFindings(container: HTMLElement, causes: readonly Cause[], codes: PageReport['codes']): void {
  const total = causes.reduce((sum, { findings }) => sum + findings.length, 0);
  container.replaceChildren(...causes.map((cause, index) => causeElement(cause, codes, total <= FEW || index === 0)));
  if (causes.length === 0) container.replaceChildren(h('p', { class: 'none' }, 'No finding matches the filters.'));
}

function causeElement(
  { level, code, findings, groups }: Cause,
  codes: PageReport['codes'],
  isOpen: boolean,
): HTMLElement {
  const { meaning = '', help = '' } = codes[code] ?? {};
  const list = h('div', { class: 'cause-list' });
  const [only] = groups;
  const fill = () => {
    if (list.childElementCount > 0) return;
    if (groups.length === 1 && only) findingList(list, only.findings);
    else
      pagedList(list, groups, (group) => groupElement(group, findings.length <= FEW || (isOpen && group === only)), {
        size: SIZE,
        what: 'groups',
      });
  };
  if (isOpen) fill();
  return h(
    'details',
    {
      class: `cause ${level}`,
      open: isOpen,
      toggle: fill,
      id: only && groups.length === 1 ? only.id : `${level}-${code}`,
    },
    h(
      'summary',
      {},
      badge(level),
      h('code', {}, code),
      h('span', { class: 'meaning' }, meaning),
      h('span', { class: 'number' }, amount(findings)),
    ),
    h('p', { class: 'help' }, ...withCode(help)),
    list,
  );
}

function groupElement({ id, variable, findings }: Group, isOpen: boolean): HTMLElement {
  const [first] = findings;
  if (findings.length === 1 && first) return findingElement(first, id);
  const list = h('div', {});
  const fill = () => {
    if (list.childElementCount === 0) findingList(list, findings);
  };
  if (isOpen) fill();
  return h(
    'details',
    { class: 'group', open: isOpen, toggle: fill, id },
    h(
      'summary',
      {},
      h('span', { class: 'variable' }, variable === '' ? 'no variable' : variable),
      first?.reach !== undefined && h('span', { class: `reach ${first.reach}` }, first.reach),
      h('span', { class: 'number' }, amount(findings)),
    ),
    list,
  );
}

function findingList(list: HTMLElement, findings: readonly PageFinding[]): void {
  pagedList(list, findings, (finding) => findingElement(finding), {
    size: SIZE,
    what: 'findings',
    brief: briefElement,
  });
}

/** One more finding of a long list, on paper: its place and its fingerprint. */
function briefElement({ place, message, fingerprint }: PageFinding): HTMLElement {
  return h(
    'div',
    { class: 'brief' },
    h('code', {}, `${place ? placeText(place) : message} ${fingerprint.slice(0, 8)}`),
  );
}

/** `1,500 findings in 1,500 files` */
function amount(findings: readonly PageFinding[]): string {
  const files = new Set(findings.map(fileOf).filter((file) => file !== '')).size;
  return files > 1
    ? `${count(findings.length, 'finding')} in ${count(files, 'file')}`
    : count(findings.length, 'finding');
}

/** Entries of the list at the top that are shown at first. */
const MOST_ENTRIES = 8;

/** The groups as links, the gravest first, and what could not be checked. */
export function overviewElement(causes: readonly Cause[], { coverage, codes }: PageReport): HTMLElement {
  const unread = coverage?.unread.length ?? 0;
  const notSearched = coverage?.notSearched?.length ?? 0;
  const unknown: [number, string][] = [
    [unread, unread === 1 ? 'item could not be checked' : 'items could not be checked'],
    [notSearched, notSearched === 1 ? 'value was not searched for' : 'values were not searched for'],
  ];
  const gaps = unknown.flatMap(([number, what]) =>
    number === 0
      ? []
      : [
          h(
            'li',
            {},
            h('span', { class: 'badge unknown' }, 'not known'),
            h('a', { href: '#coverage' }, `${number.toLocaleString('en')} ${what}`),
          ),
        ],
  );
  const entries = causes.flatMap((cause) => cause.groups.map((group) => ({ cause, group })));
  const list = h('ul', { class: 'overview' });
  const groups = h('ul', { class: 'overview' });
  list.append(...gaps);
  pagedList(groups, entries, ({ cause, group }) => entryElement(cause, group, codes), {
    size: MOST_ENTRIES,
    what: 'groups',
  });
  return h('div', {}, list, groups);
}

function entryElement(
  { level, code }: Cause,
  { id, variable, findings, files }: Group,
  codes: PageReport['codes'],
): HTMLElement {
  const [file = ''] = files;
  const where = files.size > 1 ? `in ${count(files.size, 'file')}` : file === '' ? '' : `in ${file}`;
  const repeated = findings.length > files.size ? ` (${count(findings.length, 'finding')})` : '';
  return h(
    'li',
    {},
    badge(level),
    h(
      'a',
      { href: `#${id}`, click: (event) => openGroup(event, `${level}-${code}`, id) },
      variable === '' ? (codes[code]?.meaning ?? code) : `${variable} ${where}${repeated}`,
    ),
    h('code', {}, code),
    variable === '' && h('span', { class: 'number' }, `${where}${repeated}`),
  );
}

/** Opens a folded group and its cause, which fill themselves, and moves there. */
function openGroup(event: Event, cause: string, id: string): void {
  event.preventDefault();
  for (const one of [cause, id]) {
    const element = document.getElementById(one);
    if (!(element instanceof HTMLDetailsElement)) continue;
    element.open = true;
    element.dispatchEvent(new Event('toggle'));
  }
  const target = document.getElementById(id) ?? document.getElementById(cause);
  target?.scrollIntoView();
  (target?.querySelector('summary') ?? target)?.focus();
}

function badge(level: string): HTMLElement {
  return h('span', { class: `badge ${level}` }, level);
}

/** @param finding of the report, or an accepted one, which has a reason @param id for links to it */
export function findingElement(finding: PageFinding & { because?: string; until?: string }, id?: string): HTMLElement {
  const { variable, reach, message, remedy, place, origin, encoding, chain, excerpt, fingerprint, bundle } = finding;
  const steps = encoding?.filter((name) => name !== 'plain') ?? [];
  return h(
    'article',
    { class: 'finding', ...(id !== undefined && { id, tabindex: -1 }) },
    h(
      'h3',
      {},
      variable !== undefined && h('span', { class: 'variable' }, variable),
      variable !== undefined && reach !== undefined && h('span', { class: `reach ${reach}` }, reach),
      h('span', { class: 'message' }, ...withCode(message)),
    ),
    origin &&
      h(
        'p',
        { class: 'where' },
        h('span', { class: 'label' }, 'source'),
        h('code', {}, placeText({ ...origin, inside: [] })),
      ),
    place &&
      h(
        'p',
        { class: 'where' },
        h('span', { class: 'label' }, origin ? 'in' : 'at'),
        h('code', {}, placeText(place)),
        steps.length > 0 && h('span', { class: 'encoding' }, ` as ${steps.join(' in ')}`),
        finding.within && h('span', { class: 'encoding' }, ` in ${finding.within.join(' › ')}`),
      ),
    chain && h('p', { class: 'where' }, h('span', { class: 'label' }, 'imports'), h('code', {}, chain.join(' → '))),
    excerpt && excerptElement(excerpt),
    h('p', { class: 'remedy' }, ...withCode(`→ ${remedy}`)),
    finding.because !== undefined &&
      h('p', { class: 'because' }, `accepted until ${finding.until}: ${finding.because}`),
    h(
      'p',
      { class: 'about' },
      bundle !== undefined && `${bundle} · `,
      'fingerprint ',
      h('code', { title: fingerprint }, fingerprint.slice(0, 8)),
    ),
  );
}

function excerptElement({ line, text, column, length }: NonNullable<PageFinding['excerpt']>): HTMLElement {
  const [start, end] = [column - 1, column - 1 + length];
  const marked = h('mark', {}, text.slice(start, end));
  return h(
    'pre',
    { tabindex: 0, 'aria-label': `line ${line}` },
    h('span', { class: 'line', 'aria-hidden': 'true' }, `${line} `),
    h('code', {}, text.slice(0, start), marked, text.slice(end)),
  );
}

/** Text with its parts in backticks as code. */
function withCode(text: string): (HTMLElement | string)[] {
  return text.split(/`([^`]+)`/).map((part, index) => (index % 2 === 1 ? h('code', {}, part) : part));
}
