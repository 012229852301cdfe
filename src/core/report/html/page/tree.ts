import { count, h } from './dom.js';

/** A directory, or a file without children. */
interface Branch {
  /** The whole path. */
  path: string;
  name: string;
  findings: number;
  children: Map<string, Branch>;
}

/**
 * A tree of the files with findings, to choose one file or directory. Branches are filled when they are opened.
 * @param files file of each finding @param choose gets the path, or an empty text for all
 */
export function treeElement(files: readonly string[], choose: (path: string) => void): HTMLElement {
  const root: Branch = { path: '', name: '', findings: 0, children: new Map() };
  for (const file of files) if (file !== '') add(root, file);
  return h(
    'div',
    { class: 'tree' },
    h('button', { type: 'button', click: () => choose('') }, 'all files'),
    childrenElement(root, choose, true),
  );
}

function add(root: Branch, file: string): void {
  // The host of a URL is one part.
  const parts = file.match(/^[a-z]+:\/\/[^/]*|[^/]+/gi) ?? [];
  let at = root;
  let path = '';
  root.findings++;
  for (const name of parts) {
    path = path === '' && !file.startsWith('/') ? name : `${path}/${name}`;
    const next: Branch = at.children.get(name) ?? { path, name, findings: 0, children: new Map() };
    at.children.set(name, next);
    next.findings++;
    at = next;
  }
}

/** Directories with nothing but one directory are shown as one: `dist/assets`. */
function joined(branch: Branch): Branch {
  const [only] = branch.children.values();
  if (branch.children.size !== 1 || !only || only.children.size === 0) return branch;
  return joined({ ...only, name: `${branch.name}/${only.name}` });
}

/** @param isTop a tree with one branch at the top starts with it open */
function childrenElement({ children }: Branch, choose: (path: string) => void, isTop = false): HTMLElement {
  const sorted = [...children.values()]
    .map(joined)
    .sort((a, b) => b.findings - a.findings || (a.name < b.name ? -1 : 1));
  return h(
    'ul',
    {},
    ...sorted.map((branch) => h('li', {}, branchElement(branch, choose, isTop && sorted.length === 1))),
  );
}

function branchElement(branch: Branch, choose: (path: string) => void, isOpen: boolean): HTMLElement {
  const { path, name, findings, children } = branch;
  const label = `${path}: ${count(findings, 'finding')}`;
  const button = h(
    'button',
    { type: 'button', title: label, 'aria-label': label, click: () => choose(path) },
    `${name}${children.size > 0 ? '/' : ''} `,
    h('span', { class: 'number' }, findings.toLocaleString('en')),
  );
  if (children.size === 0) return button;
  const content = h('div', {});
  const fill = () => {
    if (content.childElementCount === 0) content.append(childrenElement(branch, choose));
  };
  if (isOpen) fill();
  return h(
    'details',
    { toggle: fill, open: isOpen },
    h('summary', { 'aria-label': `files below ${path}` }, button),
    content,
  );
}
