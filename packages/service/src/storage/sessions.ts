import { randomInt } from 'node:crypto';
import pg from 'pg';

/** Names this process among those of the installation, for as long as it lives. */
export const processId: number = randomInt(1, 2 ** 31 - 1);

/** How a process calls its database sessions, so that another can end those of one that went silent. */
export const sessionName = (process: number | ''): string => `monsoon ${process}`;

/** A machine that vanishes does not close its connections: the server finds out within seconds, and drops what they held. */
const NOTICE_VANISHED = 'set tcp_keepalives_idle = 5; set tcp_keepalives_interval = 2; set tcp_keepalives_count = 3; set tcp_user_timeout = 10000';

/**
 * A session of its own, outside the pool: for what is held as long as a connection lives. Either it rejects, or it is open; what ends it
 * then is heard once, never before the caller has it.
 * @param begin what the session is for: takes a lock, or begins to listen
 */
export async function openSession(url: string, onLost: (error: Error) => void, begin: (client: pg.Client) => Promise<unknown>): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: url, application_name: sessionName(processId) });
  let isOpen = false;
  let failure: Error | undefined;
  // The server may end a session between two answers: no query fails then.
  client.on('error', (error) => {
    if (isOpen && failure === undefined) onLost(error);
    failure ??= error;
  });
  try {
    await client.connect();
    await client.query(NOTICE_VANISHED);
    await begin(client);
  } catch (error) {
    failure ??= error as Error;
  }
  if (failure !== undefined) {
    void client.end().catch(() => undefined);
    throw failure;
  }
  isOpen = true;
  return client;
}

/** The sessions that everything else shares. */
export function openPool(url: string, onIdleError: (error: Error) => void): pg.Pool {
  // `onConnect` belongs to pg-pool, and is missing in its types: it ends before anybody uses the session.
  const onConnect = (client: pg.ClientBase) => client.query(NOTICE_VANISHED);
  const settings = { connectionString: url, max: 12, application_name: sessionName(processId), onConnect };
  const pool = new pg.Pool(settings);
  // Without listeners a lost connection would end the process, an idle one and one that is in use: there the query fails.
  pool.on('connect', (client) => client.on('error', () => undefined));
  pool.on('error', onIdleError);
  return pool;
}
