import { Parser } from 'htmlparser2';
import type { ScriptLanguage } from '../files/languages.js';

/** A script in a page or a single-file component. */
export interface InlineScript {
  code: string;
  kind: ScriptLanguage;
  /** Offset of its first sign in the file, in UTF-16 units. */
  start: number;
}

/** The inline scripts of a page (HTML Standard, 4.12.1) or single-file component, without data blocks. */
export function inlineScripts(text: string): InlineScript[] {
  const found: InlineScript[] = [];
  let open: { start: number; kind: ScriptLanguage } | undefined;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (name !== 'script' || /json|template|importmap/.test(attributes.type ?? '')) return;
        open = { start: parser.endIndex + 1, kind: kindOf(attributes.lang) };
      },
      onclosetag(name) {
        if (name !== 'script' || !open) return;
        found.push({ code: text.slice(open.start, parser.startIndex), kind: open.kind, start: open.start });
        open = undefined;
      },
    },
    { lowerCaseAttributeNames: false },
  );
  parser.end(text);
  return found;
}

function kindOf(lang = ''): ScriptLanguage {
  return /^(ts|typescript)$/.test(lang) ? 'ts' : lang === 'tsx' ? 'tsx' : lang === 'jsx' ? 'jsx' : 'js';
}
