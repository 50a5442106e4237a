import { UnstorableObject } from '@monsoon/core';
import { type CalendarChanges, OutsideError, type StoredEvent } from '@monsoon/systems';
import { HostedCalendars } from '../../packages/service/src/hosted/calendars.ts';
import { checkObject } from '../../packages/service/src/hosted/check-object.ts';
import { Disguise } from '../../packages/service/src/hosted/disguise.ts';
import { putObject, removeObject } from '../../packages/service/src/hosted/objects.ts';
import type { HostedService } from '../support/hosted.ts';
import { MemoryCalendar } from './memory-systems.ts';

/**
 * A calendar that Monsoon keeps, in PostgreSQL, with a copy in memory: the engine sees what the database gives back, people write
 * as programs at the door do, and the checker looks at the copy.
 */
export class HostedCopy extends MemoryCalendar {
  readonly #app: HostedService['app'];
  readonly #slug: string;
  readonly #hosted: HostedCalendars;
  /** what people did since the engine last looked; null: deleted */
  #waiting: [string, string | null][] = [];

  constructor(app: HostedService['app'], slug: string) {
    super({ tokens: true });
    this.#app = app;
    this.#slug = slug;
    this.#hosted = new HostedCalendars(app.pool, app.zones, new Disguise(app.vault));
  }

  override put(href: string, text: string): void {
    super.put(href, text);
    this.#waiting.push([href, text]);
  }
  override drop(href: string): void {
    super.drop(href);
    this.#waiting.push([href, null]);
  }

  #outer = (href: string) => `/dav/calendars/${this.#slug}/${encodeURIComponent(href.slice('/c/'.length))}`;
  #inner = (href: string) => `/c/${decodeURIComponent(href.split('/').at(-1)!)}`;
  #calendar = () => `/dav/calendars/${this.#slug}/`;
  #at = (href: string) => ({ slug: this.#slug, name: href.slice('/c/'.length) });

  /** What people wrote reaches the database; what it refuses never was. */
  async #flush(): Promise<void> {
    for (const [href, text] of this.#waiting.splice(0)) {
      if (text === null) {
        await removeObject(this.#app.pool, this.#at(href), null, 'door');
        continue;
      }
      const refused = await checkObject(text, this.#app.zones)
        .then((read) => putObject(this.#app.pool, this.#at(href), text, null, 'door', read))
        .then(
          ({ outcome }) => outcome !== 'made' && outcome !== 'changed',
          (error: unknown) => {
            if (error instanceof UnstorableObject) return true;
            throw error;
          },
        );
      if (!refused) continue;
      const stored = (await this.#hosted.read(this.#calendar(), [this.#outer(href)])).get(this.#outer(href));
      if (stored == null) super.drop(href);
      else super.put(href, stored.text);
    }
  }

  /** A call of the engine, with what goes wrong around it; people may write in between. */
  async #ask<T>(name: string, work: () => Promise<T>): Promise<T> {
    this.mischief(name, 'before');
    await this.#flush();
    const result = await work();
    this.mischief(name, 'after');
    return result;
  }

  #rethrow(error: unknown): never {
    if (error instanceof OutsideError && error.href !== null) throw new OutsideError(error.trouble, error.message, { href: this.#inner(error.href) });
    throw error;
  }

  override async *changes(_calendar: string, cursor: string | null): AsyncIterable<CalendarChanges> {
    const pages: CalendarChanges[] = [];
    await this.#ask('changes', async () => {
      for await (const page of this.#hosted.changes(this.#calendar(), cursor, new AbortController().signal))
        pages.push({ ...page, changed: page.changed.map((c) => ({ ...c, href: this.#inner(c.href) })), removed: page.removed.map(this.#inner) });
    });
    for (const page of pages) {
      yield page;
      if (page.cursor === undefined) this.mischief('more changes', 'before');
    }
  }
  #mapped = (found: StoredEvent[]): StoredEvent[] => found.map((e) => ({ ...e, href: this.#inner(e.href) }));
  override withUid = async (_calendar: string, uid: string): Promise<StoredEvent[]> => {
    await this.#flush();
    return this.#mapped(await this.#hosted.withUid(this.#calendar(), uid));
  };
  override between = async (_calendar: string, from: number, until: number): Promise<StoredEvent[]> => {
    await this.#flush();
    return this.#mapped(await this.#hosted.between(this.#calendar(), from, until));
  };
  override async read(_calendar: string, hrefs: string[]): Promise<Map<string, StoredEvent | null>> {
    if (hrefs.length === 0) return new Map();
    return this.#ask('read', async () => {
      const found = await this.#hosted.read(this.#calendar(), hrefs.map(this.#outer));
      return new Map([...found].map(([href, event]) => [this.#inner(href), event === null ? null : { ...event, href: this.#inner(href) }]));
    });
  }

  #write(call: 'create' | 'change' | 'remove', href: string, key: string, text: string | null): void {
    const before = this.events.get(href)?.text ?? null;
    if (text === null) super.drop(href);
    else super.put(href, text);
    this.writes.push({ side: 'event', call, id: href, key, before, after: text });
  }
  override create(_calendar: string, uid: string, text: string): Promise<{ href: string }> {
    return this.#ask('create', async () => {
      const { href } = await this.#hosted.create(this.#calendar(), uid, text).catch((error: unknown) => this.#rethrow(error));
      this.#write('create', this.#inner(href), uid, text);
      return { href: this.#inner(href) };
    });
  }
  override change(href: string, etag: string, text: string): Promise<void> {
    return this.#ask('change', async () => {
      await this.#hosted.change(this.#outer(href), etag, text);
      this.#write('change', href, '', text);
    });
  }
  override remove(href: string, etag: string): Promise<void> {
    return this.#ask('remove', async () => {
      const there = this.events.has(href);
      await this.#hosted.remove(this.#outer(href), etag);
      if (there) this.#write('remove', href, '', null);
    });
  }
}
