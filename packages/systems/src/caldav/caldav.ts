import { randomUUID } from 'node:crypto';
import { failure } from '../http/answers.ts';
import type { Call } from '../http/call.ts';
import type { CalendarChanges, CalendarInfo, Calendars, ProbeStep, Scheduling, StoredEvent } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import { isSameCalendar, pullChanges } from './changes.ts';
import { Dav, hrefElements, NAMESPACES } from './dav.ts';
import { findHomes, listCalendars, readScheduling } from './discovery.ts';
import { withSlash } from './hrefs.ts';
import { CAL, DAV, type DavResponse, escapeXml } from './multistatus.ts';
import { watchCalendars } from './watch.ts';

/** Events fetched by one multiget: 100 take one server 15 milliseconds, and another more than 3 seconds. */
const batches = { first: 50, least: 10, most: 400, quick: 400, slow: 2000 };

/** Calendars whose events are counted when checking. */
const MOST_COUNTED = 10;

const XML = { 'content-type': 'application/xml; charset=utf-8' };
const nameElement = (name: string) => `<D:displayname>${escapeXml(name)}</D:displayname>`;
const colourElement = (colour: string) => `<A:calendar-color>${escapeXml(colour)}</A:calendar-color>`;

function storedIn({ href, properties }: DavResponse): StoredEvent | null {
  const text = properties.get(`${CAL}calendar-data`)?.text;
  return text === undefined || text.trim() === '' ? null : { href, etag: properties.get(`${DAV}getetag`)?.text.trim() || null, text };
}

/** Calendars over CalDAV (RFC 4791). */
export class CalDav implements Calendars {
  readonly #dav: Dav;
  readonly #address: string;
  #homes: string[] | null = null;
  #batch = batches.first;
  #scheduling: Promise<Scheduling> | null = null;

  constructor(call: Call, address: string) {
    this.#dav = new Dav(call, address);
    this.#address = address;
  }

  async #findHomes(signal: AbortSignal): Promise<string[]> {
    this.#homes ??= await findHomes(this.#dav, this.#address, signal);
    return this.#homes;
  }

  /** What the server says of it once holds: it is part of the account. */
  scheduling(signal: AbortSignal): Promise<Scheduling> {
    this.#scheduling ??= this.#findHomes(signal)
      .then((homes) => readScheduling(this.#dav, homes[0]!, signal))
      .catch((error: unknown) => {
        this.#scheduling = null;
        throw error;
      });
    return this.#scheduling;
  }

  async *probe(signal: AbortSignal): AsyncIterable<ProbeStep> {
    try {
      // A server may greet strangers: only an answer that needs the account shows that the credentials are good.
      const homes = await this.#findHomes(signal);
      yield { name: 'reachable', outcome: 'ok', detail: `${this.#dav.host} answers as a calendar server` };
      const calendars = await this.calendars(signal);
      yield { name: 'credentials', outcome: 'ok', detail: `accepted; the calendars are at ${homes.join(', ')}` };
      yield {
        name: 'calendars',
        outcome: calendars.length > 0 ? 'ok' : 'warning',
        detail: calendars.length > 0 ? `${calendars.length} found: ${calendars.map((c) => c.name).join(', ')}` : 'none yet; Monsoon can make one',
      };
      yield* this.#probeContents(calendars.slice(0, MOST_COUNTED), signal);
      const { addresses, invites } = await this.scheduling(signal);
      yield {
        name: 'invitations',
        outcome: 'ok',
        detail: invites
          ? `the server invites guests itself${addresses.length === 0 ? '' : `, in the name of ${addresses.join(', ')}`}`
          : 'the server does not schedule; Monsoon can invite by mail',
      };
      const closed = calendars.filter((c) => !c.writable);
      yield {
        name: 'writing',
        outcome: closed.length > 0 ? 'warning' : 'ok',
        detail: closed.length > 0 ? `not permitted in ${closed.map((c) => c.name).join(', ')}` : 'nothing speaks against it',
      };
    } catch (error) {
      yield failedStep(error);
    }
  }

  /** How many events there are, and how changes are reported. */
  async *#probeContents(calendars: CalendarInfo[], signal: AbortSignal): AsyncIterable<ProbeStep> {
    const counts: string[] = [];
    let telling = true;
    for (const calendar of calendars) {
      const { changed, cursor } = await pullChanges(this.#dav, calendar.href, null, signal);
      counts.push(`${calendar.name} ${changed.length}`);
      telling &&= cursor !== null;
    }
    if (calendars.length === 0) return;
    yield { name: 'events', outcome: 'ok', detail: counts.join(', ') };
    yield telling
      ? { name: 'changes', outcome: 'ok', detail: 'the server reports what changed since the last look (sync-collection)' }
      : { name: 'changes', outcome: 'warning', detail: 'the server does not report what changed: each check lists everything' };
  }

  /** @param every seconds between two looks */
  watch(every: number, changed: (calendar: string) => void, lost: (error: Error) => void): () => Promise<void> {
    return watchCalendars(this.#dav, (signal) => this.#findHomes(signal), every, changed, lost);
  }

  async calendars(signal: AbortSignal): Promise<CalendarInfo[]> {
    return listCalendars(this.#dav, await this.#findHomes(signal), signal);
  }

  /** The lists that hold tasks. */
  async taskLists(signal: AbortSignal): Promise<CalendarInfo[]> {
    return listCalendars(this.#dav, await this.#findHomes(signal), signal, 'VTODO');
  }

  async make(name: string, colour: string | null, signal: AbortSignal, holds: 'events' | 'tasks' = 'events'): Promise<CalendarInfo> {
    const home = (await this.#findHomes(signal))[0]!;
    const href = `${home}${randomUUID()}/`;
    const component = holds === 'events' ? 'VEVENT' : 'VTODO';
    const components = `<C:supported-calendar-component-set><C:comp name="${component}"/></C:supported-calendar-component-set>`;
    const make = (more: string) =>
      this.#dav.write(
        'MKCALENDAR',
        href,
        signal,
        XML,
        `<C:mkcalendar ${NAMESPACES}><D:set><D:prop>${nameElement(name)}${more}</D:prop></D:set></C:mkcalendar>`,
      );
    try {
      await make(components + (colour === null ? '' : colourElement(colour)));
    } catch (error) {
      if (!(error instanceof OutsideError) || error.trouble === 'not authorised') throw error;
      // Some servers make no calendar with a colour, or none with a set of components, and take the colour afterwards.
      await make(holds === 'tasks' ? components : '');
      if (colour !== null) await this.#set(href, colourElement(colour), signal).catch(() => undefined);
    }
    const listed = holds === 'events' ? await this.calendars(signal) : await this.taskLists(signal);
    const made = listed.find((c) => c.href === href);
    if (made === undefined) throw new OutsideError('nonsense', `${this.#dav.host} said that it made the calendar "${name}", and does not list it`);
    return made;
  }

  async rename(calendar: string, to: { name?: string | undefined; colour?: string | undefined }, signal: AbortSignal): Promise<CalendarInfo> {
    const href = withSlash(calendar);
    await this.#set(href, (to.name === undefined ? '' : nameElement(to.name)) + (to.colour === undefined ? '' : colourElement(to.colour)), signal);
    const now = [...(await this.calendars(signal)), ...(await this.taskLists(signal))].find((c) => c.href === href);
    if (now === undefined) throw new OutsideError('gone', `${this.#dav.host} does not list the calendar ${href} any more`);
    // Success is what the server shows: some answer 2xx to a PROPPATCH and keep what they had.
    if ((to.name !== undefined && now.name !== to.name) || (to.colour !== undefined && now.colour?.toLowerCase() !== to.colour.toLowerCase()))
      throw new OutsideError('refused', `${this.#dav.host} keeps the name "${now.name}" and the colour ${now.colour ?? '(none)'} of this calendar`);
    return now;
  }

  #set(href: string, properties: string, signal: AbortSignal) {
    return this.#dav.write(
      'PROPPATCH',
      href,
      signal,
      XML,
      `<D:propertyupdate ${NAMESPACES}><D:set><D:prop>${properties}</D:prop></D:set></D:propertyupdate>`,
    );
  }

  async *changes(calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges> {
    yield await pullChanges(this.#dav, withSlash(calendar), cursor, signal);
  }

  isSame(calendar: string, cursor: string, signal: AbortSignal): Promise<boolean> {
    return isSameCalendar(this.#dav, withSlash(calendar), cursor, signal);
  }

  /** By a query (RFC 4791, 7.8.6); where the server has none, only where a new event of that UID would be stored. */
  async withUid(calendar: string, uid: string, signal: AbortSignal): Promise<StoredEvent[]> {
    // A match may be a part of a longer UID: which it is shows when the event is read.
    const match = `<C:prop-filter name="UID"><C:text-match collation="i;octet">${escapeXml(uid)}</C:text-match></C:prop-filter>`;
    const found = await this.#query(calendar, match, signal);
    if (found !== null) return found;
    const there = await this.#get(this.hrefFor(calendar, uid), signal);
    return there === null ? [] : [there];
  }

  /** By a query (RFC 4791, 9.9). */
  async between(calendar: string, from: number, until: number, signal: AbortSignal): Promise<StoredEvent[]> {
    const utc = (seconds: number) => `${new Date(seconds * 1000).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`;
    return (await this.#query(calendar, `<C:time-range start="${utc(from)}" end="${utc(until)}"/>`, signal)) ?? [];
  }

  /** Null where the server does not answer such questions. */
  async #query(calendar: string, match: string, signal: AbortSignal): Promise<StoredEvent[] | null> {
    const filter = `<C:filter><C:comp-filter name="VCALENDAR"><C:comp-filter name="VEVENT">${match}</C:comp-filter></C:comp-filter></C:filter>`;
    const body = `<C:calendar-query ${NAMESPACES}><D:prop><D:getetag/><C:calendar-data/></D:prop>${filter}</C:calendar-query>`;
    try {
      const { responses } = await this.#dav.report(withSlash(calendar), 1, body, signal);
      return responses.flatMap((r) => storedIn(r) ?? []);
    } catch (error) {
      if (!(error instanceof OutsideError) || !['refused', 'broken'].includes(error.trouble)) throw error;
      return null;
    }
  }

  async read(calendar: string, hrefs: string[], signal: AbortSignal): Promise<Map<string, StoredEvent | null>> {
    const found = new Map<string, StoredEvent | null>();
    let at = 0;
    const reader = async (): Promise<void> => {
      while (at < hrefs.length) {
        const part = hrefs.slice(at, at + this.#batch);
        at += part.length;
        const started = performance.now();
        for (const event of await this.#multiget(withSlash(calendar), part, signal)) found.set(event.href, event);
        const took = performance.now() - started;
        if (took > batches.slow) this.#batch = Math.max(batches.least, Math.floor(this.#batch / 2));
        else if (took < batches.quick && part.length === this.#batch) this.#batch = Math.min(batches.most, this.#batch * 2);
      }
    };
    // A single event is a plain GET: it is what every server does best. Of many, the server gathers some while others are understood.
    if (hrefs.length > 1)
      await Promise.all([reader(), reader()]).catch((error) => {
        // The other's further questions are not needed.
        at = hrefs.length;
        throw error;
      });
    // Some servers leave missing events out, and one broken event can cut an answer short: look directly.
    const missing = hrefs.filter((h) => !found.has(h));
    await Promise.all(missing.map(async (href) => found.set(href, await this.#get(href, signal))));
    return found;
  }

  async #multiget(calendar: string, hrefs: string[], signal: AbortSignal): Promise<StoredEvent[]> {
    const body = `<C:calendar-multiget ${NAMESPACES}><D:prop><D:getetag/><C:calendar-data/></D:prop>${hrefElements(hrefs)}</C:calendar-multiget>`;
    const wanted = new Set(hrefs);
    const { responses } = await this.#dav.report(calendar, 1, body, signal);
    return responses.flatMap((r) => (wanted.has(r.href) ? (storedIn(r) ?? []) : []));
  }

  async #get(href: string, signal: AbortSignal): Promise<StoredEvent | null> {
    const answer = await this.#dav.send('GET', href, signal);
    if (answer.status === 404 || answer.status === 410) return null;
    const text = answer.body.toString('utf8');
    if (answer.status !== 200) throw failure(answer, `reading ${href}`);
    // A login page with 200 is not an event.
    if (!/^\ufeff?BEGIN:VCALENDAR/i.test(text.trimStart())) throw new OutsideError('nonsense', `${this.#dav.host} did not send an event for ${href}`);
    return { href, etag: answer.headers['etag'] ?? null, text };
  }

  hrefFor(calendar: string, uid: string): string {
    return `${withSlash(calendar)}${encodeURIComponent(uid)}.ics`;
  }

  async create(calendar: string, uid: string, text: string, signal: AbortSignal): Promise<{ href: string }> {
    const href = this.hrefFor(calendar, uid);
    try {
      await this.#dav.write('PUT', href, signal, { 'content-type': 'text/calendar; charset=utf-8', 'if-none-match': '*' }, text);
    } catch (error) {
      if (error instanceof OutsideError && error.trouble === 'changed meanwhile')
        throw new OutsideError('exists', `there is an event at ${href} already`, { href });
      if (error instanceof OutsideError && error.trouble === 'exists' && error.href !== null && !error.href.startsWith(withSlash(calendar)))
        throw await this.#fetch(error.href, href, signal);
      // A PUT into a calendar that is not there is a trouble of the calendar, not of the event.
      if (error instanceof OutsideError && (error.trouble === 'gone' || error.status === 409))
        throw new OutsideError(
          error.trouble === 'gone' ? 'nonsense' : error.trouble,
          `the calendar ${calendar} does not take events: ${error.message}`,
          error.href === null ? {} : { href: error.href },
        );
      throw error;
    }
    return { href };
  }

  /** Some servers keep a UID but once in all calendars of an account: the event that somebody moved elsewhere is moved here. */
  async #fetch(from: string, to: string, signal: AbortSignal): Promise<OutsideError> {
    try {
      await this.#dav.write('MOVE', from, signal, { destination: new URL(to, this.#dav.base).href, overwrite: 'F' });
      return new OutsideError('exists', `the event was at ${from}, and is at ${to} now`, { href: to });
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      return new OutsideError('refused', `an event of that UID stands in another calendar, at ${from}: move it back, or remove it there`);
    }
  }

  async change(href: string, etag: string, text: string, signal: AbortSignal): Promise<void> {
    await this.#dav.write('PUT', href, signal, { 'content-type': 'text/calendar; charset=utf-8', 'if-match': etag }, text);
  }

  async remove(href: string, etag: string, signal: AbortSignal): Promise<void> {
    try {
      await this.#dav.write('DELETE', href, signal, { 'if-match': etag });
    } catch (error) {
      if (!(error instanceof OutsideError) || error.trouble !== 'gone') throw error;
    }
  }
}
