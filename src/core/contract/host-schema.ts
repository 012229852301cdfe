import * as z from 'zod/mini';
import { once } from '../text/once.js';
import { table } from '../text/table.js';
import {
  type Host,
  type HostListing,
  type HostPages,
  type HostSetter,
  hostScopes,
  type ListingPaths,
} from './hosts.js';
import { label, text, timedCommand } from './schema-parts.js';

/** Created on first use: most contracts have no hosts, and creating the schemas takes as long as parsing a contract. */
export const hostSchemas = once(() => {
  const filled = text('write a text');
  const dotted = (usual: string) =>
    z._default(
      z.string().check(z.regex(/^([^.]+(\.[^.]+)*)?$/, 'write names joined with dots, such as data.items')),
      usual,
    );
  const headers = z._default(z.record(z.string(), z.string()), {});
  const hidden = z.strictObject({
    path: dotted(''),
    is: z.union([filled, z.array(filled).check(z.minLength(1, 'write at least one word'))]),
  });
  const pages = z.union([
    z.strictObject({ number: filled, first: z._default(z.int(), 1), last: z.optional(dotted('')) }),
    z.strictObject({ cursor: filled, at: dotted('') }),
  ]);
  const paths = {
    items: dotted(''),
    name: dotted('name'),
    value: dotted('value'),
    scope: dotted('scope'),
    stage: dotted(''),
    id: dotted(''),
    hidden: z.optional(hidden),
  };

  const listing = z.strictObject({
    method: z._default(z.enum(['GET', 'POST']), 'GET'),
    url: filled,
    headers,
    body: z.optional(z.unknown()),
    ...paths,
    next: dotted(''),
    pages: z.optional(pages),
  });
  const fileListing = z.strictObject({ file: filled, ...paths });
  const commandListing = z.strictObject({ ...timedCommand.shape, ...paths });
  const request = z.strictObject({
    method: z._default(z.enum(['POST', 'PUT', 'PATCH']), 'PUT'),
    url: filled,
    headers,
    body: z.optional(z.unknown()),
  });

  const host = z.strictObject({
    stages: z.optional(z.array(label)),
    'stage-names': z._default(z.record(label, filled), {}),
    holds: z._default(z.array(z.enum(hostScopes)).check(z.minLength(1, 'write build, server, or both')), [
      ...hostScopes,
    ]),
    list: z.union([filled, fileListing, commandListing, listing]),
    set: z.optional(z.union([timedCommand, request])),
    change: z.optional(z.union([timedCommand, request])),
    scopes: z._default(z.strictObject({ build: z._default(filled, 'build'), server: z._default(filled, 'server') }), {
      build: 'build',
      server: 'server',
    }),
  });

  return { host, listing, fileListing, commandListing, request };
});

/** An entry of the contract's `hosts`, as it is written. */
export const hostSchema = z.lazy(() => hostSchemas().host);

export type RawHost = z.output<typeof hostSchema>;

/** Keys of the maps in an entry, for the messages about unknown ones. */
export function hostKeys() {
  const { host, listing, fileListing, commandListing, request } = hostSchemas();
  const setter = [...Object.keys(timedCommand.shape), ...Object.keys(request.shape)];
  return {
    hosts: Object.keys(host.shape),
    list: [fileListing, commandListing, listing].flatMap(({ shape }) => Object.keys(shape)),
    set: setter,
    change: setter,
    scopes: [...hostScopes],
  } as const;
}

export function settleHost(name: string, raw: RawHost): Host {
  const { stages, 'stage-names': stageNames, holds, list, set, change, scopes: words } = raw;
  return {
    name,
    stageNames: table(stageNames),
    ...(stages && { stages }),
    holds,
    words,
    list: settleListing(list),
    ...(set && { set: settleSetter(set) }),
    ...(change && { change: settleSetter(change) }),
  };
}

function settleListing(raw: RawHost['list']): HostListing {
  if (typeof raw === 'string') return { kind: 'file', file: raw, paths: usualPaths };
  const { items, name, value, scope, stage, id, hidden } = raw;
  const paths: ListingPaths = {
    ...{ items, name, value, scope, stage, id, next: 'url' in raw ? raw.next : '' },
    ...(hidden && { hidden: { path: hidden.path, is: [hidden.is].flat() } }),
  };
  if ('file' in raw) return { kind: 'file', file: raw.file, paths };
  if ('command' in raw) return { kind: 'command', command: raw.command, seconds: raw.seconds, paths };
  const { method, url, headers, body, pages } = raw;
  const request = { method, url, headers, ...(body !== undefined && { body }) };
  return { kind: 'http', request, paths, ...(pages && { pages: settlePages(pages) }) };
}

function settlePages(
  raw: { number: string; first: number; last?: string | undefined } | { cursor: string; at: string },
): HostPages {
  if ('cursor' in raw) return raw;
  const { number, first, last } = raw;
  return { number, first, ...(last !== undefined && { last }) };
}

/** Paths of a listing that says nothing else. */
export const usualPaths: ListingPaths = {
  ...{ items: '', name: 'name', value: 'value', scope: 'scope' },
  ...{ stage: '', id: '', next: '' },
};

function settleSetter(raw: NonNullable<RawHost['set']>): HostSetter {
  return 'command' in raw ? { kind: 'command', ...raw } : { kind: 'http', request: raw };
}
