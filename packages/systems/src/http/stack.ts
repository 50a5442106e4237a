import { adaptiveConcurrency } from './adaptive-concurrency.ts';
import type { AddressRules } from './addresses.ts';
import { breaker } from './breaker.ts';
import type { Call } from './call.ts';
import { direct } from './direct.ts';
import { honourRetryAfter } from './honour-retry-after.ts';
import { unquoted } from './masked.ts';
import { type Meter, metered } from './metered.ts';
import { type Recorder, recorded } from './recorded.ts';
import { redirected } from './redirected.ts';
import { retried } from './retried.ts';
import { type Exchange, tapped } from './tapped.ts';
import { type HealthListener, watched } from './watched.ts';

export interface CallOptions {
  addresses: AddressRules;
  /** most calls at once; small, because some servers have a backlog of five */
  connections?: number | undefined;
  /** how many processes share the connections */
  processes?: (() => number) | undefined;
  /** milliseconds */
  timeout?: number | undefined;
  /** a certificate authority of one's own, in PEM, beside the public ones */
  authority?: string | undefined;
  headers?: Record<string, string> | undefined;
  /** puts credentials on a call */
  authorise?: ((call: Call) => Call) | undefined;
  /** no credentials go along: a redirect may lead to another origin */
  anonymous?: boolean | undefined;
  /** what may not be shown by the recorder */
  secrets?: readonly string[] | undefined;
  health?: HealthListener | undefined;
  meter?: Meter | undefined;
  record?: Recorder | undefined;
  /** shows every exchange in full to the person who tries the system */
  tap?: ((exchange: Exchange) => void) | undefined;
}

/** The wrappers around every call to an outside system, innermost first. */
export function callStack(options: CallOptions): { call: Call; close: () => Promise<void> } {
  const connections = options.connections ?? 4;
  const processes = options.processes ?? (() => 1);
  const inner = direct({
    connections,
    connectTimeout: 5_000,
    timeout: options.timeout ?? 30_000,
    addresses: options.addresses,
    authority: options.authority,
  });
  let call: Call = (request) => inner.call({ ...request, headers: { 'user-agent': 'Monsoon', ...options.headers, ...request.headers } });
  if (options.record !== undefined) call = recorded(call, options.record, options.secrets ?? []);
  call = unquoted(call, options.secrets ?? []);
  if (options.tap !== undefined) call = tapped(call, options.tap, options.secrets ?? []);
  if (options.meter !== undefined) call = metered(call, options.meter);
  call = adaptiveConcurrency(call, () => Math.floor(connections / processes()));
  if (options.authorise !== undefined) call = options.authorise(call);
  call = retried(redirected(honourRetryAfter(breaker(call)), options.anonymous === true));
  return { call: options.health === undefined ? call : watched(call, options.health), close: inner.close };
}
