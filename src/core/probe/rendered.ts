import { Parser } from 'htmlparser2';

/**
 * Text of a page for a reader: its texts and attribute values, without scripts and styles. Lines keep them apart.
 * @param html as the server sent it
 */
export function readableText(html: string): string {
  const parts: string[] = [];
  let hidden = 0;
  let text = '';
  // Character references divide a text for the parser.
  const flush = () => {
    if (text !== '') parts.push(text);
    text = '';
  };
  const isHidden = (name: string) => name === 'script' || name === 'style' || name === 'template';
  const parser = new Parser({
    onopentag(name, attributes) {
      flush();
      if (isHidden(name)) hidden++;
      else parts.push(...Object.values(attributes));
    },
    ontext(piece) {
      if (hidden === 0) text += piece;
    },
    onclosetag(name) {
      flush();
      if (isHidden(name)) hidden = Math.max(0, hidden - 1);
    },
  });
  parser.end(html);
  flush();
  return parts.join('\n');
}

/** Runs in the page: the same of its document after the app started. */
export const READABLE_TEXT = `(() => {
  const parts = [];
  const walk = (node) => {
    if (node.nodeType === 3) parts.push(node.data);
    if (node.nodeType === 1) {
      if (/^(SCRIPT|STYLE|TEMPLATE)$/.test(node.nodeName)) return;
      for (const { value } of node.attributes) parts.push(value);
    }
    for (const child of node.childNodes) walk(child);
  };
  walk(document.documentElement);
  return parts.join('\\n');
})()`;

/** Console messages that tell of a value that is not there, or of a page that is rendered again because of it. */
export function isAboutValues(message: string): boolean {
  return /undefined|is not defined|null|hydrat|did not match|mismatch|minified react error #(4(1[89]|2[2345]))/i.test(
    message,
  );
}
