import { randomUUID } from 'node:crypto';
import { certain, UnstorableObject, type ZoneTable } from '@monsoon/core';
import { type CalendarChanges, type CalendarInfo, type Calendars, OutsideError, type ProbeStep, type StoredEvent, Turns } from '@monsoon/systems';
import type pg from 'pg';
import { type Person, personNow } from '../access/for-person.ts';
import { oneRow } from '../storage/one-row.ts';
import { calendarHref, objectHref, placeAt } from './addresses.ts';
import { checkObject } from './check-object.ts';
import type { Disguise } from './disguise.ts';
import {
  allCalendars,
  calendarBySlug,
  changesSince,
  eachObject,
  type HostedCalendar,
  type HostedObject,
  type ObjectChange,
  objectsNamed,
  objectsWithUid,
  putObject,
  removeObject,
  type Written,
} from './objects.ts';
import { type CalendarFor, calendarFor, calendarsFor } from './rights.ts';
import { seenAs, shownText } from './shown.ts';

interface Cursor {
  calendar: string;
  epoch: string;
  revision: number;
}

/** Whose eyes a calendar is seen with; null: the service's own, which see everything. */
type Seer = Person | null;

/**
 * The calendars that Monsoon keeps itself, as lanes and pages work with them. All that is seen of them is decided here: a person sees
 * what the door shows them, and finds it by the names that it has there; a lane sees and writes what its owner may.
 */
export class HostedCalendars implements Calendars {
  readonly #pool: pg.Pool;
  readonly #zones: ZoneTable;
  readonly #disguise: Disguise;
  readonly #seer: () => Seer;

  /** @param seer who looks; unless said, the person whose request it is */
  constructor(pool: pg.Pool, zones: ZoneTable, disguise: Disguise, seer: () => Seer = personNow) {
    this.#pool = pool;
    this.#zones = zones;
    this.#disguise = disguise;
    this.#seer = seer;
  }

  /** The same calendars, always as this person sees them. */
  seenBy(seer: Seer): HostedCalendars {
    return new HostedCalendars(this.#pool, this.#zones, this.#disguise, () => seer);
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
    const seer = this.#seer();
    const all = seer === null ? (await allCalendars(this.#pool)).map(everything) : await calendarsFor(this.#pool, seer);
    return all
      .filter(({ calendar }) => calendar.holds === 'events')
      .map(({ calendar, may }) => ({ ...infoOf(calendar), writable: may === 'read and write' }));
  }

  async make(name: string, colour: string | null, _signal: AbortSignal, holds: 'events' | 'tasks' = 'events'): Promise<CalendarInfo> {
    return infoOf(await makeCalendar(this.#pool, { slug: randomUUID(), name, colour, holds }, this.#seer()?.person ?? null));
  }

  async rename(calendar: string, to: { name?: string | undefined; colour?: string | undefined }): Promise<CalendarInfo> {
    const seen = await this.#calendarAt(calendar);
    if (this.#seer() !== null && !seen.mayManage) throw notYours(seen.calendar.name);
    const { id, slug } = seen.calendar;
    await this.#pool.query('update hosted_calendars set name = coalesce($2, name), colour = coalesce($3, colour) where id = $1', [
      id,
      to.name ?? null,
      to.colour ?? null,
    ]);
    return infoOf((await this.#calendarAt(calendarHref(slug))).calendar);
  }

  async *changes(calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges> {
    const seen = await this.#calendarAt(calendar);
    const { id, epoch, revision, forgotten } = seen.calendar;
    const known = cursor === null ? null : (JSON.parse(cursor) as Partial<Cursor>);
    const reached = known?.calendar === id && known.epoch === epoch ? (known.revision ?? null) : null;
    const since = reached !== null && reached >= forgotten && reached <= revision ? reached : null;
    const replaced = known?.calendar !== undefined && known.calendar !== id;
    let last = Math.max(since ?? 0, since === null ? revision : 0);
    for await (const page of changesSince(this.#pool, id, since)) {
      signal.throwIfAborted();
      last = Math.max(last, certain(page.at(-1), 'the page has rows').revision);
      yield {
        changed: page.filter((o) => !o.gone && isSeen(o, seen)).map((o) => ({ href: this.#hrefOf(seen, o.name), etag: this.#etagOf(seen, o) })),
        removed: page.filter((o) => o.gone || !isSeen(o, seen)).map((o) => this.#hrefOf(seen, o.name)),
        complete: since === null,
      };
    }
    const next: Cursor = { calendar: id, epoch, revision: last };
    yield { changed: [], removed: [], cursor: JSON.stringify(next), complete: since === null, ...(replaced ? { replaced } : {}) };
  }

  async isSame(calendar: string, cursor: string): Promise<boolean> {
    return (JSON.parse(cursor) as Partial<Cursor>).calendar === (await this.#calendarAt(calendar)).calendar.id;
  }

  async withUid(calendar: string, uid: string): Promise<StoredEvent[]> {
    const seen = await this.#calendarAt(calendar);
    if (seen.sight === 'all') return this.#shown(seen, await objectsWithUid(this.#pool, seen.calendar.id, uid));
    // The UIDs that such a reader knows are hidden ones.
    const found: StoredEvent[] = [];
    for await (const page of eachObject(this.#pool, seen.calendar.id))
      found.push(...(await this.#shown(seen, page)).filter(({ text }) => text.replace(/\r?\n[ \t]/g, '').includes(`UID:${uid}`)));
    return found;
  }

  async between(calendar: string, from: number, until: number): Promise<StoredEvent[]> {
    const seen = await this.#calendarAt(calendar);
    const found: StoredEvent[] = [];
    for await (const page of eachObject(this.#pool, seen.calendar.id, { from, until })) found.push(...(await this.#shown(seen, page)));
    return found;
  }

  async read(calendar: string, hrefs: string[]): Promise<Map<string, StoredEvent | null>> {
    const seen = await this.#calendarAt(calendar);
    const names = new Map(hrefs.map((href) => [href, this.#nameOf(seen, href) ?? '']));
    const objects = new Map((await objectsNamed(this.#pool, seen.calendar.id, [...names.values()])).map((o) => [o.name, o]));
    const found = new Map<string, StoredEvent | null>();
    for (const [href, name] of names) {
      const object = objects.get(name);
      const [event] = object === undefined ? [] : await this.#shown(seen, [object]);
      found.set(href, event === undefined ? null : { ...event, href });
    }
    return found;
  }

  /** Objects as they are seen: without what is hidden. */
  async #shown(seen: Seen, objects: readonly HostedObject[]): Promise<StoredEvent[]> {
    const turns = new Turns();
    const namespace = this.#disguise.namespace(seen.calendar.id);
    const found = await turns.map(objects, (object) => {
      const text = shownText(object, seen.sight, namespace, this.#zones);
      return text === null ? [] : [{ href: this.#hrefOf(seen, object.name), etag: this.#etagOf(seen, object), text }];
    });
    return found.flat();
  }

  #hrefOf = ({ calendar, sight }: Seen, name: string): string =>
    objectHref(calendar.slug, sight === 'all' ? name : this.#disguise.name(calendar.id, name));
  #etagOf = ({ calendar, sight }: Seen, { name, etag }: { name: string; etag: string }): string =>
    sight === 'all' ? etag : this.#disguise.etag(calendar.id, sight, name, etag);
  #nameOf({ calendar, sight }: Seen, href: string): string | null {
    const name = placeAt(href)?.name ?? null;
    return name === null || sight === 'all' ? name : this.#disguise.nameBehind(calendar.id, name);
  }

  async create(calendar: string, uid: string, text: string): Promise<{ href: string }> {
    const { slug } = await this.#writableAt(calendar);
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
    await this.#writableAt(href);
    const written = await this.#put(this.#objectAt(href), text, { etag });
    if (written.outcome !== 'changed') throw unexpected(written, href);
  }

  async remove(href: string, etag: string): Promise<void> {
    await this.#writableAt(href);
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

  /** A calendar as the seer has it. */
  async #calendarAt(href: string): Promise<Seen> {
    const slug = placeAt(href)?.slug ?? '';
    const seer = this.#seer();
    const found =
      seer === null
        ? await calendarBySlug(this.#pool, slug).then((c) => (c === null ? null : everything(c)))
        : await calendarFor(this.#pool, seer, slug);
    if (found === null)
      throw new OutsideError(
        'gone',
        `Monsoon keeps no calendar at ${href}${seer === null ? '' : ', or none that may be seen with the rights of this person, or of the owner of this lane'}`,
      );
    return found;
  }

  /** The calendar, where the seer may write. A lane that fills it is no obstacle to itself. */
  async #writableAt(href: string): Promise<HostedCalendar> {
    const { calendar, may } = await this.#calendarAt(href);
    if (may !== 'read and write') throw notYours(calendar.name);
    return calendar;
  }
}

/** A calendar as somebody has it. */
type Seen = Pick<CalendarFor, 'calendar' | 'sight' | 'may' | 'mayManage'>;
const everything = (calendar: HostedCalendar): Seen => ({ calendar, sight: 'all', may: 'read and write', mayManage: true });
const isSeen = (object: ObjectChange, { sight }: Seen): boolean => seenAs(object, sight) !== 'hidden';
const notYours = (name: string): OutsideError =>
  new OutsideError(
    'refused',
    `the owner of the lane, or who asks, may not write into "${name}": ask whose calendar it is for the right to read and write`,
  );

/** Calendars as a lane sees them: where they are Monsoon's own, with the eyes of its owner. @param owner null: with the service's own */
export const seenByOwner = (calendars: Calendars, owner: Seer): Calendars =>
  calendars instanceof HostedCalendars ? calendars.seenBy(owner) : calendars;

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
function unexpected(written: Written, href: string): OutsideError {
  if (written.outcome === 'changed meanwhile') return new OutsideError('changed meanwhile', `the event at ${href} was changed in the meantime`);
  if (written.outcome === 'gone' || written.outcome === 'no calendar') return new OutsideError('gone', `there is no event at ${href} any more`);
  return new OutsideError('refused', `the event at ${href} cannot be written: ${written.outcome}`);
}
