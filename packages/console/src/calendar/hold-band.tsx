import type { HoldAnswer } from '@monsoon/contract';
import type { When } from '@monsoon/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { client } from '../data.ts';
import { ownZone } from '../editor/draft.ts';
import { Days } from './day.tsx';
import { partIn } from './scale.ts';

const whenOf = (values: object): When | null => (values as { when?: When | null }).when ?? null;
const dayOf = (when: When | null): string | null => (when === null ? null : (when.kind === 'all-day' ? when.first : when.start).slice(0, 10));
const beside = (day: string, n: number): string => new Date(Date.parse(`${day}T12:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10);
/** Days apart that are still drawn together. */
const NEAR = 6;

/** When both sides of a question take place, as a band where the times differ, and where to see the days around it. */
export function HoldBand({ hold }: { hold: HoldAnswer }) {
  const days = [dayOf(whenOf(hold.record)), dayOf(whenOf(hold.event))].filter((d) => d !== null).sort();
  const [first, last = first] = [days[0], days.at(-1)];
  const differs = JSON.stringify(whenOf(hold.record)) !== JSON.stringify(whenOf(hold.event)) && days.length === 2;
  const near = first !== undefined && last !== undefined && beside(first, NEAR) >= last;
  // Their own zones may be a day from here.
  const ask = { lane: hold.lane, from: beside(first ?? '2000-01-01', -1), until: beside(last ?? '2000-01-01', 1), zone: ownZone() };
  const found = useQuery({ queryKey: ['items', 'agenda', ask], queryFn: () => client.agenda(ask), enabled: differs && near });
  if (first === undefined) return null;
  const item = found.data?.items.find((i) => i.state === 'held' && i.recordId === hold.recordId && i.moment === hold.moment);
  const shown = item === undefined ? [] : (found.data?.days ?? []).filter((d) => partIn(d, item.record) !== null || partIn(d, item.event) !== null);
  return (
    <div className="px-3 pb-2">
      {item !== undefined && <Days compact days={shown} items={[item]} />}
      <p>
        <Link to={`/lanes/${hold.lane}?tab=calendar&view=day&day=${first}`}>On the calendar</Link>
      </p>
    </div>
  );
}
