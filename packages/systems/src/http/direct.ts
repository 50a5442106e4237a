import { rootCertificates } from 'node:tls';
import { Agent, request as send } from 'undici';
import { OutsideError } from '../outside-error.ts';
import { type AddressRules, checkAddress, checkedLookup, ForbiddenAddress } from './addresses.ts';
import type { Answer, Call } from './call.ts';

export interface DirectOptions {
  /** most connections to the system at once */
  connections: number;
  /** milliseconds to connect, and until the headers and between two pieces of the body */
  connectTimeout: number;
  timeout: number;
  addresses: AddressRules;
  authority?: string | undefined;
}

const DEFAULT_LIMIT = 64 * 1024 * 1024;

/** The innermost call: one exchange over a small connection pool, with time-outs, a size limit and checked addresses. */
export function direct(options: DirectOptions): { call: Call; close: () => Promise<void> } {
  const agent = new Agent({
    connections: options.connections,
    pipelining: 1,
    connect: {
      timeout: options.connectTimeout,
      lookup: checkedLookup(options.addresses),
      ...(options.authority === undefined ? {} : { ca: [...rootCertificates, options.authority] }),
    },
    headersTimeout: options.timeout,
    bodyTimeout: options.timeout,
    keepAliveTimeout: 4_000,
  });
  const call: Call = async (request) => {
    const host = new URL(request.url).host;
    try {
      checkAddress(new URL(request.url), options.addresses);
      const answer = await send(request.url, {
        method: request.method as 'GET',
        headers: request.headers,
        body: request.body === undefined ? null : Buffer.from(request.body, 'utf8'),
        dispatcher: agent,
        signal: request.signal ?? null,
        // By itself, undici gives up a connection after each body of a method that it does not know, such as REPORT.
        reset: request.method === 'HEAD',
      });
      const headers = Object.fromEntries(
        Object.entries(answer.headers).map(([k, v]) => [k.toLowerCase(), Array.isArray(v) ? v.join(', ') : (v ?? '')]),
      );
      const pieces = atMost(answer.body, request.limit ?? DEFAULT_LIMIT, host);
      let body = Buffer.alloc(0);
      if (request.consume !== undefined && answer.statusCode === 200) await request.consume(pieces, headers);
      else body = await collect(pieces);
      return { status: answer.statusCode, headers, body, url: request.url } satisfies Answer;
    } catch (error) {
      throw request.signal?.aborted === true ? givenUp(error, request.signal, host) : explain(error, host, options.timeout);
    }
  };
  return { call, close: () => agent.close() };
}

async function* atMost(stream: AsyncIterable<Buffer>, limit: number, host: string): AsyncIterable<Buffer> {
  let size = 0;
  for await (const part of stream) {
    size += part.length;
    if (size > limit) throw new OutsideError('nonsense', `${host} sent more than ${limit} bytes for one answer`);
    yield part;
  }
}

async function collect(pieces: AsyncIterable<Buffer>): Promise<Buffer<ArrayBuffer>> {
  const parts: Buffer[] = [];
  for await (const part of pieces) parts.push(part);
  return Buffer.concat(parts);
}

/** Our own time-out is no failure of the system; an abort without a time-out is passed on. */
const givenUp = (error: unknown, signal: AbortSignal, host: string): unknown =>
  (signal.reason as Error | undefined)?.name === 'TimeoutError'
    ? new OutsideError('timed out', `${host} did not answer in the time that is waited here`, { ours: true, cause: error })
    : error;

function explain(error: unknown, host: string, timeout: number): unknown {
  if (error instanceof OutsideError || (error as Error).name === 'AbortError') return error;
  const code = String((error as { code?: unknown }).code ?? '');
  const root = (error as { cause?: unknown }).cause ?? error;
  if (root instanceof ForbiddenAddress || error instanceof ForbiddenAddress)
    return new OutsideError('forbidden address', (root instanceof ForbiddenAddress ? root : (error as Error)).message);
  if (/TIMEOUT|ETIMEDOUT/.test(code))
    return new OutsideError('timed out', `${host} did not answer within ${Math.round(timeout / 1000)} seconds`, { cause: error });
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return new OutsideError('unreachable', `the name of ${host} cannot be looked up`, { cause: error });
  if (/^(CERT_|DEPTH_ZERO_SELF_SIGNED|SELF_SIGNED|UNABLE_TO_(GET|VERIFY)|ERR_TLS_)/.test(code))
    return new OutsideError(
      'unreachable',
      `the certificate of ${host} is not trusted (${(error as Error).message}): if it is of an authority of your own, give that authority's certificate`,
      { cause: error },
    );
  if (/^ERR_SSL|^EPROTO/.test(code))
    return new OutsideError('unreachable', `${host} does not speak TLS as it should (${code}); is it http://?`, { cause: error });
  if (code === 'ECONNREFUSED') return new OutsideError('unreachable', `nothing answers at ${host} (connection refused)`, { cause: error });
  return new OutsideError('unreachable', `the connection to ${host} failed (${code || (error as Error).message})`, { cause: error });
}
