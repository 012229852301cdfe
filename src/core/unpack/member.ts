import { type ByteSource, glimpseOf, isUnreadable, type Member, memorySource } from './format.js';
import { formatOf } from './index.js';

/**
 * The bytes of one embedded file, by the names that lead to it.
 * @param name of the container @param path names from the outermost container's member inwards
 * @param most bytes of it, and of a container on the way
 * @returns undefined if there is no such file, or it cannot be read, or is larger
 */
export async function memberAt(
  source: ByteSource,
  name: string,
  [first = '', ...rest]: readonly string[],
  most: number,
): Promise<Buffer | undefined> {
  try {
    const format = formatOf(glimpseOf(source), name);
    if (!format || format.isText) return undefined;
    for await (const member of format.members(source, name)) {
      if (isUnreadable(member) || member.name !== first) continue;
      const bytes = await bytesOf(member, most);
      return rest.length === 0 || !bytes ? bytes : memberAt(memorySource(bytes), first, rest, most);
    }
    return undefined;
  } catch {
    // The walk has reported the damage.
    return undefined;
  }
}

async function bytesOf(member: Member, most: number): Promise<Buffer | undefined> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of member.chunks()) {
    size += piece.length;
    if (size > most) return undefined;
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}
