import { randomUUID } from 'node:crypto';
import { copyFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { dirname, join } from 'node:path';
import pg from 'pg';

/** The servers that scripts/servers.sh started. */
const need = (name: string): string => {
  const value = process.env[name];
  if (value === undefined) throw new Error(`${name} is not set: run the tests with npm test`);
  return value;
};

export const account = { user: 'alderwren', password: 'well-tempered' };
export const radicale = () => need('MONSOON_TEST_RADICALE');
export const cyrus = () => need('MONSOON_TEST_CYRUS');

/** A database of its own in the running PostgreSQL. */
export async function freshDatabase(): Promise<{ url: string; drop: () => Promise<void> }> {
  const server = need('MONSOON_TEST_PG');
  const name = `t_${randomUUID().replaceAll('-', '')}`;
  const admin = async (statement: string) => {
    const client = new pg.Client({ connectionString: server });
    await client.connect();
    await client.query(statement);
    await client.end();
  };
  await admin(`create database ${name}`);
  return { url: server.replace(/\/app$/, `/${name}`), drop: () => admin(`drop database ${name} with (force)`) };
}

/** A port that nobody uses at the moment. */
export const freePort = (): Promise<number> =>
  new Promise((fine) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => fine(port));
    });
  });

const basic = (user: string, password: string) => `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`;
/** Who comes to which server, where it is not the account of all test servers. */
const others = new Map<string, string>();
export const comeAs = (base: string, user: string, password: string): void => void others.set(new URL(base).origin, basic(user, password));

/** Talks to a calendar server as somebody else's program would. */
export async function dav(
  base: string,
  method: string,
  path: string,
  headers: Record<string, string> = {},
  body?: string,
): Promise<{ status: number; text: string; etag: string | null }> {
  const answer = await fetch(new URL(path, base), {
    method,
    headers: { authorization: others.get(new URL(base).origin) ?? basic(account.user, account.password), ...headers },
    ...(body === undefined ? {} : { body }),
  });
  return { status: answer.status, text: await answer.text(), etag: answer.headers.get('etag') };
}

/** Copies an event in radicale's own storage, where nothing refuses a second one with its UID. */
export function copyFile(calendar: string, from: string, to: string): void {
  const folder = join(dirname(need('MONSOON_TEST_PG_FOLDER')), 'radicale/collections/collection-root', decodeURIComponent(calendar));
  copyFileSync(join(folder, from), join(folder, to));
}

/** The names of the events in a calendar, by an independent look. */
export async function listEvents(base: string, calendar: string): Promise<string[]> {
  const { text } = await dav(
    base,
    'PROPFIND',
    calendar,
    { depth: '1', 'content-type': 'application/xml' },
    '<propfind xmlns="DAV:"><prop><getetag/></prop></propfind>',
  );
  return [...text.matchAll(/<(?:\w+:)?href>([^<]*\.ics)</g)].map((m) => m[1]!);
}

/** Waits until something holds; the time is a limit, not a measure. */
export async function eventually<T>(what: string, look: () => Promise<T | null | undefined | false>, limit = 30_000): Promise<T> {
  const until = Date.now() + limit;
  let last: unknown;
  for (;;) {
    try {
      const found = await look();
      if (found) return found;
    } catch (error) {
      last = error;
    }
    if (Date.now() > until) throw new Error(`not within ${limit} ms: ${what}${last === undefined ? '' : ` (${(last as Error).message})`}`);
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
}
