import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, reasonOf } from '../data.ts';
import { Card, Failure, PageHead } from '../parts/basics.tsx';
import { Choice } from '../parts/controls.tsx';
import { FeedList, NewFeed } from '../parts/feeds.tsx';
import { Devices, HostedCalendars } from '../parts/hosted.tsx';

/** What others can see: feeds, the calendars that Monsoon keeps, and the devices that come to them. */
export function Feeds() {
  const feeds = useQuery({ queryKey: ['feeds'], queryFn: () => client.feeds() });
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes() });
  const hosted = useQuery({ queryKey: ['calendars', 'hosted'], queryFn: () => client.hostedCalendars() });
  const [of, setOf] = useState('');
  const [kind, name = ''] = of.split('|');
  const label =
    kind === 'lane' ? lanes.data?.items.find((l) => l.slug === name)?.definition.name : hosted.data?.items.find((c) => c.href === name)?.name;
  return (
    <>
      <PageHead
        title="Feeds and calendars"
        note="A feed is a secret address: anyone who has it can read a calendar, and nothing else. The calendars of Monsoon are read and edited with any calendar program."
      />
      <Card title="Feeds">
        {feeds.isError && <Failure>{reasonOf(feeds.error)}</Failure>}
        {feeds.isSuccess && <FeedList feeds={feeds.data.items} empty="No feeds yet. Choose below what others may read at an address of its own." />}
        <div className="flex flex-wrap items-center gap-2 border-t border-line px-3 py-2">
          <Choice
            label="Of what"
            value={of}
            empty="A feed of..."
            options={[
              ...(lanes.data?.items ?? []).map((l) => ({ value: `lane|${l.slug}`, label: `the lane ${l.definition.name}` })),
              ...(hosted.data?.items ?? []).map((c) => ({ value: `calendar|${c.href}`, label: `the calendar ${c.name}` })),
            ]}
            onChange={setOf}
          />
        </div>
        {of !== '' && (
          <NewFeed
            key={of}
            of={kind === 'lane' ? { lane: name } : { system: 'hosted', calendar: name }}
            name={label ?? ''}
            onMade={() => setOf('')}
          />
        )}
      </Card>
      <HostedCalendars />
      <Devices />
    </>
  );
}
