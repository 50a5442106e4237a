import type { AgendaItem } from '@monsoon/contract';
import type { CSSProperties, ReactNode } from 'react';
import { Link } from 'react-router';
import type { AgendaDay, Placed, Scale } from './scale.ts';
import { bankWords, itemTo, lookOf } from './states.ts';

const clock = (scale: Scale, at: number): string => {
  const hour = Math.min(Math.max(Math.floor((at - scale.day.from) / 3600), 0), scale.day.hours.length - 1);
  const minutes = Math.round(((at - scale.day.from) / 60) % 60);
  return `${scale.day.hours[hour]!.slice(0, 2)}:${String(minutes).padStart(2, '0')}`;
};

/** What takes the band to its item, where it has one. */
function Opening({ item, className, style, children }: { item: AgendaItem; className: string; style?: CSSProperties; children: ReactNode }) {
  const to = itemTo(item);
  const more = `${lookOf(item).word || item.state}; ${bankWords(item)}${item.why === null ? '' : `; ${item.why}`}`;
  const common = { className, style, title: `${item.label}: ${more}` };
  const inside = (
    <>
      {children}
      <span className="sr-only">: {more}</span>
    </>
  );
  return to === null ? (
    <div {...common}>{inside}</div>
  ) : (
    <Link to={to} {...common}>
      {inside}
    </Link>
  );
}

/** Where the other side is, when it is on another day. */
function elsewhere(item: AgendaItem, day: AgendaDay, side: 'record' | 'event'): string {
  const other = side === 'record' ? item.record : item.event;
  if (other === null) return '';
  return other.until <= day.from || other.from >= day.until ? `${side} ${other.says}` : '';
}

/**
 * One item across the middle, from the record's time on the left to the event's on the right: level when both agree,
 * slanted when they do not, ending in the middle when one side is not there.
 */
export function Band({ placed, scale, narrow }: { placed: Placed; scale: Scale; narrow: boolean }) {
  const { item, left, right, top, bottom, track, tracks } = placed;
  const look = lookOf(item);
  const height = Math.max(bottom - top, 1);
  const [l, r] = [left ?? null, right ?? null];
  const at = (y: number) => y - top;
  const onlyCalendar = item.lane === null;
  // Of what stands on one bank only, the band ends in the middle.
  const corners =
    l !== null && r !== null
      ? [
          [0, at(l.top)],
          [100, at(r.top)],
          [100, at(r.bottom)],
          [0, at(l.bottom)],
        ]
      : l !== null
        ? [
            [0, at(l.top)],
            [52, at(l.top)],
            [60, (at(l.top) + at(l.bottom)) / 2],
            [52, at(l.bottom)],
            [0, at(l.bottom)],
          ]
        : onlyCalendar
          ? [
              [0, at(r!.top)],
              [100, at(r!.top)],
              [100, at(r!.bottom)],
              [0, at(r!.bottom)],
            ]
          : [
              [100, at(r!.top)],
              [48, at(r!.top)],
              [40, (at(r!.top) + at(r!.bottom)) / 2],
              [48, at(r!.bottom)],
              [100, at(r!.bottom)],
            ];
  const begins = (l ?? r)!;
  const note = elsewhere(item, scale.day, 'record') || elsewhere(item, scale.day, 'event');
  const words = [look.word, note].filter(Boolean).join(', ');
  const start = (l === null ? item.event : item.record) ?? item.event;
  return (
    <Opening
      item={item}
      className="band absolute block overflow-hidden rounded-none text-ink no-underline"
      style={{ top, height, left: `${(100 * track) / tracks}%`, width: `calc(${100 / tracks}% - 3px)` }}
    >
      <svg aria-hidden className="absolute inset-0 h-full w-full" viewBox={`0 0 100 ${height}`} preserveAspectRatio="none">
        <polygon
          points={corners.map((c) => c.join(',')).join(' ')}
          fill={look.wash}
          stroke={look.colour}
          strokeDasharray={look.dash}
          strokeWidth={look.word === '' ? 0.8 : 1.6}
          vectorEffect="non-scaling-stroke"
        />
        {l !== null && (
          <line x1="0" x2="0" y1={at(l.top)} y2={at(l.bottom)} stroke="var(--records)" strokeWidth="8" vectorEffect="non-scaling-stroke" />
        )}
        {r !== null && (
          <line x1="100" x2="100" y1={at(r.top)} y2={at(r.bottom)} stroke="var(--calendar)" strokeWidth="8" vectorEffect="non-scaling-stroke" />
        )}
      </svg>
      <span
        className={`absolute overflow-hidden leading-tight ${begins.bottom - begins.top < 36 ? 'text-ellipsis whitespace-nowrap' : ''} ${narrow ? 'px-1.5 text-[0.8rem]' : 'px-2.5 text-[0.93rem]'} ${l === null && !onlyCalendar ? 'right-0 text-right' : 'left-0'}`}
        style={{
          top: at(begins.top) + 2,
          maxHeight: Math.max(begins.bottom - begins.top - 3, 18),
          maxWidth: l !== null && r !== null ? '92%' : '97%',
        }}
      >
        {/* The outline of a slant would run through the words. */}
        <span className={look.word === '' ? '' : 'bg-card/80 font-medium'}>{item.label}</span>
        {item.repeating && <span title="repeats"> ↻</span>}
        {words !== '' && (
          <span className="text-[0.85em]" style={{ color: look.colour }}>
            {' '}
            {words}
          </span>
        )}
        {!narrow && start !== null && start !== undefined && (
          <span className="text-[0.85em] text-soft"> {`${clock(scale, Math.max(start.from, scale.day.from))}`}</span>
        )}
      </span>
    </Opening>
  );
}

/** An item that lasts whole days: always level at the top of the day. */
export function AllDayBand({ item, day, narrow }: { item: AgendaItem; day: AgendaDay; narrow: boolean }) {
  const look = lookOf(item);
  const inDay = (bank: AgendaItem['record']) => bank !== null && bank.from < day.until && Math.max(bank.until, bank.from + 1) > day.from;
  const [left, right] = [inDay(item.record), inDay(item.event)];
  const note = elsewhere(item, day, 'record') || elsewhere(item, day, 'event');
  const both = left && right;
  return (
    <Opening
      item={item}
      className={`band mb-0.5 block truncate border-y px-2 text-ink no-underline ${narrow ? 'text-[0.8rem]' : 'text-[0.93rem]'} ${both || item.lane === null ? '' : left ? 'mr-[45%]' : 'ml-[45%] text-right'}`}
      style={{
        background: look.wash,
        borderColor: look.colour,
        borderStyle: look.dash === '' ? 'solid' : 'dashed',
        borderLeft: left ? '4px solid var(--records)' : '0',
        borderRight: right ? '4px solid var(--calendar)' : '0',
      }}
    >
      {item.label}
      {item.repeating && ' ↻'}
      {(look.word !== '' || note !== '') && (
        <span className="text-[0.85em]" style={{ color: look.colour }}>
          {' '}
          {[look.word, note].filter(Boolean).join(', ')}
        </span>
      )}
    </Opening>
  );
}
