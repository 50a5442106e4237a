import type { AgendaAnswer } from '@monsoon/contract';
import type { AgendaQuery } from '@monsoon/contract/client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { ownZone } from '../editor/draft.ts';
import { Button, Empty, Failure, Reading } from '../parts/basics.tsx';
import { Choice, Tick } from '../parts/controls.tsx';
import { Days, sayDate } from './day.tsx';
import { AgendaList } from './list.tsx';
import { Month } from './month.tsx';

const views = ['day', 'week', 'month', 'list'] as const;
type View = (typeof views)[number];

const today = () => new Date().toISOString().slice(0, 10);
const addDays = (day: string, n: number): string => new Date(Date.parse(`${day}T12:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10);
const mondayOf = (day: string): string => addDays(day, -((new Date(`${day}T12:00:00Z`).getUTCDay() + 6) % 7));
const addMonths = (day: string, n: number): string => {
  const at = new Date(`${day.slice(0, 7)}-01T12:00:00Z`);
  at.setUTCMonth(at.getUTCMonth() + n);
  return at.toISOString().slice(0, 10);
};

/** First and last day of what a view shows around a day. */
function spanOf(view: View, day: string): { from: string; until: string } {
  if (view === 'day') return { from: day, until: day };
  if (view === 'week' || view === 'list') return { from: mondayOf(day), until: addDays(mondayOf(day), 6) };
  const first = mondayOf(`${day.slice(0, 7)}-01`);
  const last = addDays(addMonths(day, 1), -1);
  return { from: first, until: addDays(mondayOf(last), 6) };
}

const isDay = (text: string | null): text is string => text !== null && /^\d{4}-\d\d-\d\d$/.test(text);

/** What stands on both banks, by day, week or month. @param of what is shown; @param zone the lane's, where it is one lane's */
export function CalendarView({
  of,
  zone,
  mayForecast = false,
}: {
  of: Pick<AgendaQuery, 'lane' | 'system' | 'calendar'>;
  zone?: string | undefined;
  mayForecast?: boolean;
}) {
  const [search, setSearch] = useSearchParams();
  const set = (part: Record<string, string | null>) =>
    setSearch(
      (now) => {
        for (const [name, value] of Object.entries(part)) value === null ? now.delete(name) : now.set(name, value);
        return now;
      },
      { replace: true },
    );
  const narrow = typeof matchMedia === 'function' && matchMedia('(max-width: 47.99rem)').matches;
  const view = views.find((v) => v === search.get('view')) ?? (narrow ? 'list' : 'week');
  const day = isDay(search.get('day')) ? search.get('day')! : today();
  const inLane = search.get('times') === 'lane' && zone !== undefined;
  const shownZone = inLane ? zone : ownZone();
  // Of one lane, what it leaves out is a part of the picture; of many, it would hide what they do.
  const leftOutToo = (search.get('out') ?? (of.lane === undefined ? 'no' : 'yes')) === 'yes';
  const forecasting = mayForecast && search.get('would') === 'be';
  const { from, until } = spanOf(view, day);
  const ask: AgendaQuery = { ...of, from, until, zone: shownZone, ...(forecasting ? { forecast: true } : {}) };
  const found = useQuery({
    queryKey: ['items', 'agenda', ask],
    queryFn: () => client.agenda(ask),
    placeholderData: keepPreviousData,
    staleTime: 10_000,
  });
  const move = (n: number) => set({ day: view === 'month' ? addMonths(day, n) : addDays(day, view === 'day' ? n : 7 * n) });
  const toDay = (next: string) => set({ view: 'day', day: next });
  const data = found.data === undefined || leftOutToo ? found.data : withoutLeftOut(found.data);
  return (
    <div>
      <div className="mb-3 flex flex-wrap items-center gap-x-3 gap-y-2">
        <fieldset className="flex">
          <legend className="sr-only">How it is shown</legend>
          {views.map((v) => (
            <button
              key={v}
              type="button"
              aria-pressed={v === view}
              onClick={() => set({ view: v })}
              className={`border border-line px-3 py-1 font-medium capitalize first:rounded-l last:rounded-r ${v === view ? 'bg-sunk' : 'bg-card text-soft hover:bg-sunk'}`}
            >
              {v}
            </button>
          ))}
        </fieldset>
        <div className="flex items-center gap-1">
          <Button quiet onClick={() => move(-1)} aria-label={`The ${view === 'list' ? 'week' : view} before`}>
            ←
          </Button>
          <strong className="min-w-44 text-center">{title(view, day)}</strong>
          <Button quiet onClick={() => move(1)} aria-label={`The next ${view === 'list' ? 'week' : view}`}>
            →
          </Button>
          <Button onClick={() => set({ day: today() })}>Today</Button>
        </div>
        <label className="flex items-center gap-1.5">
          Day
          <input
            type="date"
            value={day}
            onChange={(e) => isDay(e.target.value) && set({ day: e.target.value })}
            className="rounded border border-line bg-paper px-2 py-0.5"
          />
        </label>
        {zone !== undefined && zone !== ownZone() && (
          <Choice
            label="Times in"
            value={inLane ? 'lane' : ''}
            empty={`your times (${ownZone()})`}
            options={[{ value: 'lane', label: `the lane's times (${zone})` }]}
            onChange={(value) => set({ times: value === '' ? null : value })}
          />
        )}
        {of.calendar === undefined && <Tick label="with what is left out" checked={leftOutToo} onChange={(on) => set({ out: on ? 'yes' : 'no' })} />}
        {mayForecast && <Tick label="as a run would leave it" checked={forecasting} onChange={(on) => set({ would: on ? 'be' : null })} />}
        <Legend onlyCalendar={of.calendar !== undefined} />
      </div>
      {found.isError && <Failure>{reasonOf(found.error)}</Failure>}
      {forecasting && found.isFetching && <p role="status">Reading both sides...</p>}
      {data === undefined && !found.isError && <Reading />}
      {data !== undefined && !data.complete && <Failure>There are more items here than are drawn: choose fewer lanes, or a shorter time.</Failure>}
      {data !== undefined && (
        <div className={found.isPlaceholderData ? 'opacity-60' : ''}>
          {view === 'month' ? (
            <Month days={data.days} items={data.items} month={day.slice(0, 7)} onDay={toDay} />
          ) : view === 'list' ? (
            <AgendaList days={data.days} items={data.items} />
          ) : (
            <Days days={data.days} items={data.items} {...(view === 'week' ? { onDay: toDay } : {})} />
          )}
          {data.items.length === 0 && view !== 'list' && <Empty>Nothing lies between these days.</Empty>}
        </div>
      )}
    </div>
  );
}

const withoutLeftOut = (all: AgendaAnswer): AgendaAnswer => ({
  ...all,
  items: all.items.filter((i) => i.state !== 'left out'),
  days: all.days.map(({ states: { 'left out': out = 0, ...states }, ...day }) => ({ ...day, states, items: day.items - out })),
});

function title(view: View, day: string): string {
  if (view === 'day') return `${sayDate(day)} ${day.slice(0, 4)}`;
  if (view === 'month') return `${sayDate(day).replace(/^\d+ /, '')} ${day.slice(0, 4)}`;
  const monday = mondayOf(day);
  return `${sayDate(monday)} to ${sayDate(addDays(monday, 6))}`;
}

/** What the forms mean. */
function Legend({ onlyCalendar }: { onlyCalendar: boolean }) {
  if (onlyCalendar) return null;
  return (
    <p className="ml-auto text-[0.87rem] text-soft">
      <span className="text-records">records on the left</span>, <span className="text-calendar">calendar on the right</span>; a slant is how far they
      are apart
    </p>
  );
}
