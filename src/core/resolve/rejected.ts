import type { EnvFile } from '../envfile/ast.js';
import { weakness } from '../needles/weak.js';
import { Secret } from '../secrets/secret.js';
import type { RejectedLine, ValueSource } from './layer.js';

/** A line that sets a name, whatever its value is. */
const assignment = /^\s*(?:export\s+)?([A-Za-z_]\w*)\s*=[^\S\n]*(\S[\s\S]*?)\s*$/;

/**
 * The texts of lines that cannot be parsed, as another program may read them: such a line may have a secret. A
 * line without a name, such as the rest of a pasted key, belongs to the name above it.
 */
export function rejectedLines(
  { bytes, nodes, at }: EnvFile,
  source: Pick<ValueSource, 'layer' | 'path'>,
): RejectedLine[] {
  const found: RejectedLine[] = [];
  let above: string | undefined;
  for (const node of nodes) {
    if (node.kind === 'entry') above = node.name;
    if (node.kind !== 'broken') continue;
    const text = Buffer.from(bytes.buffer, bytes.byteOffset + node.start, node.end - node.start).toString();
    const [, name = above, value = text.trim()] = assignment.exec(text) ?? [];
    above = name;
    const { line, column } = at(node.start);
    if (name !== undefined && value !== '')
      found.push({
        name,
        texts: asOthersRead(value).map((one) => new Secret(one)),
        source: { ...source, line, column },
      });
  }
  return found;
}

/**
 * The text as it is, without a quote at its ends, what is in quotes, its first line, and what precedes a comment. A text
 * that contains another one is left out, because the shorter one is found wherever the longer one is.
 */
export function asOthersRead(value: string): string[] {
  const withoutComment = value.replace(/\s+#.*$/s, '');
  const [firstLine = ''] = value.split('\n');
  const quoted = /^(["'`])([\s\S]*?)\1/.exec(value)?.[2] ?? '';
  const all = [value, withoutComment, firstLine].flatMap((text) => [text, text.replace(/^["'`]|["'`]$/g, '')]);
  const texts = [...new Set([...all, quoted].map((text) => text.trim()))].filter((text) => text !== '');
  const isSought = (text: string) => weakness(text) === undefined;
  return texts.filter((text) => !texts.some((one) => one !== text && text.includes(one) && isSought(one)));
}
