type Child = Node | string | undefined | false;
type Props = Readonly<Record<string, string | number | boolean | ((event: Event) => void) | undefined>>;

/**
 * An element. Text is always set as text, so nothing from an artifact becomes markup.
 * @param props attributes; functions are listeners of the event that they are named after
 */
export function h<Name extends keyof HTMLElementTagNameMap>(
  name: Name,
  props: Props = {},
  ...children: readonly Child[]
): HTMLElementTagNameMap[Name] {
  const element = document.createElement(name);
  for (const [key, value] of Object.entries(props)) {
    if (typeof value === 'function') element.addEventListener(key, value);
    else if (value === true) element.setAttribute(key, '');
    else if (value !== undefined && value !== false) element.setAttribute(key, String(value));
  }
  element.append(...children.filter((one): one is Node | string => one !== undefined && one !== false));
  return element;
}

/** An element of the page by its id. */
export function byId<Kind extends HTMLElement = HTMLElement>(id: string): Kind {
  return document.getElementById(id) as Kind;
}

/**
 * A list that shows some items, and more on demand: thousands of elements at once would make the page slow.
 * @param brief shows the rest on paper in short
 */
export function pagedList<T>(
  container: HTMLElement,
  items: readonly T[],
  show: (item: T) => HTMLElement,
  { size, what, brief }: { size: number; what: string; brief?: (item: T) => HTMLElement },
): void {
  let shown = 0;
  const more = h('button', { type: 'button', class: 'more', click: () => next(true) });
  const next = (focuses: boolean) => {
    const added = items.slice(shown, shown + size).map(show);
    shown += added.length;
    more.before(...added);
    const left = items.length - shown;
    more.hidden = left === 0;
    more.textContent = `Show ${Math.min(size, left)} more (${left.toLocaleString('en')} ${what} left)`;
    if (focuses && added[0]) {
      added[0].tabIndex = -1;
      added[0].focus();
    }
  };
  container.replaceChildren(more);
  next(false);
  more.addEventListener('all', () => {
    if (brief) more.before(...items.slice(shown).map(brief));
    if (brief) shown = items.length;
    while (shown < items.length) next(false);
    more.hidden = true;
  });
}

/** Opens everything that is folded and shows all items of each list, for paper. */
export function showEverything(): void {
  for (let opened = true; opened; ) {
    const folded = [...document.querySelectorAll<HTMLDetailsElement>('main details:not([open]):not(.menu)')];
    for (const element of folded) {
      element.open = true;
      element.dispatchEvent(new Event('toggle'));
    }
    const lists = [...document.querySelectorAll<HTMLElement>('button.more:not([hidden])')];
    for (const button of lists) button.dispatchEvent(new Event('all'));
    opened = folded.length > 0;
  }
}

/** Bytes as a person reads them: `3.1 MB`, in powers of ten. */
export function byteSize(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  const power = Math.min(4, Math.floor(Math.log10(bytes) / 3));
  const size = bytes / 1000 ** power;
  return `${size < 10 ? size.toFixed(1) : Math.round(size)} ${['B', 'kB', 'MB', 'GB', 'TB'][power]}`;
}

/** `1 file`, `1,134 files`. */
export function count(number: number, one: string): string {
  return `${number.toLocaleString('en')} ${one}${number === 1 ? '' : 's'}`;
}

/** Columns of a table that fit on a page of paper. */
const ON_PAPER = 4;

/**
 * A table that scrolls, with the first of its columns; a button shows the others. On paper it is several tables, with all columns.
 * @param draw makes the table of some columns
 */
export function pagedColumns(
  files: readonly string[],
  draw: (columns: readonly string[], isPaper: boolean) => HTMLElement,
  { most, label }: { most: number; label: string },
): HTMLElement {
  const container = h('div', {});
  const screen = h('div', { class: 'screen' });
  const paper = h('div', { class: 'paper' });
  const show = (columns: readonly string[]) => {
    const more = files.length - columns.length;
    screen.replaceChildren(
      h('div', { class: 'scroll', tabindex: 0, role: 'region', 'aria-label': label }, draw(columns, false)),
      ...(more > 0
        ? [
            h(
              'button',
              { type: 'button', class: 'columns', click: () => show(files) },
              `Show ${count(more, 'more file')}`,
            ),
          ]
        : []),
    );
  };
  show(files.slice(0, most));
  addEventListener('beforeprint', () => {
    const starts = Array.from({ length: Math.ceil(files.length / ON_PAPER) }, (_, index) => index * ON_PAPER);
    paper.replaceChildren(...starts.map((start) => draw(files.slice(start, start + ON_PAPER), true)));
  });
  addEventListener('afterprint', () => paper.replaceChildren());
  container.append(screen, paper);
  return container;
}

/** The end of a path tells files apart. */
export function shortened(path: string): string {
  return path.length <= 28 ? path : `…${path.slice(-27)}`;
}
