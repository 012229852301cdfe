import { count, h, pagedList } from './dom.js';
import { causesOf, type PageFinding, type PageReport, placeText } from './model.js';

/** Findings of one cause that are shown at a time. */
const SIZE = 50;
/** Few findings are all unfolded. */
const FEW = 30;

/** Fills an element with findings, grouped by cause. A folded group is filled when it is opened. */
export function showFindings(
  container: HTMLElement,
  findings: readonly PageFinding[],
  codes: PageReport['codes'],
): void {
  const causes = causesOf(findings);
  container.replaceChildren(
    ...causes.map((cause, index) => causeElement(cause, codes, findings.length <= FEW || index === 0)),
  );
  if (causes.length === 0) container.replaceChildren(h('p', { class: 'none' }, 'No finding matches the filters.'));
}

function causeElement(cause: readonly PageFinding[], codes: PageReport['codes'], isOpen: boolean): HTMLElement {
  const { level, code } = cause[0] as PageFinding;
  const { meaning = '', help = '' } = codes[code] ?? {};
  const list = h('div', { class: 'cause-list' });
  const fill = () => {
    if (list.childElementCount === 0) pagedList(list, cause, findingElement, { size: SIZE, what: 'findings' });
  };
  if (isOpen) fill();
  return h(
    'details',
    { class: `cause ${level}`, open: isOpen, toggle: fill },
    h(
      'summary',
      {},
      badge(level),
      h('code', {}, code),
      h('span', { class: 'meaning' }, meaning),
      h('span', { class: 'number' }, count(cause.length, 'finding')),
    ),
    h('p', { class: 'help' }, ...withCode(help)),
    list,
  );
}

function badge(level: string): HTMLElement {
  return h('span', { class: `badge ${level}` }, level);
}

/** @param finding of the report, or an accepted one, which has a reason */
export function findingElement(finding: PageFinding & { because?: string; until?: string }): HTMLElement {
  const { variable, reach, message, remedy, place, origin, encoding, chain, excerpt, fingerprint, bundle } = finding;
  const steps = encoding?.filter((name) => name !== 'plain') ?? [];
  return h(
    'article',
    { class: 'finding' },
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
