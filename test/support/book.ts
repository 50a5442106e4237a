import { randomUUID } from 'node:crypto';
import type { RunAnswer } from '@monsoon/contract';
import type { MonsoonClient } from '@monsoon/contract/client';
import pg from 'pg';
import type { Office } from './office.ts';
import { dav, eventually, freshDatabase, listEvents } from './servers.ts';

type LaneFile = Record<string, unknown>;

/** A database of the office, and lanes between its tables and calendars of their own. */
export interface Book {
  sql(text: string, values?: unknown[]): Promise<Record<string, unknown>[]>;
  /** changes the settings of its tables */
  use(collections: Record<string, object>): Promise<void>;
  /** a lane of a table that goes to a calendar of its own; its first run is done */
  lane(slug: string, table: string, more: LaneFile): Promise<BookLane>;
  close(): Promise<void>;
}

export interface BookLane {
  calendar: string;
  run(options?: Parameters<MonsoonClient['run']>[1]): Promise<RunAnswer>;
  put(name: string, lines: string): Promise<string>;
  texts(): Promise<string[]>;
  edit(href: string, change: (text: string) => string): Promise<void>;
  /** the only event there is, or the one that holds these words */
  event(words?: string): Promise<{ href: string; text: string }>;
}

export const eventText = (uid: string, lines: string): string =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Test//EN\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\n${lines}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;

export async function openBook(office: Office, slug = 'book'): Promise<Book> {
  const database = await freshDatabase();
  const client = new pg.Client({ connectionString: database.url });
  await client.connect();
  const url = new URL(database.url);
  const settings = (collections: object) => ({ address: `postgresql://${url.host}${url.pathname}`, user: 'app', tls: 'off', collections });
  await office.client.connect({ slug, name: 'Hire book', kind: 'postgresql', settings: settings({}), secrets: { password: url.password } });
  const settled = (id: string) =>
    eventually(
      'the run ends',
      async () => {
        const run = await office.client.oneRun(id);
        return !['waiting', 'running'].includes(run.state) && run;
      },
      30_000,
    );
  return {
    sql: async (text, values) => (await client.query(text, values)).rows as Record<string, unknown>[],
    use: async (collections) => void (await office.client.changeSystem(slug, { settings: settings(collections) })),
    async lane(name, table, more) {
      const calendar = (await office.client.makeCalendar('diary', `${name} ${randomUUID().slice(0, 6)}`, null)).href;
      const file = { name, records: { system: slug, collection: table }, calendar: { system: 'diary', calendar }, zone: 'Europe/London', ...more };
      await office.client.makeLane(name, file, false);
      const run = async (options: Parameters<MonsoonClient['run']>[1] = {}) => settled((await office.client.run(name, options)).id);
      const texts = async () =>
        Promise.all((await listEvents(office.diary, calendar)).map(async (h) => (await dav(office.diary, 'GET', h)).text.replace(/\r?\n[ \t]/g, '')));
      return {
        calendar,
        run,
        texts,
        async put(uid, lines) {
          const href = `${calendar}${uid}.ics`;
          const text = lines.startsWith('BEGIN:VCALENDAR') ? lines : eventText(uid, lines);
          const { status } = await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar' }, text);
          if (status >= 300) throw new Error(`PUT ${href}: ${status}`);
          return href;
        },
        async edit(href, change) {
          const { text, etag } = await dav(office.diary, 'GET', href);
          const { status } = await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar', 'if-match': etag! }, change(text));
          if (status >= 300) throw new Error(`PUT ${href}: ${status}`);
        },
        async event(words = '') {
          for (const href of await listEvents(office.diary, calendar)) {
            const { text } = await dav(office.diary, 'GET', href);
            if (text.includes(words)) return { href, text: text.replace(/\r?\n[ \t]/g, '') };
          }
          throw new Error(`no event with ${words}`);
        },
      };
    },
    async close() {
      await client.end();
      await database.drop();
    },
  };
}
