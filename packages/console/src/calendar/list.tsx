import type { AgendaItem } from '@monsoon/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { Badge, Button, Empty } from '../parts/basics.tsx';
import { sayDate, weekday } from './day.tsx';
import { type AgendaDay, partIn } from './scale.ts';
import { isMoving, itemTo, lookOf } from './states.ts';

const AT_ONCE = 200;

/** The same as a table, day by day: for narrow screens, and for those who hear the page. */
export function AgendaList({ days, items }: { days: AgendaDay[]; items: AgendaItem[] }) {
  const [most, setMost] = useState(AT_ONCE);
  let left = most;
  const parts = days.flatMap((day) => {
    const all = items.filter((i) => partIn(day, i.record) !== null || partIn(day, i.event) !== null);
    const shown = all.slice(0, left);
    left -= shown.length;
    return shown.length === 0 ? [] : [{ day, shown }];
  });
  if (items.length === 0) return <Empty>Nothing lies between these days.</Empty>;
  return (
    <>
      {parts.map(({ day, shown }) => (
        <section key={day.day} className="mb-3">
          <h2 className="px-3 font-semibold">
            {weekday(day.day)} {sayDate(day.day)}
          </h2>
          <table>
            <thead>
              <tr>
                <th className="w-[26%]">Record</th>
                <th>What</th>
                <th className="w-40">State</th>
                <th className="w-[26%]">Event</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((item) => (
                <Row key={`${item.lane} ${item.recordId ?? item.href} ${item.moment} ${item.event?.from ?? ''}`} item={item} />
              ))}
            </tbody>
          </table>
        </section>
      ))}
      {left <= 0 && (
        <div className="px-3 py-2">
          <Button onClick={() => setMost((now) => now + AT_ONCE)}>Show more</Button>
        </div>
      )}
    </>
  );
}

function Row({ item }: { item: AgendaItem }) {
  const to = itemTo(item);
  const look = lookOf(item);
  return (
    <tr>
      <td data-column="Record" className="text-records">
        {item.record?.says ?? ''}
      </td>
      <td data-column="What">
        {to === null ? item.label : <Link to={to}>{item.label}</Link>}
        {item.repeating && ' ↻'}
        {item.laneName !== null && <span className="block text-[0.87rem] text-soft">{item.laneName}</span>}
        {item.why !== null && <span className="block text-[0.87rem] text-soft">{item.why}</span>}
      </td>
      <td data-column="State">
        {look.word === '' ? (
          <span className="text-soft">{item.state}</span>
        ) : (
          <Badge tone={item.state === 'held' ? 'held' : item.state === 'failed' ? 'failed' : 'plain'}>{look.word}</Badge>
        )}
        {isMoving(item) && item.state !== 'in sync' && <span className="block text-[0.87rem]">the sides differ</span>}
      </td>
      <td data-column="Event" className="text-calendar">
        {item.event?.says ?? ''}
      </td>
    </tr>
  );
}
