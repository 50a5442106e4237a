import { type EventView, type LaneContext, spanOf, type When } from '@monsoon/core';
import type { StoredEvent } from '@monsoon/systems';
import { viewOf } from './event-view.ts';
import type { OccurrenceCalendars } from './occurrences.ts';
import type { RunStore } from './store.ts';

const DAY = 86_400;
/** Spans that are so near each other are asked for together. */
const NEAR = 14 * DAY;

interface Reading {
  context: LaneContext;
  calendars: OccurrenceCalendars;
  store: RunStore;
  signal: AbortSignal;
}

/**
 * Events without a pair that changed too long ago for a look at changes: those with given UIDs, and those at the time of
 * records that have no event.
 * @param whens when those records are; null where a UID says enough
 */
export async function* oldEvents(reading: Reading, uids: readonly string[], whens: readonly (When | null)[]): AsyncIterable<EventView[]> {
  const { context, calendars, signal } = reading;
  const { definition, zone, zones } = context;
  const { calendar } = definition.calendar;
  // A server may answer with a UID that only contains the one that was asked for.
  const wanted = new Set(uids);
  yield (await unpaired(reading, await calendars.withUids(calendar, uids, signal))).filter((event) => wanted.has(event.read?.uid ?? ''));
  if (!definition.matching.includes('when')) return;
  const spans = whens.flatMap((when) => (when === null ? [] : [spanOf(when, zone, zones)]));
  // A day more on both sides: servers have clocks of their own for days and for times without a zone.
  for (const { from, until } of joined(spans)) yield await unpaired(reading, await calendars.between(calendar, from - DAY, until + DAY, signal));
}

async function unpaired({ context, store }: Reading, events: StoredEvent[]): Promise<EventView[]> {
  const paired = new Set((await store.pairs({ hrefs: events.map((e) => e.href) })).map((p) => p.href));
  return events.filter((e) => !paired.has(e.href)).map((e) => viewOf(e, context));
}

interface Span {
  from: number;
  until: number;
}

/** Fewer spans that hold them all. */
function joined(spans: readonly Span[]): Span[] {
  const all: Span[] = [];
  for (const span of [...spans].sort((a, b) => a.from - b.from)) {
    const last = all.at(-1);
    if (last !== undefined && span.from - last.until <= NEAR) last.until = Math.max(last.until, span.until);
    else all.push({ ...span });
  }
  return all;
}
