import { isIP, Socket } from 'node:net';
import { rootCertificates } from 'node:tls';
import pg from 'pg';
import { checkedLookup, ForbiddenAddress, mayCall } from '../http/addresses.ts';
import type { OpenOptions } from '../kind.ts';
import { type Observed, observed } from '../observed.ts';
import { OutsideError, type Trouble } from '../outside-error.ts';
import { OURSELVES } from './names.ts';
import type { Place } from './settings.ts';

export type Cell = string | null;

/** Connections to one database, with checked addresses, time-outs, and errors that people can act on. */
export class Connection {
  readonly host: string;
  readonly database: string;
  readonly #pool: pg.Pool;
  readonly #config: pg.ClientConfig;
  readonly #observed: Observed;

  constructor(place: Place, password: string, options: OpenOptions) {
    const url = new URL(place.address);
    this.host = url.host;
    this.database = decodeURIComponent(url.pathname.slice(1));
    const host = url.hostname.replace(/^\[|\]$/g, '');
    const timeout = (place.timeout ?? 30) * 1000;
    this.#config = {
      host,
      port: Number(url.port) || 5432,
      database: this.database,
      user: place.user,
      password,
      ssl: sslOf(place, host),
      connectionTimeoutMillis: Math.min(timeout, 10_000),
      statement_timeout: timeout,
      query_timeout: timeout + 1000,
      application_name: OURSELVES,
      // Every value as text, in ISO forms and UTC: what it means is the catalogue's to say.
      options: '-c datestyle=ISO -c timezone=UTC -c intervalstyle=iso_8601',
      types: { getTypeParser: () => (value: string) => value } as never,
      stream: () => {
        const socket = new Socket();
        const connect = socket.connect.bind(socket) as (to: object) => Socket;
        socket.connect = ((port: number, to: string) => {
          if (isIP(to) !== 0 && !mayCall(to, to, options.addresses))
            process.nextTick(() =>
              socket.destroy(
                new ForbiddenAddress(
                  `${to} is a private or local address, which this installation does not call; its operator can allow it by name in MONSOON_ALLOW_ADDRESSES`,
                ),
              ),
            );
          else connect({ port, host: to, lookup: checkedLookup(options.addresses) });
          return socket;
        }) as never;
        return socket;
      },
    };
    const share = Math.max(1, Math.floor((place.connections ?? 4) / (options.processes?.() ?? 1)));
    this.#pool = new pg.Pool({ ...this.#config, max: share, idleTimeoutMillis: 30_000 });
    // A lost connection is no news: the query at hand fails, and the next makes another. Unheard, it would end the process.
    this.#pool.on('error', () => undefined);
    this.#pool.on('connect', (client) => client.on('error', () => undefined));
    this.#observed = observed('SQL', `${this.host}/${this.database}`, options, [password]);
  }

  /** @param doing in words, for messages: `listing hires` @throws OutsideError */
  async query(doing: string, text: string, values: unknown[] = [], signal?: AbortSignal): Promise<Cell[][]> {
    signal?.throwIfAborted();
    return this.#observed(
      doing,
      async () => {
        try {
          return (await this.#pool.query<Cell[]>({ text, values, rowMode: 'array' })).rows;
        } catch (error) {
          throw explain(error, this.host, doing);
        }
      },
      signal,
    );
  }

  /** Several statements as one transaction. @throws OutsideError */
  async transaction<T>(doing: string, work: (query: (text: string, values?: unknown[]) => Promise<Cell[][]>) => Promise<T>): Promise<T> {
    return this.#observed(doing, async () => {
      let client: pg.PoolClient | null = null;
      let lost = false;
      try {
        client = await this.#pool.connect();
        const own = client;
        // Without values the simple protocol, which takes several statements at once.
        const send = async (text: string, values?: unknown[]) =>
          (await own.query<Cell[]>({ text, rowMode: 'array', ...(values === undefined ? {} : { values }) })).rows;
        await send('begin');
        const result = await work(send);
        await send('commit');
        return result;
      } catch (error) {
        await client?.query('rollback').catch(() => {
          lost = true;
        });
        throw explain(error, this.host, doing);
      } finally {
        client?.release(lost);
      }
    });
  }

  /** Hears notifications on a connection of its own. @returns how to stop */
  async listen(channel: string, heard: (payload: string) => void, lost: (error: Error) => void): Promise<() => Promise<void>> {
    const client = new pg.Client({ ...this.#config, keepAlive: true, statement_timeout: 0 });
    let closed = false;
    const fail = (error: Error) => {
      if (closed) return;
      closed = true;
      lost(error);
      void client.end().catch(() => undefined);
    };
    client.on('error', fail);
    client.on('end', () => fail(new Error('the connection ended')));
    client.on('notification', (message) => heard(message.payload ?? ''));
    try {
      await client.connect();
      await client.query(`listen ${pg.escapeIdentifier(channel)}`);
    } catch (error) {
      closed = true;
      await client.end().catch(() => undefined);
      throw explain(error, this.host, 'listening');
    }
    return async () => {
      closed = true;
      await client.end().catch(() => undefined);
    };
  }

  close(): Promise<void> {
    return this.#pool.end();
  }
}

function sslOf(place: Place, host: string): pg.ClientConfig['ssl'] {
  if (place.tls === 'off') return false;
  const ca = place.authority === undefined ? {} : { ca: [...rootCertificates, place.authority] };
  return { rejectUnauthorized: place.tls !== 'require', ...(isIP(host) === 0 ? { servername: host } : {}), ...ca };
}

/** Classes and codes of SQLSTATE (PostgreSQL documentation, appendix A). */
const sqlTroubles: [RegExp, Trouble][] = [
  [/^28/, 'not authorised'],
  [/^3D000/, 'nonsense'],
  [/^42501/, 'refused'],
  [/^42(P01|703)/, 'nonsense'],
  [/^(22|23|44|P0)/, 'refused'],
  [/^57014/, 'timed out'],
  [/^53/, 'throttled'],
  [/^(08|57P)/, 'unreachable'],
];

/** The message holds no values: PostgreSQL's details may quote a row. */
function explain(error: unknown, host: string, doing: string): unknown {
  if (error instanceof OutsideError) return error;
  const { code = '', message, constraint, table } = error as { code?: string; message: string; constraint?: string; table?: string };
  if (error instanceof ForbiddenAddress) return new OutsideError('forbidden address', message);
  if (/^[0-9A-Z]{5}$/.test(code) && 'severity' in (error as object)) {
    const trouble = sqlTroubles.find(([form]) => form.test(code))?.[1] ?? 'broken';
    const more = constraint === undefined ? '' : ` (the rule "${constraint}" of ${table ?? 'the table'})`;
    const out = code === '42501' ? '; have the right granted to the user that Monsoon signs in as' : '';
    return new OutsideError(trouble, `${host} says "${message}"${more} while ${doing}${out}`, { cause: error });
  }
  if (/password|SASL|authentication/i.test(message)) return new OutsideError('not authorised', `${host} does not accept the credentials: ${message}`);
  if (/timeout/i.test(message) || code === 'ETIMEDOUT') return new OutsideError('timed out', `${host} did not answer in time while ${doing}`);
  if (code === 'ECONNREFUSED') return new OutsideError('unreachable', `nothing answers at ${host} (connection refused)`, { cause: error });
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return new OutsideError('unreachable', `the name of ${host} cannot be looked up`, { cause: error });
  if (/does not support SSL/i.test(message))
    return new OutsideError('unreachable', `${host} does not offer TLS; have it switched on there, or set tls to off where the way is safe`);
  if (/certificate|self.signed/i.test(message))
    return new OutsideError('unreachable', `the certificate of ${host} is not trusted (${message}): give its authority's certificate`);
  if (code === '' && !/Connection|socket|end/i.test(message)) return error;
  return new OutsideError('unreachable', `the connection to ${host} failed (${code || message}) while ${doing}`, { cause: error });
}
