import type { CollectionAnswer, SystemAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { Badge, Button, Card, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';

/** What a system holds: collections with their fields, calendars with their colours. */
export function Holdings({ system }: { system: SystemAnswer }) {
  const holds = (what: SystemAnswer['offers'][number]) => system.offers.includes(what);
  const collections = useQuery({
    queryKey: ['held', system.slug, 'collections'],
    queryFn: () => client.collections(system.slug),
    enabled: holds('records'),
    retry: false,
  });
  const calendars = useQuery({
    queryKey: ['held', system.slug, 'calendars'],
    queryFn: () => client.calendars(system.slug),
    enabled: holds('calendars'),
    retry: false,
  });
  const make = useMutation({ mutationFn: (name: string) => client.makeCalendar(system.slug, name, '#12706d'), onSuccess: () => calendars.refetch() });
  const mail = useMutation({ mutationFn: (to: string) => client.tryMail(system.slug, to) });
  const field = 'rounded border border-line bg-paper px-2 py-1';
  return (
    <>
      {holds('calendars') && (
        <Card title="Calendars">
          {calendars.isError && <Failure>{reasonOf(calendars.error)}</Failure>}
          {calendars.data?.items.length === 0 && <Empty>None yet.</Empty>}
          <table>
            <tbody>
              {calendars.data?.items.map((c) => (
                <tr key={c.href}>
                  <td className="w-8">
                    <span className="inline-block size-3 rounded-full border border-line" style={{ background: c.colour ?? 'transparent' }} />
                  </td>
                  <td className="font-medium">{c.name}</td>
                  <td className="break-all text-soft">{c.href}</td>
                  <td>{c.writable ? '' : <Badge>read only</Badge>}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {system.kind === 'caldav' && (
            <form
              className="flex items-end gap-2 px-3 py-3"
              onSubmit={(event) => {
                event.preventDefault();
                make.mutate(String(new FormData(event.currentTarget).get('name')));
                event.currentTarget.reset();
              }}
            >
              <label className="grid gap-1">
                New calendar
                <input name="name" required maxLength={200} className={field} />
              </label>
              <Button type="submit" needs="administer" disabled={make.isPending}>
                Make it
              </Button>
            </form>
          )}
          {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
        </Card>
      )}
      {holds('records') && (
        <Card title="Collections">
          {collections.isError && <Failure>{reasonOf(collections.error)}</Failure>}
          {collections.data?.items.length === 0 && <Empty>None found.</Empty>}
          {collections.data?.items.map((c) => (
            <CollectionLine key={c.name} system={system} collection={c} />
          ))}
        </Card>
      )}
      {holds('mail') && (
        <Card title="Mail">
          <form
            className="flex items-end gap-2 px-3 py-3"
            onSubmit={(event) => {
              event.preventDefault();
              mail.mutate(String(new FormData(event.currentTarget).get('to')));
            }}
          >
            <label className="grid gap-1">
              Send a mail for trying to
              <input name="to" type="email" required className={field} />
            </label>
            <Button type="submit" needs="administer" disabled={mail.isPending}>
              Send it
            </Button>
            {mail.isSuccess && <span className="pb-1 text-soft">It was handed over.</span>}
          </form>
          {mail.isError && <Failure>{reasonOf(mail.error)}</Failure>}
        </Card>
      )}
    </>
  );
}

function CollectionLine({ system, collection }: { system: SystemAnswer; collection: CollectionAnswer }) {
  const [tracking, setTracking] = useState(false);
  const { may } = collection;
  const writes = [may.create && 'create', may.change && 'change', may.remove && 'remove'].filter((w) => w !== false);
  return (
    <details className="border-b border-line px-3 py-1.5 last:border-0">
      <summary>
        <Badge tone="records">{collection.label}</Badge>{' '}
        <span className="text-soft">{collection.name === collection.label ? '' : `${collection.name}, `}</span>
        {collection.fields.length} fields, {writes.length === 0 ? 'read only' : `may ${writes.join(', ')}`}
      </summary>
      <table className="my-1">
        <tbody>
          {collection.fields.map((f) => (
            <tr key={f.name}>
              <td className="font-medium">{f.label}</td>
              <td className="text-soft">{f.name}</td>
              <td>{f.unit === undefined ? f.type : `${f.type} in ${f.unit}`}</td>
              <td className="text-soft">{f.readOnly === true ? 'read only' : ''}</td>
              <td className="text-soft">{f.choices?.join(', ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {system.kind === 'postgresql' && <Button onClick={() => setTracking(true)}>How changes are detected</Button>}
      {tracking && <TrackingDialog system={system} collection={collection} onClose={() => setTracking(false)} />}
    </details>
  );
}

/** The statements are read before they are carried out. */
function TrackingDialog({ system, collection, onClose }: { system: SystemAnswer; collection: CollectionAnswer; onClose: () => void }) {
  const key = ['tracking', system.slug, collection.name];
  const tracking = useQuery({ queryKey: key, queryFn: () => client.tracking(system.slug, collection.name), retry: false });
  const track = useMutation({
    mutationFn: (on: boolean) => client.track(system.slug, collection.name, on),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const { data } = tracking;
  const installed = data?.state === 'installed';
  return (
    <Dialog
      open
      onClose={onClose}
      title={`How changes of ${collection.label} are detected`}
      description={data === undefined ? '' : `Now by ${data.now}.`}
      actions={
        <>
          {data !== undefined && data.state !== null && (
            <Button danger={installed} needs="administer" disabled={track.isPending} onClick={() => track.mutate(!installed)}>
              {installed ? 'Take the triggers away' : 'Install the triggers'}
            </Button>
          )}
          <Button onClick={onClose}>Close</Button>
        </>
      }
    >
      {tracking.isError && <Failure>{reasonOf(tracking.error)}</Failure>}
      {track.isError && <Failure>{reasonOf(track.error)}</Failure>}
      {data?.state === null && (
        <Empty>Nothing can be put in place on a view. Put triggers on its tables, or name a column that every change moves on.</Empty>
      )}
      {data !== undefined && data.state !== null && (
        <>
          <Empty>
            {installed
              ? 'These statements take it away:'
              : 'With these statements changes are notified at once. Press the button, or give them to the database administrator.'}
          </Empty>
          <pre className="mx-4 mb-4 overflow-auto rounded bg-sunk p-3 text-[0.87rem]">{installed ? data.uninstall : data.install}</pre>
        </>
      )}
    </Dialog>
  );
}
