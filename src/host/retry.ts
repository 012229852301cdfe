import { setTimeout as wait } from 'node:timers/promises';
import type { Answer, HttpClient, HttpRequest } from './http.js';
import { HttpProblem } from './http.js';

/** The first wait, and the longest one, in milliseconds. */
const [FIRST_MS, MOST_MS] = [300, 60_000];

export interface Patience {
  attempts: number;
  /** Called before each wait, with its length in milliseconds and the reason, as a phrase. */
  onWait?(ms: number, because: string): void;
}

/** Attempts for each file of a site. */
export const usualPatience: Patience = { attempts: 3 };

/**
 * Sends a request that may be repeated. Waits longer after each failure, and as long as a rate limit asks for (`Retry-After`,
 * RFC 9110, 10.2.3).
 * @throws HttpProblem if the last attempt fails, or if one fails for good
 */
export async function sendPatiently(
  client: HttpClient,
  request: HttpRequest,
  { attempts, onWait }: Patience,
): Promise<Answer> {
  for (let attempt = 1; ; attempt++) {
    const result = await client.send(request).catch((error: unknown) => {
      if (error instanceof HttpProblem && error.isPassing) return error;
      throw error;
    });
    const isProblem = result instanceof HttpProblem;
    if (!isProblem && !isPassing(result.status)) return result;
    const asked = isProblem ? undefined : retryAfterMs(result.headers['retry-after'], Date.now());
    const ms = asked ?? FIRST_MS * 2 ** (attempt - 1) * (0.75 + Math.random() / 2);
    if (attempt >= attempts || ms > MOST_MS) {
      if (isProblem) throw result;
      return result;
    }
    onWait?.(ms, isProblem ? result.message : describeStatus(result.status));
    await wait(ms);
  }
}

/** Statuses that another attempt may change. */
function isPassing(status: number): boolean {
  return status === 408 || status === 425 || status === 429 || status >= 500;
}

/** @param now milliseconds since 1970 @returns undefined if the header is absent or invalid */
export function retryAfterMs(header: string | undefined, now: number): number | undefined {
  if (header === undefined) return undefined;
  if (/^\d+$/.test(header.trim())) return Number(header) * 1000;
  const date = Date.parse(header);
  return Number.isNaN(date) ? undefined : Math.max(0, date - now);
}

const statusTexts: Readonly<Record<number, string>> = {
  400: 'did not accept the request',
  401: 'did not accept the credential',
  403: 'does not allow this',
  404: 'does not know this URL',
  405: 'does not know this method',
  409: 'reports a conflict',
  413: 'did not accept the request, because it is too large',
  422: 'did not accept the request',
  429: 'limits the rate of requests',
};

/** A status as a phrase after the host's name; the answer's own text may contain anything. */
export function describeStatus(status: number): string {
  return `${statusTexts[status] ?? (status >= 500 ? 'failed' : 'gave an unexpected answer')} (status ${status})`;
}
