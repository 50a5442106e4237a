import type { PreviewAnswer } from '@monsoon/contract';
import type { LaneDefinition } from '@monsoon/core';
import { useState } from 'react';
import { Choice } from '../parts/controls.tsx';
import type { Editing } from './draft.ts';

type Repeating = LaneDefinition['events']['repeating'];
type Shown = NonNullable<PreviewAnswer['series']>['shown'][number];

const choices: { value: Repeating; label: string; means: string }[] = [
  { value: 'leave out', label: 'are left out', means: 'No series becomes a record; each has a verdict with its rule in words.' },
  {
    value: 'each occurrence',
    label: 'become a record for each occurrence',
    means: 'Every occurrence in the window is an item of its own. One that is edited, cancelled or removed changes its record alone.',
  },
  {
    value: 'one record',
    label: 'become one record',
    means: 'The record has the time of the first occurrence. To have it hold the rule too, map the property "recurrence".',
  },
];

/** What becomes of repeating events, with series of this calendar as the lane would find them. */
export function RepeatingEvents({ lane, change, wrong, preview }: Pick<Editing, 'lane' | 'change' | 'wrong' | 'preview'>) {
  const chosen = (lane.events?.repeating ?? 'leave out') as Repeating;
  const series = preview?.series ?? null;
  const [wanted, setWanted] = useState<string | null>(null);
  const one = series?.shown.find((s) => s.href === wanted) ?? series?.shown[0];
  return (
    <div className="grid gap-1.5 px-3 py-1.5">
      <div className="flex flex-wrap items-center gap-2">
        <span className="font-medium">Repeating events</span>
        <Choice
          label="Repeating events"
          value={chosen}
          wrong={wrong('/events/repeating').length > 0}
          options={choices.map(({ value, label }) => ({ value, label }))}
          onChange={(repeating) =>
            change((l) => ({
              ...l,
              events: { ...l.events, repeating },
              // A series may have no end: its occurrences need a window.
              ...(repeating === 'each occurrence' && l.window == null ? { window: { behind: 30, ahead: 365 } } : {}),
            }))
          }
        />
      </div>
      <p className="text-[0.9rem] text-soft">{choices.find((c) => c.value === chosen)!.means}</p>
      {series !== null && series.count > 0 && one !== undefined && (
        <div className="rounded bg-sunk px-2 py-1.5">
          <p>
            {series.count} {series.count === 1 ? 'series' : 'series'} on this calendar, with {series.occurrences} occurrences in the window.
          </p>
          <Choice
            label="Sample series"
            className="mt-1 w-full"
            value={one.href}
            options={series.shown.map((s) => ({ value: s.href, label: `${s.label}: ${s.about}` }))}
            onChange={setWanted}
          />
          <Becomes chosen={chosen} series={one} />
        </div>
      )}
      {series !== null && series.count === 0 && <p className="text-[0.9rem] text-soft">No event of those that were read repeats.</p>}
    </div>
  );
}

/** A series as the records it would become. */
function Becomes({ chosen, series }: { chosen: Repeating; series: Shown }) {
  const { label, says, occurrences, cancelled, first } = series;
  const records = occurrences - cancelled;
  return (
    <div className="mt-1.5">
      <p className="text-calendar">
        {label}: {says}
      </p>
      {chosen === 'leave out' && <p>becomes no record: the lane leaves repeating events out</p>}
      {chosen === 'one record' && <p>becomes one record, at {first[0] ?? 'the time of its first occurrence'}</p>}
      {chosen === 'each occurrence' && (
        <>
          <p>
            becomes {records} {records === 1 ? 'record' : 'records'}
            {cancelled > 0 && `; ${cancelled} cancelled`}
          </p>
          <ul className="text-records">
            {first.map((time) => (
              <li key={time}>{time}</li>
            ))}
            {occurrences > first.length && <li className="text-soft">and {occurrences - first.length} more</li>}
          </ul>
        </>
      )}
    </div>
  );
}
