import { memorySource } from '../unpack/format.js';
import type { Artifact, Audience } from './artifact.js';

/** An artifact in memory. @param path as findings show it, with `/` @param sourceMap the text of the map beside it */
export function memoryArtifact(path: string, content: Uint8Array, audience: Audience, sourceMap?: string): Artifact {
  return {
    name: path,
    fileName: path.slice(path.lastIndexOf('/') + 1),
    audience,
    open: () => ({
      ...memorySource(content),
      version: 0,
      isHole: false,
      hasChanged: false,
      readInto: (buffer, offset) => {
        const piece = content.subarray(offset, offset + buffer.length);
        buffer.set(piece);
        return piece.length;
      },
      close: () => undefined,
    }),
    describeError: String,
    sourceMap: async () => (sourceMap === undefined ? undefined : { location: `${path}.map`, text: sourceMap }),
    original: (reference) => ({ path: reference, text: () => undefined }),
  };
}
