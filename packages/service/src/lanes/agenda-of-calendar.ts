import type { AgendaItem } from '@monsoon/contract';
import { readEvent, UnreadableEvent } from '@monsoon/core';
import { type StoredEvent, Turns } from '@monsoon/systems';
import type { Caller } from '../access/callers.ts';
import { permit } from '../access/permissions.ts';
import { placeAt } from '../hosted/addresses.ts';
import { Disguise } from '../hosted/disguise.ts';
import { eachObject } from '../hosted/objects.ts';
import { type CalendarFor, calendarFor } from '../hosted/rights.ts';
import { shownText } from '../hosted/shown.ts';
import { HOSTED } from '../hosted/system.ts';
import { takeApart } from '../run/take-apart.ts';
import { findSystem } from '../systems/find.ts';
import { type AgendaAsk, type Asking, bankOf, MOST_OF_SERIES, unfit, within } from './agenda-items.ts';

/** Milliseconds for reading a calendar. */
const PATIENCE = 120_000;
/** Milliseconds that one answer may compute. */
const LONGEST = 20_000;

/** The events of a calendar, each occurrence by itself, as far as the caller may see them. @throws OutsideError */
export async function agendaOfCalendar(asking: Asking, caller: Caller, ask: AgendaAsk): Promise<AgendaItem[]> {
  const { app, zone, window } = asking;
  if (ask.system === undefined) throw unfit('system', 'say in which system the calendar is');
  const system = await findSystem(app, ask.system);
  const { calendar = '' } = ask;
  const place = placeAt(calendar);
  const mine = place === null || system.kind !== HOSTED ? null : await calendarFor(app.pool, caller, place.slug);
  const texts = mine !== null ? await ofHosted(asking, mine) : await ofOther(asking, caller, system, calendar);
  const turns = new Turns({ most: LONGEST });
  const itemOf = ({ href, text, occurrence }: StoredEvent): AgendaItem[] => {
    try {
      const { values, repeating } = readEvent(text, app.zones);
      const event = bankOf(values.when, asking);
      if (!within(event, window)) return [];
      return [
        {
          lane: null,
          laneName: null,
          calendar: texts.name,
          recordId: null,
          href,
          moment: '',
          label: values.title ?? 'no title',
          state: values.status === 'cancelled' ? 'cancelled' : 'on the calendar',
          repeating: repeating || occurrence !== undefined,
          record: null,
          event,
          why: null,
        },
      ];
    } catch (error) {
      if (error instanceof UnreadableEvent) return [];
      throw error;
    }
  };
  const items: AgendaItem[] = [];
  for await (const events of takeApart(texts.objects, { ...window, home: zone, most: MOST_OF_SERIES }, app.zones, turns))
    items.push(...(await turns.map(events, itemOf)).flat());
  return items;
}

interface Texts {
  name: string;
  objects: { href: string; etag: string | null; text: string }[];
}

async function ofHosted({ app, window }: Asking, mine: CalendarFor): Promise<Texts> {
  const objects: Texts['objects'] = [];
  const turns = new Turns();
  const namespace = new Disguise(app.vault).namespace(mine.calendar.id);
  for await (const page of eachObject(app.pool, mine.calendar.id, window))
    for (const object of page) {
      const text = await turns.step(() => shownText(object, mine.sight, namespace, app.zones));
      if (text !== null) objects.push({ href: object.name, etag: object.etag, text });
    }
  return { name: mine.calendar.name, objects };
}

async function ofOther({ app, window }: Asking, caller: Caller, system: Awaited<ReturnType<typeof findSystem>>, asked: string): Promise<Texts> {
  await permit(app.db, caller, 'inspect', null);
  const { calendars } = app.systems.open(system);
  const signal = AbortSignal.timeout(PATIENCE);
  const found = (await calendars?.calendars(signal))?.find((c) => c.href === asked || c.name === asked);
  if (calendars === undefined || found === undefined) throw unfit('calendar', `${system.name} has no calendar "${asked}"`);
  const near = await calendars.between(found.href, window.from, window.until, signal);
  if (near.length > 0 || system.kind === 'caldav') return { name: found.name, objects: near };
  // A feed cannot be asked for a span.
  const objects: Texts['objects'] = [];
  for await (const page of calendars.changes(found.href, null, signal)) {
    const read = await calendars.read(
      found.href,
      page.changed.map((c) => c.href),
      signal,
    );
    objects.push(...[...read.values()].filter((e) => e !== null));
  }
  return { name: found.name, objects };
}
