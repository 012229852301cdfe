import { pastText } from '../../../findings/past.js';
import { byteSize, count, h, pagedList } from './dom.js';
import { type PageReport, placeText } from './model.js';

const SIZE = 100;

/** The files that were checked, the largest first, with what could not be checked of each. */
export function filesElement({ contents, coverage }: PageReport): HTMLElement {
  const files = contents?.files ?? [];
  const largest = Math.max(1, ...files.slice(0, 1).map(({ bytes }) => bytes));
  const unread = new Map<string, string[]>();
  for (const { path, inside, because } of coverage?.unread ?? [])
    unread.set(path, [...(unread.get(path) ?? []), `${inside.length > 0 ? `${inside.join(' » ')} ` : ''}${because}`]);
  const container = h('div', { class: 'files', role: 'list' });
  const rowOf = ({ path, bytes, members, for: audience }: (typeof files)[number]) => {
    const bar = h('span', { class: 'bar', 'aria-hidden': 'true' });
    bar.style.setProperty('--part', String(bytes / largest));
    const problems = unread.get(path) ?? [];
    return h(
      'div',
      { class: problems.length > 0 ? 'file incomplete' : 'file', role: 'listitem' },
      h('code', {}, path),
      h('span', { class: 'size' }, byteSize(bytes)),
      bar,
      h(
        'span',
        { class: 'state' },
        [
          members > 0 && count(members, 'embedded file'),
          audience !== 'browser' && `${audience} file`,
          problems.length === 0 ? 'checked completely' : `not checked: ${problems.join('; ')}`,
        ]
          .filter(Boolean)
          .join(', '),
      ),
    );
  };
  if (files.length === 0) return h('p', { class: 'none' }, 'This report has no list of files.');
  pagedList(container, files, rowOf, { size: SIZE, what: 'files' });
  return container;
}

/** Lists of unread files, skipped paths, and values that were not searched for. */
export function coverageElement({ coverage, checked = [] }: PageReport): HTMLElement {
  const { unread = [], skipped = [], notSearched = [], past } = coverage ?? {};
  const lists: [string, string[]][] = [
    ['Could not be checked', unread.map(({ because, ...place }) => `${placeText(place)} ${because}`)],
    ['Skipped', skipped.map(({ because, ...place }) => `${placeText(place)} ${because}`)],
    [
      'Parts that were skipped',
      checked.flatMap(({ part, state, because = '' }) => (state === 'skipped' ? [`${part}: ${because}`] : [])),
    ],
    ['Not searched for', notSearched.map(({ variable, stage, because }) => `${variable} of ${stage}: ${because}`)],
    ['Past values', past ? [pastText(past)] : []],
  ];
  const sections = lists.flatMap(([title, lines]) => {
    if (lines.length === 0) return [];
    const list = h('div', { role: 'list' });
    pagedList(list, lines, (line) => h('div', { role: 'listitem' }, line), { size: SIZE, what: 'lines' });
    return [h('h3', {}, `${title} (${lines.length.toLocaleString('en')})`), list];
  });
  return sections.length > 0
    ? h('div', { class: 'coverage' }, ...sections)
    : h('p', { class: 'none' }, 'Every file was read, and every value was searched for.');
}
