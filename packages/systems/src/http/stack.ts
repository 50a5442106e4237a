import type { AddressRules } from './addresses.ts';
import type { Call } from './call.ts';
import { direct } from './direct.ts';
import { limited } from './limited.ts';
import { redirected } from './redirected.ts';
import { retried } from './retried.ts';
import { type HealthListener, watched } from './watched.ts';

export interface CallOptions {
  addresses: AddressRules;
  /** most calls at once; small, because some servers have a backlog of five */
  connections?: number | undefined;
  /** milliseconds */
  timeout?: number | undefined;
  headers?: Record<string, string> | undefined;
  health?: HealthListener | undefined;
}

/** The wrappers around every call to an outside system, outermost last. */
export function callStack(options: CallOptions): { call: Call; close: () => Promise<void> } {
  const connections = options.connections ?? 4;
  const inner = direct({ connections, connectTimeout: 5_000, timeout: options.timeout ?? 30_000, addresses: options.addresses });
  const authorised: Call = (request) => inner.call({ ...request, headers: { 'user-agent': 'Monsoon', ...options.headers, ...request.headers } });
  const call = retried(redirected(limited(authorised, connections)));
  return { call: options.health === undefined ? call : watched(call, options.health), close: inner.close };
}
