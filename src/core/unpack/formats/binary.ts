import { embeddedStreams } from '../embedded-streams.js';
import { type Format, isBinary } from '../format.js';
import { isMedia } from './opaque.js';

/** Programs and other bytes that are no text, in an unknown format: compressed streams in them are opened. */
export const binary: Format = {
  name: 'binary',
  streams: true,
  recognise: (head, _, { samples }) => samples.some(isBinary) && !isMedia(head),
  members: embeddedStreams,
};
