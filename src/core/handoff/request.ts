import { fillTemplate, type HostScope, type RequestTemplate } from '../contract/hosts.js';
import { reveal, type Secret } from '../secrets/secret.js';

/** A request, ready to be sent. Its headers and body may contain values. */
export interface FilledRequest {
  method: string;
  url: string;
  headers: Record<string, string>;
  body?: string;
}

/** Values for the placeholders of a request. */
export interface RequestValues {
  stage: string;
  /** Credentials by name, for headers. */
  credentials: ReadonlyMap<string, Secret>;
  /** Name of the value that is set. */
  name?: string;
  id?: string | undefined;
  value?: Secret;
  /** The host's words for its scopes. */
  scopes?: readonly string[];
}

/** Fills a request. Only the body gets the value, and only headers get credentials. */
export function fillRequest({ method, url, headers, body }: RequestTemplate, values: RequestValues): FilledRequest {
  const { stage, name, id, value, scopes = [], credentials } = values;
  const inUrl: Record<string, string | undefined> = { stage, name, id };
  const encoded = (one: string) => (inUrl[one] === undefined ? undefined : encodeURIComponent(inUrl[one]));
  const inHeaders = (one: string) => {
    const credential = credentials.get(one);
    return credential && reveal(credential);
  };
  const inBody: Record<string, string | undefined> = {
    ...inUrl,
    value: value && reveal(value),
    scope: scopes[0],
  };
  const filled = Object.entries(headers).map(([header, template]) => [header, fillTemplate(template, inHeaders)]);
  return {
    method,
    url: fillTemplate(url, encoded),
    headers: {
      accept: 'application/json',
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...Object.fromEntries(filled),
    },
    ...(body !== undefined && { body: JSON.stringify(fillBody(body, inBody, scopes)) }),
  };
}

/** Strings are filled; the string `{scopes}` alone becomes a list. */
function fillBody(body: unknown, values: Record<string, string | undefined>, scopes: readonly string[]): unknown {
  if (typeof body === 'string') return body === '{scopes}' ? scopes : fillTemplate(body, (name) => values[name]);
  if (Array.isArray(body)) return body.map((one) => fillBody(one, values, scopes));
  if (typeof body !== 'object' || body === null) return body;
  return Object.fromEntries(Object.entries(body).map(([key, one]) => [key, fillBody(one, values, scopes)]));
}

/** Tells whether a request sets one scope at a time, so that a value for two needs two requests. */
export function takesOneScope(template: unknown): boolean {
  const text = JSON.stringify(template);
  return text.includes('{scope}') && !text.includes('{scopes}');
}

/** HostScope in the host's own words. */
export function wordsFor(scopes: readonly HostScope[], words: Readonly<Record<HostScope, string>>): string[] {
  return scopes.map((scope) => words[scope]);
}
