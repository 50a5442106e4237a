import { countsPath } from '@monsoon/contract/client';
import { countSteps } from '@monsoon/contract/text';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { client, reasonOf } from '../data.ts';
import { Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Choice, Words } from '../parts/controls.tsx';

const dayFrom = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
/** More series than these cannot be distinguished: the smallest are drawn as one. The table below has them all. */
const MOST_SERIES = 7;
const hue = (at: number) => `var(--series-${(at % MOST_SERIES) + 1})`;

/** The series that are drawn: the largest, and, where there are too many, the rest together. */
function drawn(groups: Found['groups']): Found['groups'] {
  if (groups.length <= MOST_SERIES) return groups;
  const bySize = [...groups].sort((a, b) => b.total - a.total);
  const kept = new Set(bySize.slice(0, MOST_SERIES - 1));
  const rest = groups.filter((g) => !kept.has(g));
  const counts = (rest[0]?.counts ?? []).map((_, i) => rest.reduce((n, g) => n + (g.counts[i] ?? 0), 0));
  return [...groups.filter((g) => kept.has(g)), { name: `${rest.length} others`, total: rest.reduce((n, g) => n + g.total, 0), counts }];
}

/** Items by day, week or month: of lanes, of a collection, or of a calendar. */
export function Counts() {
  const [search, setSearch] = useSearchParams();
  const get = (name: string, otherwise: string) => search.get(name) ?? otherwise;
  const set = (part: Record<string, string>) =>
    setSearch(
      (now) => {
        for (const [name, value] of Object.entries(part)) value === '' ? now.delete(name) : now.set(name, value);
        return now;
      },
      { replace: true },
    );
  const of = get('of', '');
  const [kind, system = '', name = ''] = of.split('|');
  const ask = {
    step: get('step', 'week') as 'week',
    from: get('from', dayFrom(-28)),
    until: get('until', dayFrom(56)),
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    ...(kind === 'lane'
      ? { lane: system }
      : kind === 'collection'
        ? { system, collection: name }
        : kind === 'calendar'
          ? { system, calendar: name }
          : {}),
    ...(get('by', '') === '' ? {} : { by: get('by', '') }),
  };
  const counts = useQuery({ queryKey: ['counts', ask], queryFn: () => client.counts(ask), placeholderData: (before) => before });
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes() });
  const sides = useQuery({ queryKey: ['counts', 'sides'], queryFn: sidesToCount, staleTime: 60_000 });
  const found = counts.data;
  return (
    <>
      <PageHead
        title="Counts"
        note={
          found === undefined
            ? 'Items by day, week or month.'
            : `Last 7 days ${found.lately.week} (${found.lately.weekBefore} in the 7 before); this month so far ${found.lately.month} (${found.lately.monthBefore} by then in the month before).`
        }
      />
      <Card>
        <div className="flex flex-wrap items-end gap-3 px-3 py-2">
          <Choice
            label="Of what"
            value={of}
            empty="all lanes"
            options={[...(lanes.data?.items ?? []).map((l) => ({ value: `lane|${l.slug}`, label: l.definition.name })), ...(sides.data ?? [])]}
            onChange={(value) => set({ of: value, by: '' })}
          />
          <Choice label="By" value={ask.step} options={[...countSteps]} onChange={(step) => set({ step })} />
          <Words label="Apart by" className="w-44" place="apart by: status, site..." value={get('by', '')} onChange={(by) => set({ by })} />
          <Day label="from" value={ask.from} onChange={(from) => set({ from })} />
          <Day label="until" value={ask.until} onChange={(until) => set({ until })} />
          {found !== undefined && (
            <a
              href={`/api/v1${countsPath(ask)}`}
              download="counts.csv"
              className="ml-auto inline-flex items-center rounded border border-line bg-card px-3 py-1 font-medium hover:bg-sunk"
            >
              CSV
            </a>
          )}
        </div>
        {counts.isError && <Failure>{reasonOf(counts.error)}</Failure>}
        {found !== undefined && !found.complete && <Failure>There are more items than were read: choose fewer.</Failure>}
        {found?.total === 0 && <Empty>Nothing lies between these days.</Empty>}
        {found !== undefined && found.total > 0 && (
          <>
            <div className="grid px-3 md:grid-cols-[minmax(0,1fr)_auto]" aria-hidden>
              <div className="h-72">
                <ResponsiveContainer width="100%" height="100%">
                  <BarChart
                    accessibilityLayer={false}
                    data={found.steps.map((at, i) => ({
                      at: at.slice(5),
                      ...Object.fromEntries(drawn(found.groups).map((g) => [g.name, g.counts[i] ?? 0])),
                    }))}
                  >
                    <CartesianGrid vertical={false} stroke="var(--line)" />
                    <XAxis dataKey="at" stroke="var(--soft)" fontSize={13} />
                    <YAxis allowDecimals={false} stroke="var(--soft)" fontSize={13} width={36} />
                    <Tooltip contentStyle={{ background: 'var(--card)', borderColor: 'var(--line)' }} cursor={{ fill: 'var(--sunk)' }} />
                    {drawn(found.groups).map((g, i) => (
                      <Bar key={g.name} dataKey={g.name} stackId="all" fill={hue(i)} stroke="var(--card)" isAnimationActive={false} />
                    ))}
                  </BarChart>
                </ResponsiveContainer>
              </div>
              <SeriesNames groups={drawn(found.groups)} />
            </div>
            <CountTable found={found} />
          </>
        )}
      </Card>
    </>
  );
}

/** The names of the series beside the bars, the topmost first, as they stand on each other. */
const SeriesNames = ({ groups }: { groups: Found['groups'] }) => (
  <ul className="flex flex-wrap gap-x-4 self-center py-2 md:block md:max-w-60 md:pl-3">
    {groups
      .map((g, i) => (
        <li key={g.name} className="flex items-baseline gap-2">
          <span className="inline-block h-3 w-3 shrink-0 rounded-xs" style={{ background: hue(i) }} />
          <span>{g.name}</span>
          <span className="text-soft tabular-nums">{g.total}</span>
        </li>
      ))
      .reverse()}
  </ul>
);

const Day = ({ label, value, onChange }: { label: string; value: string; onChange: (day: string) => void }) => (
  <label className="flex items-center gap-2">
    {label}
    <input type="date" value={value} onChange={(e) => onChange(e.target.value)} className="rounded border border-line bg-paper px-2 py-1" />
  </label>
);

type Found = Awaited<ReturnType<typeof client.counts>>;

const CountTable = ({ found }: { found: Found }) => (
  // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
  <section className="overflow-x-auto" tabIndex={0} aria-label="Counts">
    <table>
      <thead>
        <tr>
          <th>{found.step} from</th>
          {found.groups.map((g) => (
            <th key={g.name} className="text-right">
              {g.name}
            </th>
          ))}
          <th className="text-right">Total</th>
        </tr>
      </thead>
      <tbody>
        {found.steps.map((at, i) => (
          <tr key={at}>
            <th scope="row">{at}</th>
            {found.groups.map((g) => (
              <td key={g.name} className="text-right tabular-nums">
                {g.counts[i] || ''}
              </td>
            ))}
            <td className="text-right tabular-nums">{found.groups.reduce((n, g) => n + (g.counts[i] ?? 0), 0)}</td>
          </tr>
        ))}
        <tr className="font-semibold">
          <th scope="row">in all</th>
          {found.groups.map((g) => (
            <td key={g.name} className="text-right tabular-nums">
              {g.total}
            </td>
          ))}
          <td className="text-right tabular-nums">{found.total}</td>
        </tr>
      </tbody>
    </table>
  </section>
);

/** Every dated collection and every calendar of the connected systems; one that is away is left out. */
async function sidesToCount(): Promise<{ value: string; label: string }[]> {
  const { items } = await client.systems();
  const found = await Promise.all(
    items.map(async (s) => {
      const collections = s.offers.includes('records') ? await client.collections(s.slug).catch(() => null) : null;
      const calendars = s.offers.includes('calendars') ? await client.calendars(s.slug).catch(() => null) : null;
      return [
        ...(collections?.items ?? [])
          .filter((c) => c.fields.some((f) => f.type === 'date' || f.type === 'date-time'))
          .map((c) => ({ value: `collection|${s.slug}|${c.name}`, label: `${s.name}: ${c.label}` })),
        ...(calendars?.items ?? []).map((c) => ({ value: `calendar|${s.slug}|${c.href}`, label: `${s.name}: ${c.name}` })),
      ];
    }),
  );
  return found.flat();
}
