import { flag } from './flag.js';
import type { Form } from './form.js';
import { integer } from './integer.js';
import { text } from './text.js';
import { url } from './url.js';

/** The forms that a contract names by a word. `choice` takes its words from the contract. */
export const forms: Readonly<Record<string, Form>> = Object.fromEntries(
  [text, url, integer, flag].map((form) => [form.name, form]),
);

export { choice } from './choice.js';
export type { Form } from './form.js';
