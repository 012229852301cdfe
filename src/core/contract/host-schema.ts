import * as z from 'zod/mini';
import { once } from '../text/once.js';
import { table } from '../text/table.js';
import { type Host, type HostListing, type HostSetter, hostScopes } from './hosts.js';
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
  const paths = {
    items: dotted(''),
    name: dotted('name'),
    value: dotted('value'),
    scope: dotted('scope'),
    stage: dotted(''),
    id: dotted(''),
    next: dotted(''),
  };

  const listing = z.strictObject({
    method: z._default(z.enum(['GET', 'POST']), 'GET'),
    url: filled,
    headers,
    body: z.optional(z.unknown()),
    ...paths,
  });
  const fileListing = z.strictObject({ file: filled });
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
    list: z.union([filled, fileListing, timedCommand, listing]),
    set: z.optional(z.union([timedCommand, request])),
    change: z.optional(z.union([timedCommand, request])),
    scopes: z._default(z.strictObject({ build: z._default(filled, 'build'), server: z._default(filled, 'server') }), {
      build: 'build',
      server: 'server',
    }),
  });

  return { host, listing, fileListing, request };
});

/** An entry of the contract's `hosts`, as it is written. */
export const hostSchema = z.lazy(() => hostSchemas().host);

export type RawHost = z.output<typeof hostSchema>;

/** Keys of the maps in an entry, for the messages about unknown ones. */
export function hostKeys() {
  const { host, listing, fileListing, request } = hostSchemas();
  const setter = [...Object.keys(timedCommand.shape), ...Object.keys(request.shape)];
  return {
    hosts: Object.keys(host.shape),
    list: [...Object.keys(fileListing.shape), ...Object.keys(timedCommand.shape), ...Object.keys(listing.shape)],
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
  if (typeof raw === 'string') return { kind: 'file', file: raw };
  if ('file' in raw) return { kind: 'file', file: raw.file };
  if ('command' in raw) return { kind: 'command', ...raw };
  const { method, url, headers, body, ...rest } = raw;
  return { kind: 'http', request: { method, url, headers, ...(body !== undefined && { body }) }, paths: rest };
}

function settleSetter(raw: NonNullable<RawHost['set']>): HostSetter {
  return 'command' in raw ? { kind: 'command', ...raw } : { kind: 'http', request: raw };
}
