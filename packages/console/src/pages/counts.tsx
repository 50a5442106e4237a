import { countsPath } from '@monsoon/client';
import { countSteps } from '@monsoon/core/text';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { client, reasonOf } from '../data.ts';
import { Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Choice, Words } from '../parts/controls.tsx';

const dayFrom = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
/** Groups differ by shade, on paper and in the dark: hues are kept for the two sides. The table below says it in figures. */
const shades = [75, 40, 95, 22, 60, 32, 85, 50].map((share) => `color-mix(in srgb, var(--ink) ${share}%, var(--card))`);

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
            <div className="h-72 px-3" aria-hidden>
              <ResponsiveContainer width="100%" height="100%">
                <BarChart
                  accessibilityLayer={false}
                  data={found.steps.map((at, i) => ({ at: at.slice(5), ...Object.fromEntries(found.groups.map((g) => [g.name, g.counts[i] ?? 0])) }))}
                >
                  <CartesianGrid vertical={false} stroke="var(--line)" />
                  <XAxis dataKey="at" stroke="var(--soft)" fontSize={13} />
                  <YAxis allowDecimals={false} stroke="var(--soft)" fontSize={13} width={36} />
                  <Tooltip contentStyle={{ background: 'var(--card)', borderColor: 'var(--line)' }} cursor={{ fill: 'var(--sunk)' }} />
                  <Legend itemSorter={null} formatter={(name) => <span className="text-ink">{name}</span>} />
                  {found.groups.map((g, i) => (
                    <Bar
                      key={g.name}
                      dataKey={g.name}
                      stackId="all"
                      fill={shades[i % shades.length]!}
                      stroke="var(--card)"
                      isAnimationActive={false}
                    />
                  ))}
                </BarChart>
              </ResponsiveContainer>
            </div>
            <CountTable found={found} />
          </>
        )}
      </Card>
    </>
  );
}

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
