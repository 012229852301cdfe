import { table } from '../text/table.js';
import { date } from './date.js';
import { email } from './email.js';
import { flag } from './flag.js';
import type { Form } from './form.js';
import { host } from './host.js';
import { integer } from './integer.js';
import { json } from './json.js';
import { list } from './list.js';
import { number } from './number.js';
import { origin } from './origin.js';
import { pem } from './pem.js';
import { port } from './port.js';
import { text } from './text.js';
import { url } from './url.js';

const all = [text, url, origin, email, host, port, integer, number, flag, date, json, list(text), pem];

/** The forms that a contract names by a word. `choice` and lists of another form take theirs from the contract. */
export const forms: Readonly<Record<string, Form>> = table(Object.fromEntries(all.map((form) => [form.name, form])));

export { choice, withoutChoices } from './choice.js';
export type { Form } from './form.js';
export { list, listItems } from './list.js';
