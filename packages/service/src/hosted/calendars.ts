import { randomUUID } from 'node:crypto';
import { certain, UnstorableObject, type ZoneTable } from '@monsoon/core';
import { type CalendarChanges, type CalendarInfo, type Calendars, OutsideError, type ProbeStep, type StoredEvent } from '@monsoon/systems';
import type pg from 'pg';
import { oneRow } from '../storage/one-row.ts';
import { calendarHref, objectHref, placeAt } from './addresses.ts';
import { checkObject } from './check-object.ts';
import {
  allCalendars,
  calendarBySlug,
  changesSince,
  eachObject,
  type HostedCalendar,
  type HostedObject,
  objectsNamed,
  objectsWithUid,
  putObject,
  removeObject,
  type Written,
} from './objects.ts';

interface Cursor {
  calendar: string;
  epoch: string;
  revision: number;
}

/** The calendars that Monsoon keeps itself, as lanes work with them. */
export class HostedCalendars implements Calendars {
  readonly #pool: pg.Pool;
  readonly #zones: ZoneTable;

  constructor(pool: pg.Pool, zones: ZoneTable) {
    this.#pool = pool;
    this.#zones = zones;
  }

  async *probe(): AsyncIterable<ProbeStep> {
    const { rows } = await this.#pool.query<{ calendars: number; events: number }>(
      'select (select count(*) from hosted_calendars) as calendars, (select count(*) from hosted_objects where text is not null) as events',
    );
    yield { name: 'reachable', outcome: 'ok', detail: 'these calendars are in the database of Monsoon itself' };
    yield { name: 'calendars', outcome: 'ok', detail: `${oneRow(rows).calendars} calendars with ${oneRow(rows).events} events and tasks` };
    yield { name: 'changes', outcome: 'ok', detail: 'changes are reported at once' };
    yield { name: 'writing', outcome: 'ok', detail: 'lanes may write; what people may, is set for each calendar' };
  }

  async calendars(): Promise<CalendarInfo[]> {
    return (await allCalendars(this.#pool)).filter((c) => c.holds === 'events').map(infoOf);
  }

  async make(name: string, colour: string | null, _signal: AbortSignal, holds: 'events' | 'tasks' = 'events'): Promise<CalendarInfo> {
    return infoOf(await makeCalendar(this.#pool, { slug: randomUUID(), name, colour, holds }));
  }

  async rename(calendar: string, to: { name?: string | undefined; colour?: string | undefined }): Promise<CalendarInfo> {
    const { id, slug } = await this.#calendarAt(calendar);
    await this.#pool.query('update hosted_calendars set name = coalesce($2, name), colour = coalesce($3, colour) where id = $1', [
      id,
      to.name ?? null,
      to.colour ?? null,
    ]);
    return infoOf(await this.#calendarAt(calendarHref(slug)));
  }

  async *changes(calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges> {
    const { id, slug, epoch, revision, forgotten } = await this.#calendarAt(calendar);
    const known = cursor === null ? null : (JSON.parse(cursor) as Partial<Cursor>);
    const seen = known?.calendar === id && known.epoch === epoch ? (known.revision ?? null) : null;
    const since = seen !== null && seen >= forgotten && seen <= revision ? seen : null;
    const replaced = known?.calendar !== undefined && known.calendar !== id;
    let last = Math.max(since ?? 0, since === null ? revision : 0);
    for await (const page of changesSince(this.#pool, id, since)) {
      signal.throwIfAborted();
      last = Math.max(last, certain(page.at(-1), 'the page has rows').revision);
      yield {
        changed: page.filter((o) => !o.gone).map((o) => ({ href: objectHref(slug, o.name), etag: o.etag })),
        removed: page.filter((o) => o.gone).map((o) => objectHref(slug, o.name)),
        complete: since === null,
      };
    }
    const next: Cursor = { calendar: id, epoch, revision: last };
    yield { changed: [], removed: [], cursor: JSON.stringify(next), complete: since === null, ...(replaced ? { replaced } : {}) };
  }

  async isSame(calendar: string, cursor: string): Promise<boolean> {
    return (JSON.parse(cursor) as Partial<Cursor>).calendar === (await this.#calendarAt(calendar)).id;
  }

  async withUid(calendar: string, uid: string): Promise<StoredEvent[]> {
    const { id, slug } = await this.#calendarAt(calendar);
    return (await objectsWithUid(this.#pool, id, uid)).map((o) => storedEvent(slug, o));
  }

  async between(calendar: string, from: number, until: number): Promise<StoredEvent[]> {
    const { id, slug } = await this.#calendarAt(calendar);
    const found: StoredEvent[] = [];
    for await (const page of eachObject(this.#pool, id, { from, until })) found.push(...page.map((o) => storedEvent(slug, o)));
    return found;
  }

  async read(calendar: string, hrefs: string[]): Promise<Map<string, StoredEvent | null>> {
    const { id, slug } = await this.#calendarAt(calendar);
    const names = new Map(hrefs.map((href) => [href, placeAt(href)?.name ?? '']));
    const objects = new Map((await objectsNamed(this.#pool, id, [...names.values()])).map((o) => [o.name, o]));
    return new Map(
      [...names].map(([href, name]) => {
        const object = objects.get(name);
        return [href, object === undefined ? null : { ...storedEvent(slug, object), href }];
      }),
    );
  }

  async create(calendar: string, uid: string, text: string): Promise<{ href: string }> {
    const { slug } = await this.#calendarAt(calendar);
    const name = nameOf(uid);
    const href = objectHref(slug, name);
    const written = await this.#put({ slug, name }, text, 'absent');
    if (written.outcome === 'changed meanwhile') throw new OutsideError('exists', `there is an event at ${href} already`, { href });
    if (written.outcome === 'uid elsewhere')
      throw new OutsideError('exists', 'there is an event with this UID already', { href: objectHref(slug, written.name) });
    if (written.outcome !== 'made') throw unexpected(written, href);
    return { href };
  }

  async change(href: string, etag: string, text: string): Promise<void> {
    const written = await this.#put(this.#objectAt(href), text, { etag });
    if (written.outcome !== 'changed') throw unexpected(written, href);
  }

  async remove(href: string, etag: string): Promise<void> {
    const written = await removeObject(this.#pool, this.#objectAt(href), { etag }, 'lane');
    if (written.outcome !== 'removed' && written.outcome !== 'gone' && written.outcome !== 'no calendar') throw unexpected(written, href);
  }

  hrefFor(calendar: string, uid: string): string {
    return objectHref(placeAt(calendar)?.slug ?? '', nameOf(uid));
  }

  async #put(at: { slug: string; name: string }, text: string, condition: 'absent' | { etag: string }): Promise<Written> {
    try {
      return await putObject(this.#pool, at, text, condition, 'lane', await checkObject(text, this.#zones));
    } catch (error) {
      if (error instanceof UnstorableObject) throw new OutsideError('refused', `the event cannot be stored: ${error.message}`);
      throw error;
    }
  }

  #objectAt(href: string): { slug: string; name: string } {
    const place = placeAt(href);
    if (place === null || place.name === null) throw new OutsideError('gone', `there is no event at ${href}`);
    return { slug: place.slug, name: place.name };
  }

  async #calendarAt(href: string): Promise<HostedCalendar> {
    const slug = placeAt(href)?.slug;
    const found = slug === undefined ? null : await calendarBySlug(this.#pool, slug);
    if (found === null) throw new OutsideError('gone', `Monsoon keeps no calendar at ${href}`);
    return found;
  }
}

/** Makes a calendar. @param by whose it is: a person's id */
export async function makeCalendar(
  pool: pg.Pool,
  { slug, name, colour, holds }: { slug: string; name: string; colour: string | null; holds: 'events' | 'tasks' },
  by: string | null = null,
): Promise<HostedCalendar> {
  await pool.query('insert into hosted_calendars (slug, name, colour, holds, owner) values ($1, $2, $3, $4, $5) on conflict (slug) do nothing', [
    slug,
    name,
    colour,
    holds,
    by,
  ]);
  return certain(await calendarBySlug(pool, slug), 'it was made just now');
}

const nameOf = (uid: string): string => `${uid.replaceAll('/', '_')}.ics`;
const infoOf = (c: HostedCalendar): CalendarInfo => ({ href: calendarHref(c.slug), name: c.name, colour: c.colour, writable: true });
const storedEvent = (slug: string, { name, etag, text }: HostedObject): StoredEvent => ({ href: objectHref(slug, name), etag, text });

function unexpected(written: Written, href: string): OutsideError {
  if (written.outcome === 'changed meanwhile') return new OutsideError('changed meanwhile', `the event at ${href} was changed in the meantime`);
  if (written.outcome === 'gone' || written.outcome === 'no calendar') return new OutsideError('gone', `there is no event at ${href} any more`);
  return new OutsideError('refused', `the event at ${href} cannot be written: ${written.outcome}`);
}
