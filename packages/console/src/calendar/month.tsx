import type { AgendaItem } from '@monsoon/contract';
import { useState } from 'react';
import { Days, sayDate, weekday } from './day.tsx';
import type { AgendaDay } from './scale.ts';

/** A month as lines of weeks: how full each day is, and what in it is not as it should be; the day under the cursor below. */
export function Month({ days, items, month, onDay }: { days: AgendaDay[]; items: AgendaItem[]; month: string; onDay: (day: string) => void }) {
  const [shown, setShown] = useState<string | null>(null);
  const weeks = Array.from({ length: Math.ceil(days.length / 7) }, (_, i) => days.slice(7 * i, 7 * i + 7));
  const most = Math.max(1, ...days.map((d) => d.items));
  const now = new Date().toISOString().slice(0, 10);
  const looked = days.find((d) => d.day === shown) ?? days.find((d) => d.day === now) ?? days.find((d) => d.items > 0) ?? days[0];
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,1fr)_24rem]">
      <table>
        <thead>
          <tr>
            <th className="w-20">Week of</th>
            {weeks[0]?.map((d) => (
              <th key={d.day}>{weekday(d.day).slice(0, 3)}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {weeks.map((week) => (
            <tr key={week[0]!.day}>
              <th scope="row" className="font-normal whitespace-nowrap">
                {sayDate(week[0]!.day)}
              </th>
              {week.map((d) => (
                <td key={d.day} data-column={weekday(d.day).slice(0, 3)} className={`p-0! ${looked?.day === d.day ? 'bg-sunk' : ''}`}>
                  <button
                    type="button"
                    className={`block w-full px-2 py-1.5 text-left ${d.day.startsWith(month) ? '' : 'text-soft'}`}
                    onMouseEnter={() => setShown(d.day)}
                    onFocus={() => setShown(d.day)}
                    onClick={() => onDay(d.day)}
                  >
                    <span className={`flex justify-between ${d.day === now ? 'font-semibold' : ''}`}>
                      <span>
                        {Number(d.day.slice(8))}
                        <span className="sr-only"> {sayDate(d.day).replace(/^\d+ /, '')}</span>
                      </span>
                      <span className="text-soft tabular-nums">
                        {d.items === 0 ? '' : d.items}
                        <span className="sr-only"> {d.items === 1 ? 'item' : 'items'}</span>
                      </span>
                    </span>
                    {/* The load: a bar as long as the day is full, against the fullest. */}
                    <span className="mt-1 block h-2 bg-paper" aria-hidden>
                      <span className="block h-2 bg-soft" style={{ width: `${(100 * d.items) / most}%`, opacity: 0.55 }} />
                    </span>
                    <span className="block h-5 truncate text-[0.8rem]">
                      <span className="text-held">{(d.states['held'] ?? 0) > 0 && `${d.states['held']} held `}</span>
                      <span className="text-failed">{(d.states['failed'] ?? 0) > 0 && `${d.states['failed']} failed `}</span>
                      <span className="text-soft">{(d.states['left out'] ?? 0) > 0 && `${d.states['left out']} left out`}</span>
                    </span>
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {looked !== undefined && (
        <aside aria-label="The day under the cursor" aria-live="polite">
          <Days days={[looked]} items={items} />
        </aside>
      )}
    </div>
  );
}
