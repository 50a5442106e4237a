import type { StarterAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { ownZone, shortName } from '../editor/draft.ts';
import { useSystems } from '../editor/sides.tsx';
import { Button, Card, Failure, PageHead } from '../parts/basics.tsx';
import { Choice } from '../parts/controls.tsx';

const arrows: Record<StarterAnswer['direction'], string> = { '->': 'records to calendar', '<-': 'calendar to records', '<->': 'both ways' };

/** Beginning a lane: from nothing, or from a starter, for one pair of sides or for several at once. */
export function NewLane() {
  const starters = useQuery({ queryKey: ['starters'], queryFn: () => client.starters(), staleTime: Number.POSITIVE_INFINITY });
  const [starter, setStarter] = useState<StarterAnswer | null>(null);
  const go = useNavigate();
  const blank = useMutation({
    mutationFn: () => client.makeDraft({ slug: '', definition: { zone: ownZone() } }),
    onSuccess: (made) => void go(`/drafts/${made.id}`),
  });
  return (
    <>
      <PageHead title="Arrange a lane" note={starter === null ? 'What should it do? Everything can be changed afterwards.' : starter.hint}>
        {starter !== null && <Button onClick={() => setStarter(null)}>Another starter</Button>}
      </PageHead>
      {starters.isError && <Failure>{reasonOf(starters.error)}</Failure>}
      {blank.isError && <Failure>{reasonOf(blank.error)}</Failure>}
      {starter === null ? (
        <ul className="grid list-none gap-3 p-0 md:grid-cols-2 lg:grid-cols-3">
          <li>
            <StarterButton name="From nothing" hint="Choose the two sides; what fits is suggested at each step." onClick={() => blank.mutate()} />
          </li>
          {starters.data?.items.map((s) => (
            <li key={s.slug}>
              <StarterButton name={s.name} hint={s.hint} way={arrows[s.direction]} onClick={() => setStarter(s)} />
            </li>
          ))}
        </ul>
      ) : (
        <ChooseSides starter={starter} />
      )}
    </>
  );
}

const StarterButton = ({ name, hint, way, onClick }: { name: string; hint: string; way?: string | undefined; onClick: () => void }) => (
  <button
    type="button"
    onClick={onClick}
    className="flex h-full w-full flex-col items-start rounded-md border border-line bg-card px-4 py-3 text-left hover:bg-sunk"
  >
    <span className="block font-semibold">{name}</span>
    <span className="block text-soft">{hint}</span>
    {way !== undefined && <span className="text-[0.87rem] text-soft">{way}</span>}
  </button>
);

interface Pairing {
  collection: string;
  /** an address; empty: a new one */
  calendar: string;
}

/** A starter asks for the two sides alone. Several collections can be matched with their calendars at once. */
function ChooseSides({ starter }: { starter: StarterAnswer }) {
  const go = useNavigate();
  const systems = useSystems();
  const [left, setLeft] = useState('');
  // Records to an address: the calendar is one that Monsoon keeps, and a feed of it is made along with it.
  const toAddress = starter.slug === 'records-to-address';
  const [right, setRight] = useState(toAddress ? 'hosted' : '');
  const [pairings, setPairings] = useState<Pairing[]>([{ collection: '', calendar: '' }]);
  const all = systems.data?.items ?? [];
  const collections = useQuery({ queryKey: ['systems', left, 'collections'], queryFn: () => client.collections(left), enabled: left !== '' });
  const calendars = useQuery({ queryKey: ['systems', right, 'calendars'], queryFn: () => client.calendars(right), enabled: right !== '' });
  const put = (at: number, pairing: Pairing) => setPairings((now) => now.map((p, i) => (i === at ? pairing : p)));
  const begin = useMutation({
    mutationFn: async () => {
      const made = [];
      for (const { collection, calendar } of pairings.filter((p) => p.collection !== '')) {
        const label = collections.data?.items.find((c) => c.name === collection)?.label ?? collection;
        const href = calendar !== '' ? calendar : (await client.makeCalendar(right, await freeName(label), null)).href;
        const { definition } = await client.suggest({
          records: { system: left, collection },
          calendar: { system: right, calendar: href },
          starter: starter.slug,
          zone: ownZone(),
        });
        if (toAddress) await client.makeFeed({ name: label, system: right, calendar: href, shows: ['title', 'location'] });
        made.push(await client.makeDraft({ slug: await freeSlug(shortName(label)), definition }));
      }
      await queries.invalidateQueries({ queryKey: ['systems', right, 'calendars'] });
      return made;
    },
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ['drafts'] });
      void go(made.length === 1 ? `/drafts/${made[0]!.id}?section=which` : '/lanes');
    },
  });
  /** A name that no calendar there has yet. */
  const freeName = async (label: string) => {
    const names = new Set((await client.calendars(right)).items.map((c) => c.name));
    for (let n = 1; ; n++) {
      const name = n === 1 ? label : `${label} ${n}`;
      if (!names.has(name)) return name;
    }
  };
  const freeSlug = async (wanted: string) => {
    const taken = new Set([...(await client.lanes()).items, ...(await client.drafts()).items].map((l) => l.slug));
    for (let n = 1; ; n++) {
      const slug = n === 1 ? wanted : `${wanted}-${n}`;
      if (!taken.has(slug)) return slug;
    }
  };
  const used = pairings.map((p) => p.collection).filter((c) => c !== '');
  return (
    <Card title={starter.name}>
      <div className="grid gap-3 p-3 md:grid-cols-2">
        <div className="grid gap-1">
          <label htmlFor="left" className="font-medium text-records">
            Records are in
          </label>
          <Choice
            id="left"
            value={left}
            empty="Choose a system"
            options={all.filter((s) => s.offers.includes('records')).map((s) => ({ value: s.slug, label: s.name }))}
            onChange={(system) => {
              setLeft(system);
              setPairings([{ collection: '', calendar: '' }]);
            }}
          />
        </div>
        <div className="grid gap-1">
          <label htmlFor="right" className="font-medium text-calendar">
            Calendars are in
          </label>
          <Choice
            id="right"
            value={right}
            empty="Choose a system"
            options={all
              .filter((s) => s.offers.includes('calendars') && (!toAddress || s.kind === 'hosted'))
              .map((s) => ({ value: s.slug, label: s.name }))}
            onChange={setRight}
          />
        </div>
      </div>
      {left !== '' && right !== '' && (
        <>
          {pairings.map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a pairing is known by its place
            <div key={i} className="grid gap-3 px-3 py-1.5 md:grid-cols-2">
              <Choice
                label={`Collection ${i + 1}`}
                value={p.collection}
                empty="Choose a collection"
                options={(collections.data?.items ?? []).map((c) => ({ value: c.name, label: c.label }))}
                onChange={(collection) => put(i, { ...p, collection })}
              />
              <Choice
                label={`Calendar ${i + 1}`}
                value={p.calendar}
                empty="a new calendar of its own (the safe choice)"
                options={(calendars.data?.items ?? []).map((c) => ({ value: c.href, label: c.writable ? c.name : `${c.name} (read only)` }))}
                onChange={(calendar) => put(i, { ...p, calendar })}
              />
            </div>
          ))}
          {new Set(used).size < used.length && (
            <p className="px-3 text-failed">The same collection is chosen twice; each item would be there twice.</p>
          )}
          {begin.isError && <Failure>{reasonOf(begin.error)}</Failure>}
          <div className="flex flex-wrap gap-2 px-3 py-3">
            <Button onClick={() => begin.mutate()} disabled={begin.isPending || used.length === 0}>
              {begin.isPending ? 'Looking at the fields...' : used.length > 1 ? `Arrange ${used.length} lanes` : 'Arrange it'}
            </Button>
            <Button quiet onClick={() => setPairings((now) => [...now, { collection: '', calendar: '' }])}>
              Another collection as well
            </Button>
          </div>
        </>
      )}
      {systems.isSuccess && all.every((s) => !s.offers.includes('records')) && (
        <p className="px-3 pb-3">
          No system with records is connected yet: <Link to="/systems/new">connect one</Link>.
        </p>
      )}
    </Card>
  );
}
