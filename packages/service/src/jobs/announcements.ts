import { EventEmitter } from 'node:events';
import type pg from 'pg';
import type { Logger } from 'pino';
import { openSession } from '../storage/sessions.ts';

/** Announces to every process, and through them to every open console, which nouns have changed. */
export interface Announcer {
  announce(nouns: string[]): Promise<void>;
  /** @returns how to stop listening */
  listen(listener: (nouns: string[]) => void): () => void;
  close(): Promise<void>;
}

const CHANNEL = 'monsoon_changes';

export async function openAnnouncer(url: string, pool: pg.Pool, log: Logger): Promise<Announcer> {
  const emitter = new EventEmitter().setMaxListeners(0);
  let closed = false;
  let client: pg.Client | null = null;
  const connect = async (): Promise<void> => {
    const fresh = await openSession(
      url,
      (error) => {
        log.warn({ error }, 'the connection that listens for changes was lost');
        void fresh.end().catch(() => undefined);
        soon();
      },
      (session) => {
        session.on('notification', (message) => emitter.emit('changed', JSON.parse(message.payload ?? '[]')));
        return session.query(`listen ${CHANNEL}`);
      },
    );
    client = fresh;
    if (closed) await fresh.end();
  };
  const soon = () => {
    if (!closed) setTimeout(() => void connect().catch(soon), 1000);
  };
  await connect();
  return {
    async announce(nouns) {
      await pool.query('select pg_notify($1, $2)', [CHANNEL, JSON.stringify(nouns)]);
    },
    listen(listener) {
      emitter.on('changed', listener);
      return () => emitter.off('changed', listener);
    },
    async close() {
      closed = true;
      await client?.end();
    },
  };
}
