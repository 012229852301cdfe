import { Parser } from 'htmlparser2';
import type { ScriptLanguage } from '../files/languages.js';

/** A script in a page or a single-file component. */
export interface InlineScript {
  code: string;
  kind: ScriptLanguage;
  /** Offset of its first character in the file, in UTF-16 code units. */
  start: number;
}

/** A `script` or `style` element. Offsets are UTF-16 code units. */
export interface RawElement {
  name: 'script' | 'style';
  attributes: Readonly<Record<string, string>>;
  start: number;
  /** After its closing tag. */
  end: number;
  contentStart: number;
  contentEnd: number;
}

/**
 * The `script` and `style` elements of a page or component (HTML Standard, 4.12.1).
 * @param isComponent whether tags may close themselves, as in components: `<script src="..." />`
 */
export function rawElements(text: string, isComponent: boolean): RawElement[] {
  const found: RawElement[] = [];
  let open: Omit<RawElement, 'end' | 'contentEnd'> | undefined;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (name !== 'script' && name !== 'style') return;
        open = { name, attributes, start: parser.startIndex, contentStart: parser.endIndex + 1 };
      },
      onclosetag(name) {
        if (name !== open?.name) return;
        // An element without a closing tag ends with the text.
        const end = Math.min(parser.endIndex + 1, text.length);
        // A tag that closes itself reports its own offsets again.
        const contentEnd = parser.startIndex <= open.start ? end : Math.min(parser.startIndex, end);
        found.push({ ...open, contentEnd, end });
        open = undefined;
      },
    },
    { lowerCaseAttributeNames: false, recognizeSelfClosing: isComponent },
  );
  parser.end(text);
  return found;
}

/**
 * Splits an Astro page into its front matter and its template.
 * @returns the code between the `---` lines with its offset, if there is any; the template with spaces before it, so that
 *   offsets stay
 */
export function splitFrontMatter(text: string): { code?: string; start: number; template: string } {
  const [whole, open = '', code = ''] = /^(\s*---\r?\n)([\s\S]*?)\r?\n---/.exec(text) ?? [];
  if (whole === undefined) return { start: 0, template: text };
  return { code, start: open.length, template: ' '.repeat(whole.length) + text.slice(whole.length) };
}

/** The inline scripts of a page or single-file component, without data blocks. */
export function inlineScripts(text: string, isComponent = false): InlineScript[] {
  return rawElements(text, isComponent)
    .filter(({ name, attributes }) => name === 'script' && !/json|template|importmap/.test(attributes.type ?? ''))
    .map(({ attributes, contentStart, contentEnd }) => ({
      code: text.slice(contentStart, contentEnd),
      kind: kindOf(attributes.lang),
      start: contentStart,
    }));
}

function kindOf(lang = ''): ScriptLanguage {
  return /^(ts|typescript)$/.test(lang) ? 'ts' : lang === 'tsx' ? 'tsx' : lang === 'jsx' ? 'jsx' : 'js';
}
