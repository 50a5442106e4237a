import type { AgendaItem } from '@monsoon/contract';
import { useMemo } from 'react';
import { AllDayBand, Band } from './band.tsx';
import { type AgendaDay, busyHours, isAllDay, partIn, place, type Scale, scaleOf } from './scale.ts';

/** Bands that one column draws; of more, hours are summed up. */
const MOST_BANDS = { narrow: 120, wide: 400 };

const inDay = (items: readonly AgendaItem[], day: AgendaDay): AgendaItem[] =>
  items.filter((i) => partIn(day, i.record) !== null || partIn(day, i.event) !== null);

/** One day or several beside each other: hours run down once, at the left. */
export function Days({
  days,
  items,
  onDay,
  compact = false,
}: {
  days: AgendaDay[];
  items: AgendaItem[];
  onDay?: (day: string) => void;
  /** in little room, for a look at few items */
  compact?: boolean;
}) {
  const narrow = days.length > 1;
  const byDay = useMemo(() => days.map((day) => inDay(items, day)), [days, items]);
  const scales = useMemo(() => shared(days, byDay, compact), [days, byDay, compact]);
  const [first] = scales;
  if (first === undefined) return null;
  return (
    <section className="flex gap-1" aria-label="Records on the left bank, calendar on the right">
      <div className="w-11 shrink-0 pt-0 text-right text-[0.8rem] text-soft tabular-nums" aria-hidden>
        <div className="h-12" />
        <AllDaySpace rows={Math.max(0, ...byDay.map((d) => d.filter(isAllDay).length))} />
        <Hours scale={first} />
      </div>
      {days.map((day, i) => (
        <Column
          key={day.day}
          day={day}
          items={byDay[i]!}
          scale={scales[i]!}
          rows={Math.max(0, ...byDay.map((d) => d.filter(isAllDay).length))}
          narrow={narrow}
          onDay={onDay}
        />
      ))}
    </section>
  );
}

/** Days of 24 hours share their scale, so that the same hour is at the same height; one with 23 or 25 has its own. */
function shared(days: AgendaDay[], byDay: AgendaItem[][], compact: boolean): Scale[] {
  const busy = days.map((day, i) => busyHours(day, byDay[i]!));
  const of24 = busy.filter((hours) => hours.length === 24);
  const together = Array.from({ length: 24 }, (_, hour) => of24.some((hours) => hours[hour]));
  return days.map((day, i) => scaleOf(day, busy[i]!.length === 24 ? together : busy[i]!, compact));
}

const ALL_DAY_ROW = 24;
const AllDaySpace = ({ rows }: { rows: number }) => <div style={{ height: rows === 0 ? 0 : Math.min(rows, 6) * ALL_DAY_ROW + 8 }} />;

const Hours = ({ scale }: { scale: Scale }) => (
  <div className="relative" style={{ height: scale.height }}>
    {scale.day.hours.map((hour, i) =>
      // Where hours are folded, one label would lie on the next.
      scale.busy[i] || (i > 0 && scale.busy[i - 1] && scale.busy[i + 1] !== true) ? (
        // biome-ignore lint/suspicious/noArrayIndexKey: an hour is known by its place: one comes twice in autumn
        <span key={i} className="absolute right-1.5 -translate-y-1/2" style={{ top: scale.tops[i] }}>
          {hour}
        </span>
      ) : null,
    )}
  </div>
);

const weekdays = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];
export const weekday = (day: string): string => weekdays[new Date(`${day}T12:00:00Z`).getUTCDay()]!;
const months = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
export const sayDate = (day: string): string => `${Number(day.slice(8))} ${months[Number(day.slice(5, 7)) - 1]!}`;

function Column({
  day,
  items,
  scale,
  rows,
  narrow,
  onDay,
}: {
  day: AgendaDay;
  items: AgendaItem[];
  scale: Scale;
  rows: number;
  narrow: boolean;
  onDay?: ((day: string) => void) | undefined;
}) {
  const allDay = items.filter(isAllDay);
  const timed = items.length - allDay.length;
  const tooMany = timed > MOST_BANDS[narrow ? 'narrow' : 'wide'];
  const placed = useMemo(() => (tooMany ? [] : place(items, scale)), [items, scale, tooMany]);
  const name = `${narrow ? weekday(day.day).slice(0, 3) : weekday(day.day)} ${sayDate(day.day)}`;
  const today = new Date().toISOString().slice(0, 10) === day.day;
  return (
    <section className="min-w-0 grow basis-0" aria-label={name}>
      <h2 className={`flex h-12 flex-col justify-end pb-1 leading-tight ${today ? 'font-semibold' : 'font-normal'}`}>
        {onDay === undefined ? (
          name
        ) : (
          <button type="button" className="text-left hover:underline" onClick={() => onDay(day.day)}>
            {name}
          </button>
        )}
        {day.hours.length !== 24 && <span className="text-[0.8rem] text-soft">{day.hours.length} hours: clocks change</span>}
      </h2>
      <div className="overflow-y-auto" style={{ height: rows === 0 ? 0 : Math.min(rows, 6) * ALL_DAY_ROW + 8 }}>
        {allDay.map((item) => (
          <AllDayBand key={`${item.lane} ${item.recordId ?? item.href} ${item.moment}`} item={item} day={day} narrow={narrow} />
        ))}
      </div>
      <div
        className="relative border-x-2 bg-card"
        style={{ height: scale.height, borderLeftColor: 'var(--records)', borderRightColor: 'var(--calendar)' }}
      >
        {scale.busy.map((is, i) =>
          is || (i > 0 && scale.busy[i - 1]) ? (
            // biome-ignore lint/suspicious/noArrayIndexKey: as above
            <div key={i} className="absolute inset-x-0 border-t border-line" style={{ top: scale.tops[i] }} />
          ) : null,
        )}
        {placed.map((p) => (
          <Band
            key={`${p.item.lane} ${p.item.recordId ?? p.item.href} ${p.item.moment} ${p.item.event?.from ?? ''}`}
            placed={p}
            scale={scale}
            narrow={narrow}
          />
        ))}
        {tooMany && <Crowded day={day} items={items.filter((i) => !isAllDay(i))} scale={scale} />}
        {items.length === 0 && <p className="px-2 py-1 text-[0.87rem] text-soft">nothing</p>}
      </div>
    </section>
  );
}

/** More items than can be shown one by one: how many there are in each hour, and how many of them want a person. */
function Crowded({ day, items, scale }: { day: AgendaDay; items: AgendaItem[]; scale: Scale }) {
  const hours = day.hours.map((_, hour) => {
    const from = day.from + hour * 3600;
    const starting = items.filter((i) => {
      const at = (i.record ?? i.event)!.from;
      return at >= from && at < from + 3600;
    });
    return { count: starting.length, odd: starting.filter((i) => i.state === 'held' || i.state === 'failed').length };
  });
  const most = Math.max(1, ...hours.map((h) => h.count));
  return hours.map(({ count, odd }, hour) =>
    count === 0 ? null : (
      <div
        // biome-ignore lint/suspicious/noArrayIndexKey: an hour is known by its place
        key={hour}
        className="absolute inset-x-1 flex items-center"
        style={{ top: scale.tops[hour]! + 2, height: scale.tops[hour + 1]! - scale.tops[hour]! - 4 }}
      >
        <div className="h-full bg-sunk" style={{ width: `${(70 * count) / most}%` }} />
        <span className="px-1 text-[0.8rem]">
          {count}
          {odd > 0 && <span className="text-held"> ({odd} held or failed)</span>}
        </span>
      </div>
    ),
  );
}
