import type { AgendaAnswer, AgendaItem } from '@monsoon/contract';

export type AgendaDay = AgendaAnswer['days'][number];

/** Pixels of an hour with items in it, and of one without: what is empty is folded. */
const HOUR = { busy: 46, compact: 22, empty: 4 };

/** Where the times of a day are drawn: time runs down, and hours without items take next to no room. */
export interface Scale {
  day: AgendaDay;
  /** the top of each hour, and the bottom of the last */
  tops: number[];
  busy: boolean[];
  height: number;
  /** pixels from the top; outside of the day, its edge */
  y(at: number): number;
}

/** Does either side last whole days? A lane may say working hours on one side, and the day on the other. */
export const isAllDay = ({ record, event }: AgendaItem): boolean => record?.allDay === true || event?.allDay === true;

/** The part of a span that lies in a day; null: none */
export function partIn(day: AgendaDay, span: { from: number; until: number } | null): { from: number; until: number } | null {
  if (span === null || span.from >= day.until || Math.max(span.until, span.from + 1) <= day.from) return null;
  return { from: Math.max(span.from, day.from), until: Math.min(Math.max(span.until, span.from + 900), day.until) };
}

/** The hours of a day in which something stands on either bank. */
export function busyHours(day: AgendaDay, items: readonly AgendaItem[]): boolean[] {
  const busy = day.hours.map(() => false);
  for (const item of items) {
    if (isAllDay(item)) continue;
    for (const part of [partIn(day, item.record), partIn(day, item.event)]) {
      if (part === null) continue;
      for (let hour = Math.floor((part.from - day.from) / 3600); hour * 3600 + day.from < part.until && hour < busy.length; hour++) busy[hour] = true;
    }
  }
  return busy;
}

/** @param busy which of its hours are drawn at full height */
export function scaleOf(day: AgendaDay, busy: boolean[], compact: boolean): Scale {
  const tops = [0];
  for (const is of busy) tops.push(tops.at(-1)! + (is ? (compact ? HOUR.compact : HOUR.busy) : HOUR.empty));
  const y = (at: number) => {
    const hours = Math.min(Math.max((at - day.from) / 3600, 0), busy.length);
    const whole = Math.min(Math.floor(hours), busy.length - 1);
    return tops[whole]! + (hours - whole) * (tops[whole + 1]! - tops[whole]!);
  };
  return { day, tops, busy, height: tops.at(-1)!, y };
}

/** An item where it is drawn: pixels down both banks, and which of how many tracks side by side. */
export interface Placed {
  item: AgendaItem;
  left: { top: number; bottom: number } | null;
  right: { top: number; bottom: number } | null;
  top: number;
  bottom: number;
  track: number;
  tracks: number;
}

/** Pixels that a band has at least, to be read and pressed. */
const LEAST = 24;

const edge = (scale: Scale, span: AgendaItem['record']): Placed['left'] => {
  const part = partIn(scale.day, span);
  if (part === null || span === null) return null;
  const top = scale.y(part.from);
  return { top, bottom: Math.max(scale.y(part.until), top + LEAST) };
};

/** Puts the timed items of a day beside each other where they overlap. @param items in the order of their times */
export function place(items: readonly AgendaItem[], scale: Scale): Placed[] {
  const placed: Placed[] = [];
  let cluster: Placed[] = [];
  let ends: number[] = [];
  let end = 0;
  const close = () => {
    for (const p of cluster) p.tracks = ends.length;
    placed.push(...cluster);
    cluster = [];
    ends = [];
  };
  const edges = items
    .filter((item) => !isAllDay(item))
    .flatMap((item) => {
      const [left, right] = [edge(scale, item.record), edge(scale, item.event)];
      const both = [left, right].filter((e) => e !== null);
      if (both.length === 0) return [];
      return [{ item, left, right, top: Math.min(...both.map((e) => e.top)), bottom: Math.max(...both.map((e) => e.bottom)) }];
    })
    .sort((a, b) => a.top - b.top || b.bottom - a.bottom);
  for (const one of edges) {
    if (one.top >= end) close();
    const free = ends.findIndex((e) => e <= one.top);
    const track = free < 0 ? ends.length : free;
    ends[track] = one.bottom;
    end = Math.max(...ends);
    cluster.push({ ...one, track, tracks: 1 });
  }
  close();
  return placed;
}
