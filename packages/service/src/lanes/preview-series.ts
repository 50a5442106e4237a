import type { PreviewAnswer } from '@monsoon/contract';
import {
  formatWhen,
  type LaneContext,
  nextOccurrence,
  occurrencesOf,
  readSeries,
  type Series,
  type SeriesOccurrence,
  sayRules,
  UnreadableEvent,
  unescapeText,
  windowOf,
} from '@monsoon/core';
import type { SampledEvents } from './samples.ts';

type Shown = NonNullable<PreviewAnswer['series']>['shown'][number];

/** Series that are shown, and occurrences of each. */
const MOST = { shown: 6, occurrences: 6 };
const DAY = 86_400;

/** A series of a calendar, taken apart. */
interface Found {
  href: string;
  series: Series;
  occurrences: SeriesOccurrence[];
  endless: boolean;
}

/** The series on a calendar, as the lane would find them: the ordinary one first, then those with which something could go wrong. */
export function lookAtSeries(context: LaneContext, { events }: SampledEvents): PreviewAnswer['series'] {
  const now = Date.parse(context.now) / 1000;
  const window = { home: context.zone, ...(windowOf(context) ?? { from: now - 30 * DAY, until: now + 365 * DAY }) };
  const found: Found[] = [];
  for (const { href, text } of events) {
    try {
      const series = readSeries(text);
      if (series === null) continue;
      const occurrences = occurrencesOf(series, window, context.zones);
      found.push({ href, series, occurrences, endless: nextOccurrence(series, window, context.zones) !== null });
    } catch (error) {
      // What cannot be taken apart is among the events that are left out, with the reason.
      if (!(error instanceof UnreadableEvent)) throw error;
    }
  }
  const picked = new Map<Found, string>();
  const pick = (one: Found | undefined, about: string) => {
    if (one !== undefined && picked.size < MOST.shown && !picked.has(one)) picked.set(one, about);
  };
  const by = (is: (f: Found) => boolean) => found.find((f) => is(f) && !picked.has(f));
  pick(
    by((f) => f.occurrences.some((o) => o.isOverride && !o.cancelled) && f.occurrences.some((o) => o.cancelled)),
    'one moved, one cancelled',
  );
  pick(
    by((f) => f.occurrences.some((o) => o.isOverride && !o.cancelled)),
    'an occurrence was edited by itself',
  );
  pick(
    by((f) => f.occurrences.some((o) => o.cancelled)),
    'an occurrence is cancelled',
  );
  pick(
    by((f) => crossesClockChange(f, context)),
    'a clock change inside',
  );
  pick(
    by((f) => f.endless),
    'goes on after the window',
  );
  pick(
    by((f) => f.occurrences.length === 0),
    'nothing in the window',
  );
  pick(
    by(() => true),
    'an ordinary one',
  );
  return {
    count: found.length,
    occurrences: found.reduce((n, f) => n + f.occurrences.length, 0),
    shown: [...picked].map(([one, about]) => show(one, about)),
  };
}

function crossesClockChange({ occurrences }: Found, { zones }: LaneContext): boolean {
  const offsets = occurrences.flatMap((o) => {
    if (o.when.kind === 'all-day' || o.when.zone === null) return [];
    return zones.find(o.when.zone)?.period(o.from).offset ?? [];
  });
  return new Set(offsets).size > 1;
}

function show({ href, series, occurrences }: Found, about: string): Shown {
  const title = (series.master ?? series.events[0])?.lines.find((l) => l.name === 'SUMMARY')?.value;
  return {
    href,
    label: title === undefined ? href : unescapeText(title),
    about,
    says: saySeries(series.rules, occurrences),
    occurrences: occurrences.length,
    cancelled: occurrences.filter((o) => o.cancelled).length,
    first: occurrences
      .slice(0, MOST.occurrences)
      .map((o) => `${formatWhen(o.when)}${o.cancelled ? ' (cancelled)' : o.isOverride ? ' (edited)' : ''}`),
  };
}

/** `every second Tuesday, until 30 June 2026; 2 of 14 edited, 1 cancelled` */
export function saySeries(rules: readonly string[], occurrences: readonly SeriesOccurrence[]): string {
  const cancelled = occurrences.filter((o) => o.cancelled).length;
  const edited = occurrences.filter((o) => o.isOverride).length - occurrences.filter((o) => o.isOverride && o.cancelled).length;
  const said = [...(edited > 0 ? [`${edited} of ${occurrences.length} edited`] : []), ...(cancelled > 0 ? [`${cancelled} cancelled`] : [])];
  return [sayRules(rules), ...(said.length > 0 ? [said.join(', ')] : [])].join('; ');
}
