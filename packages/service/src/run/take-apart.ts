import {
  occurrencesOf,
  occurrenceText,
  placeName,
  readSeries,
  type Series,
  type SeriesOccurrence,
  UnreadableEvent,
  type Window,
  type ZoneTable,
} from '@monsoon/core';
import { type StoredEvent, Turns } from '@monsoon/systems';
import { chunks } from './chunks.ts';

/** An occurrence as an event of its own. */
export function asEvent({ href, etag }: StoredEvent, series: Series, occurrence: SeriesOccurrence, zones: ZoneTable): StoredEvent {
  const { recurrenceId: id, tag, isOverride } = occurrence;
  return {
    href: placeName(href, id),
    etag: etag === null ? null : tag,
    text: occurrenceText(series, occurrence, zones),
    occurrence: { id, rules: series.rules, isOverride },
  };
}

/** Characters of the occurrences that are made events of their own at once: each has a text as long as its series'. */
const PART = 500_000;

/**
 * Events with the occurrences of series in their place, worked out in turns, and some at a time: all of them together may be large. One
 * that cannot be taken apart says why.
 */
export async function* takeApart(
  events: readonly StoredEvent[],
  window: Window,
  zones: ZoneTable,
  turns = new Turns(),
): AsyncIterable<StoredEvent[]> {
  for (const event of events) {
    try {
      const series = await turns.step(() => seriesIn(event.text));
      const occurrences = series === null ? null : await turns.step(() => occurrencesOf(series, window, zones));
      if (series === null || occurrences === null) yield [event];
      else
        for (const part of chunks(occurrences, Math.max(1, Math.floor(PART / event.text.length))))
          yield await turns.map(part, (o) => asEvent(event, series, o, zones));
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      yield [{ ...event, unfit: error.message }];
    }
  }
}

/** The same, all at once: of some few events. */
export async function takenApart(events: readonly StoredEvent[], window: Window, zones: ZoneTable, turns = new Turns()): Promise<StoredEvent[]> {
  const found: StoredEvent[] = [];
  for await (const some of takeApart(events, window, zones, turns)) found.push(...some);
  return found;
}

/** What cannot be read at all is no series: its reader says what is wrong with it. */
export function seriesIn(text: string): Series | null {
  try {
    return readSeries(text);
  } catch (error) {
    if (error instanceof UnreadableEvent) return null;
    throw error;
  }
}
