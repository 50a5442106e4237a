import type { FeedAnswer, LaneAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import qrcode from 'qrcode';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, Heads } from './basics.tsx';
import { Choice, Count, Setting, Tick, Words } from './controls.tsx';
import { Dialog } from './dialog.tsx';
import { LineForm } from './line-form.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['feeds'] });

/** The properties that a feed can show beside the time, in the order in which people ask for them. */
const choosable = ['title', 'location', 'description', 'categories', 'link', 'conference', 'colour', 'status', 'organizer', 'attendees'] as const;

export const sayShows = (feed: Pick<FeedAnswer, 'shows'>): string =>
  Array.isArray(feed.shows) ? ['time', ...feed.shows].join(', ') : feed.shows === 'full' ? 'everything' : 'busy only';

function StateOf({ feed }: { feed: FeedAnswer }) {
  if (feed.revokedAt !== null) return <Badge>revoked</Badge>;
  if (feed.endsAt !== null && Date.parse(feed.endsAt) < Date.now()) return <Badge>ended</Badge>;
  if (feed.trouble !== null) return <Badge tone="failed">{feed.trouble}</Badge>;
  return feed.endsAt === null ? 'open' : `open until ${feed.endsAt.slice(0, 10)}`;
}

/** All feeds, or those of a lane. */
export function FeedList({ feeds, empty }: { feeds: FeedAnswer[]; empty: string }) {
  const [open, setOpen] = useState<string | null>(null);
  const shown = feeds.find((f) => f.slug === open) ?? null;
  if (feeds.length === 0) return <Empty>{empty}</Empty>;
  return (
    <>
      <table>
        <Heads
          of={['Name', 'Of', 'Shows', 'Events', 'State', 'Last fetched', 'Readers in 30 days']}
          right={['Events', 'Readers in 30 days']}
          actions
        />
        <tbody>
          {feeds.map((f) => (
            <tr key={f.id}>
              <td className="font-medium">{f.name}</td>
              <td>{f.lane === null ? f.calendarName : `lane ${f.lane}`}</td>
              <td>
                {sayShows(f)}
                {f.condition !== null && <span className="block text-[0.87rem] text-soft">{f.condition}</span>}
              </td>
              <td className="text-right">{f.events}</td>
              <td>
                <StateOf feed={f} />
              </td>
              <td>
                <Ago at={f.lastFetchedAt} />
              </td>
              <td className="text-right">{f.askers}</td>
              <td className="text-right">
                <Button quiet onClick={() => setOpen(f.slug)}>
                  Open
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown !== null && <FeedDialog feed={shown} onClose={() => setOpen(null)} />}
    </>
  );
}

/** Everything about one feed: its address, who fetches it, what it shows. */
function FeedDialog({ feed, onClose }: { feed: FeedAnswer; onClose: () => void }) {
  const [to, setTo] = useState('');
  const options = { onSuccess: again };
  const revoke = useMutation({ mutationFn: () => client.revokeFeed(feed.slug), ...options });
  const renew = useMutation({ mutationFn: () => client.renewFeed(feed.slug), ...options });
  const remove = useMutation({
    mutationFn: () => client.removeFeed(feed.slug),
    onSuccess: () => {
      onClose();
      return again();
    },
  });
  const change = useMutation({ mutationFn: (part: Parameters<typeof client.changeFeed>[1]) => client.changeFeed(feed.slug, part), ...options });
  const mail = useMutation({ mutationFn: () => client.mailFeed(feed.slug, to.split(/[\s,;]+/).filter(Boolean)), onSuccess: () => setTo('') });
  const failed = [revoke, renew, remove, change, mail].find((m) => m.isError);
  const picture = useQuery({
    queryKey: ['qr', feed.webcal],
    queryFn: () => qrcode.toString(feed.webcal!, { type: 'svg', margin: 1 }),
    enabled: feed.webcal !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <Dialog
      open
      onClose={onClose}
      title={feed.name}
      description={`Anyone who has the address can read ${feed.events} events: ${sayShows(feed)}.`}
      actions={
        <>
          <Button danger onClick={() => remove.mutate()}>
            Remove
          </Button>
          {feed.revokedAt === null && <Button onClick={() => revoke.mutate()}>Revoke the address</Button>}
          <Button onClick={() => renew.mutate()}>{feed.revokedAt === null ? 'Another address' : 'Give it an address again'}</Button>
        </>
      }
    >
      {failed !== undefined && <Failure>{reasonOf(failed.error)}</Failure>}
      {feed.address === null ? (
        <Empty>
          {feed.revokedAt === null ? 'Its address is shown to those who may give it away.' : 'It has no address now: the old one no longer works.'}
        </Empty>
      ) : (
        <div className="grid gap-4 p-3 md:grid-cols-[minmax(0,1fr)_9rem]">
          <div>
            <p className="font-medium">Address</p>
            <p>
              <code className="break-all">{feed.address}</code>
            </p>
            <p className="mt-1 flex flex-wrap gap-2">
              <Button onClick={() => void navigator.clipboard.writeText(feed.address ?? '')}>Copy</Button>
              <a href={feed.webcal ?? ''} className="inline-flex items-center rounded border border-line bg-card px-3 py-1 font-medium hover:bg-sunk">
                Subscribe on this device
              </a>
            </p>
            <form
              className="mt-3 flex flex-wrap items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                mail.mutate();
              }}
            >
              <Words label="Mail it to" className="w-72" place="mail it to: addresses" value={to} onChange={setTo} />
              <Button type="submit" disabled={to.trim() === '' || mail.isPending}>
                Send
              </Button>
              {mail.isSuccess && <span role="status">Sent.</span>}
            </form>
            <p className="mt-2 text-soft">
              Fetched {feed.fetches} {feed.fetches === 1 ? 'time' : 'times'}, last <Ago at={feed.lastFetchedAt} />, by {feed.askers}{' '}
              {feed.askers === 1 ? 'program' : 'programs'} in 30 days.
            </p>
          </div>
          {picture.data !== undefined && (
            <img
              alt="The address, for the camera of a telephone"
              className="w-36 bg-white"
              src={`data:image/svg+xml;utf8,${encodeURIComponent(picture.data)}`}
            />
          )}
        </div>
      )}
      <FeedSettings feed={feed} onChange={(part) => change.mutate(part)} />
    </Dialog>
  );
}

function FeedSettings({ feed, onChange }: { feed: FeedAnswer; onChange: (part: Parameters<typeof client.changeFeed>[1]) => void }) {
  const [condition, setCondition] = useState(feed.condition ?? '');
  const chosen = Array.isArray(feed.shows) ? feed.shows : null;
  return (
    <>
      <Setting label="Shows" hint="Private events always show as taken time, and no more.">
        {(id) => (
          <Choice
            id={id}
            value={chosen !== null ? 'chosen' : (feed.shows as string)}
            options={[
              { value: 'busy only', label: 'busy only' },
              { value: 'chosen', label: 'chosen properties' },
              { value: 'full', label: 'everything' },
            ]}
            onChange={(value) => onChange({ shows: value === 'chosen' ? ['title', 'location'] : (value as 'full') })}
          />
        )}
      </Setting>
      {chosen !== null && (
        <Setting label="Properties">
          {() => (
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {choosable.map((name) => (
                <Tick
                  key={name}
                  label={name}
                  checked={chosen.includes(name)}
                  onChange={(on) => onChange({ shows: on ? [...chosen, name] : chosen.filter((c) => c !== name) })}
                />
              ))}
            </div>
          )}
        </Setting>
      )}
      <Setting label="Only events with" hint="A condition such as: title contains &quot;Visit&quot;">
        {(id) => (
          <span className="flex gap-2">
            <Words id={id} value={condition} place="every event" onChange={setCondition} />
            {condition !== (feed.condition ?? '') && (
              <Button onClick={() => onChange({ condition: condition.trim() === '' ? null : condition })}>Apply</Button>
            )}
          </span>
        )}
      </Setting>
      <Setting label="Window">
        {() => (
          <span className="flex flex-wrap items-center gap-2">
            <Tick label="all times" checked={feed.window === null} onChange={(on) => onChange({ window: on ? null : { behind: 60, ahead: 400 } })} />
            {feed.window !== null && (
              <>
                <Count label="Days behind" value={feed.window.behind} onChange={(behind) => onChange({ window: { ...feed.window!, behind } })} /> days
                back to
                <Count label="Days ahead" value={feed.window.ahead} onChange={(ahead) => onChange({ window: { ...feed.window!, ahead } })} /> days
                ahead
              </>
            )}
          </span>
        )}
      </Setting>
      <Setting label="Reminders">{() => <Tick label="with reminders" checked={feed.alarms} onChange={(alarms) => onChange({ alarms })} />}</Setting>
      <Setting label="Ends" hint="From the day after, the address is unknown.">
        {(id) => (
          <input
            id={id}
            type="date"
            value={feed.endsAt?.slice(0, 10) ?? ''}
            onChange={(e) => onChange({ endsAt: e.target.value === '' ? null : e.target.value })}
            className="rounded border border-line bg-paper px-2 py-1"
          />
        )}
      </Setting>
    </>
  );
}

/** Making a feed of a lane, or of a calendar. */
export function NewFeed({
  of,
  name: given,
  onMade,
}: {
  of: { lane: string } | { system: string; calendar: string };
  name: string;
  onMade?: () => void;
}) {
  const [name, setName] = useState(given);
  const [shows, setShows] = useState('busy only');
  const make = useMutation({
    mutationFn: () => client.makeFeed({ ...of, name, shows: shows === 'chosen' ? ['title', 'location'] : (shows as 'full') }),
    onSuccess: () => {
      onMade?.();
      return again();
    },
  });
  return (
    <LineForm onSubmit={() => make.mutate()}>
      <span>A feed called</span>
      <Words label="Name of the feed" className="w-56" value={name} onChange={setName} />
      <Choice
        label="What it shows"
        value={shows}
        options={[
          { value: 'busy only', label: 'busy only' },
          { value: 'chosen', label: 'time, title and location' },
          { value: 'full', label: 'everything' },
        ]}
        onChange={setShows}
      />
      <Button type="submit" needs="operate" disabled={name.trim() === '' || make.isPending}>
        Make
      </Button>
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
    </LineForm>
  );
}

/** Where others will read what a lane that is being arranged puts on its calendar. */
export function FeedAddress({ of }: { of: string | undefined }) {
  const feeds = useQuery({ queryKey: ['feeds'], queryFn: () => client.feeds() });
  const feed = feeds.data?.items.find((f) => f.calendar === of && f.address !== null);
  if (feed === undefined) return null;
  return (
    <p className="mb-3 rounded border border-line bg-card px-3 py-2">
      Anyone who has this address can read these events ({sayShows(feed)}): <code className="break-all">{feed.address}</code>{' '}
      <Button quiet onClick={() => void navigator.clipboard.writeText(feed.address ?? '')}>
        Copy
      </Button>
    </p>
  );
}

/** The feeds that show what a lane puts on its calendar. */
export function FeedsOf({ lane }: { lane: LaneAnswer }) {
  const feeds = useQuery({ queryKey: ['feeds'], queryFn: () => client.feeds() });
  const own = (feeds.data?.items ?? []).filter(
    (f) => f.lane === lane.slug || (f.system === lane.definition.calendar.system && f.calendar === lane.definition.calendar.calendar),
  );
  return (
    <Card title="Feeds">
      <FeedList feeds={own} empty="No feed: these events have no address to subscribe to." />
      <NewFeed of={{ lane: lane.slug }} name={lane.definition.name} />
    </Card>
  );
}
