import type { AgendaAnswer, AgendaItem } from '@monsoon/contract';
import { certain, toInstant, toLocal, type Zone } from '@monsoon/core';
import { Turns } from '@monsoon/systems';
import type { Caller } from '../access/callers.ts';
import type { App } from '../app.ts';
import { type AgendaAsk, type Asking, touches, unfit } from './agenda-items.ts';
import { agendaOfCalendar } from './agenda-of-calendar.ts';
import { agendaOfLanes } from './agenda-of-lanes.ts';

const DAY = 86_400;
const MOST_DAYS = 62;
/** Items in one answer; of more, all are counted. */
const MOST_ITEMS = 5000;

/** What stands where in a span of days: both sides of lanes, or the events of a calendar. @throws OutsideError */
export async function agendaAnswer(app: App, caller: Caller, ask: AgendaAsk): Promise<AgendaAnswer> {
  const zone = app.zones.find(ask.zone);
  if (zone === undefined) throw unfit('zone', `"${ask.zone}" is not a time zone such as Europe/London`);
  const days = daysBetween(ask.from, ask.until, zone);
  const window = { from: certain(days[0], 'a range has a day').from, until: certain(days.at(-1), 'a range has a day').until };
  const wide = (seconds: number) => new Date(seconds * 1000).toISOString().slice(0, 10);
  const asking: Asking = { app, zone, window, days: { first: wide(window.from - DAY), last: wide(window.until + DAY) } };
  const found = ask.calendar !== undefined ? await agendaOfCalendar(asking, caller, ask) : await agendaOfLanes(asking, ask);
  const turns = new Turns();
  const placed = await turns.map(found, (item) => {
    for (const day of days) {
      if (!touches(item, day)) continue;
      day.items++;
      day.states[item.state] = (day.states[item.state] ?? 0) + 1;
    }
    return { item, start: startOf(item) };
  });
  const items = ask.counts === true ? [] : await firstOf(placed, turns);
  return { zone: zone.name, days, items, complete: found.length <= MOST_ITEMS };
}

interface Placed {
  item: AgendaItem;
  /** seconds since 1970 */
  start: number;
}

/** The first items in order, sorted day by day. */
async function firstOf(placed: readonly Placed[], turns: Turns): Promise<AgendaItem[]> {
  const byDay = new Map<number, Placed[]>();
  for (const one of placed) {
    const day = Math.floor(one.start / DAY);
    const those = byDay.get(day);
    if (those === undefined) byDay.set(day, [one]);
    else those.push(one);
  }
  const items: AgendaItem[] = [];
  for (const day of [...byDay.keys()].sort((a, b) => a - b)) {
    if (items.length >= MOST_ITEMS) break;
    const those = byDay.get(day) ?? [];
    await turns.step(() => those.sort((a, b) => a.start - b.start || (a.item.label < b.item.label ? -1 : 1)));
    items.push(...those.map((p) => p.item));
  }
  return items.slice(0, MOST_ITEMS);
}

function daysBetween(from: string, until: string, zone: Zone): AgendaAnswer['days'] {
  if (from > until) throw unfit('from', `${from} lies after ${until}`);
  const days: AgendaAnswer['days'] = [];
  for (let day = from; day <= until; day = dayAfter(day)) {
    if (days.length >= MOST_DAYS) throw unfit('until', `at most ${MOST_DAYS} days are shown at once`);
    const begins = toInstant(`${day}T00:00:00`, zone).instant;
    const ends = toInstant(`${dayAfter(day)}T00:00:00`, zone).instant;
    const hours = [];
    for (let at = begins; at < ends; at += 3600) hours.push(toLocal(at, zone).slice(11, 16));
    days.push({ day, from: begins, until: ends, hours, items: 0, states: {} });
  }
  return days;
}

const dayAfter = (day: string): string => new Date(Date.parse(`${day}T00:00:00Z`) + DAY * 1000).toISOString().slice(0, 10);
const startOf = (item: AgendaItem): number => Math.min(item.record?.from ?? Number.POSITIVE_INFINITY, item.event?.from ?? Number.POSITIVE_INFINITY);
