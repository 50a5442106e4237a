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
import type { StoredEvent } from '@monsoon/systems';

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

/** Events with the occurrences of series in their place. One that cannot be taken apart says why. */
export function takeApart(events: readonly StoredEvent[], window: Window, zones: ZoneTable): StoredEvent[] {
  return events.flatMap((event) => {
    const series = seriesIn(event.text);
    if (series === null) return [event];
    try {
      return occurrencesOf(series, window, zones).map((o) => asEvent(event, series, o, zones));
    } catch (error) {
      if (!(error instanceof UnreadableEvent)) throw error;
      return [{ ...event, unfit: error.message }];
    }
  });
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
