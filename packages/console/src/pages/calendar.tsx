import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { CalendarView } from '../calendar/calendar.tsx';
import { client } from '../data.ts';
import { PageHead } from '../parts/basics.tsx';
import { Choice } from '../parts/controls.tsx';

/** What stands where: of all lanes, of one, or on any calendar. */
export function CalendarPage() {
  const [search, setSearch] = useSearchParams();
  const of = search.get('of') ?? '';
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes() });
  const calendars = useQuery({ queryKey: ['systems', 'all-calendars'], queryFn: allCalendars, staleTime: 60_000 });
  const [kind, system = '', calendar = ''] = of.split('|');
  const shown = kind === 'lane' ? { lane: system } : kind === 'calendar' ? { system, calendar } : {};
  return (
    <>
      <PageHead title="Calendar" note="Time runs down. Each item is a band from its record's time to its event's.">
        <Choice
          label="Of what"
          value={of}
          empty="all lanes"
          options={[
            ...(lanes.data?.items ?? []).map((l) => ({ value: `lane|${l.slug}`, label: `lane ${l.definition.name}` })),
            ...(calendars.data ?? []),
          ]}
          onChange={(value) =>
            setSearch(
              (now) => {
                value === '' ? now.delete('of') : now.set('of', value);
                return now;
              },
              { replace: true },
            )
          }
        />
      </PageHead>
      <CalendarView of={shown} mayForecast={kind === 'lane'} />
    </>
  );
}

/** Every calendar of every system, as far as it answers; one that does not is no reason to show none. */
async function allCalendars(): Promise<{ value: string; label: string }[]> {
  const systems = (await client.systems()).items.filter((s) => s.offers.includes('calendars'));
  const found = await Promise.all(
    systems.map(async (s) => {
      const { items } = await client.calendars(s.slug).catch(() => ({ items: [] }));
      return items.map((c) => ({ value: `calendar|${s.slug}|${c.href}`, label: `${s.name}: ${c.name}` }));
    }),
  );
  return found.flat();
}
