import { isMap, isNode, isSeq } from 'yaml';
import { yamlDocument } from '../text/yaml.js';

/** An acceptance to write into a contract. */
export interface NewAcceptance {
  finding: string;
  fingerprint: string;
  because: string;
  /** As 2027-03-01. */
  until: string;
  /** Where the finding was, as a comment. */
  about: string;
}

/**
 * A contract's text with more acceptances. Only these are inserted: comments and layout stay as they are.
 * @returns undefined if the contract is not written as a map of keys, so that there is no place for them
 */
export function withAcceptances(text: string, entries: readonly NewAcceptance[]): string | undefined {
  const { contents } = yamlDocument(text);
  if (!isMap(contents) || contents.flow === true) return undefined;
  const lineBreak = text.includes('\r\n') ? '\r\n' : '\n';
  const pair = contents.items.find(({ key }) => String(key) === 'accept');
  const list = pair?.value;
  if (pair === undefined) {
    const body = text.endsWith('\n') || text === '' ? text : text + lineBreak;
    return body + ['accept:', ...blockLines(entries, '  ')].join(lineBreak) + lineBreak;
  }
  if (!isSeq(list) || !list.range) return undefined;
  const [start, end] = list.range;
  if (list.flow) {
    const items = entries.map(flowItem).join(', ');
    const last = list.items.at(-1);
    const at = isNode(last) && last.range ? last.range[1] : start + 1;
    return `${text.slice(0, at)}${last ? ', ' : ''}${items}${text.slice(at)}`;
  }
  const indent = text.slice(text.lastIndexOf('\n', start) + 1, start).replace(/\S.*$/, '');
  const before = text.slice(0, end).replace(/\s*$/, '');
  const after = text.slice(end).replace(/^[^\S\n]*\r?\n/, '');
  return [before, ...blockLines(entries, indent), after].join(lineBreak);
}

function blockLines(entries: readonly NewAcceptance[], indent: string): string[] {
  return entries.flatMap(({ finding, fingerprint, because, until, about }) => [
    `${indent}# ${about}`,
    `${indent}- finding: ${finding}`,
    `${indent}  fingerprint: "${fingerprint}"`,
    `${indent}  because: ${JSON.stringify(because)}`,
    `${indent}  until: ${until}`,
  ]);
}

function flowItem({ finding, fingerprint, because, until }: NewAcceptance): string {
  return `{ finding: ${finding}, fingerprint: "${fingerprint}", because: ${JSON.stringify(because)}, until: ${until} }`;
}
