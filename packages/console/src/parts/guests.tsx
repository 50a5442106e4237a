import type { GuestAnswer, GuestState } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, Reading } from './basics.tsx';
import { Choice } from './controls.tsx';

const toneOfState = (state: GuestState) =>
  state === 'doubtful' || state === 'refused' ? 'failed' : state === 'waiting' || state === 'sending' ? 'held' : 'calendar';

/** The guests of one item: the messages they got and what they replied, with what happened. */
export function GuestsOfItem({ lane, guests }: { lane: string; guests: GuestAnswer[] }) {
  if (guests.length === 0) return null;
  return (
    <Card title="Guests">
      <GuestTable lane={lane} guests={guests} withItem={false} />
    </Card>
  );
}

/** The guests of a lane, in numbers and one by one. */
export function GuestsOfLane({ lane }: { lane: string }) {
  const [state, setState] = useState<GuestState | ''>('');
  const found = useQuery({
    queryKey: ['guests', lane, state],
    queryFn: () => client.guests(lane, { ...(state === '' ? {} : { state }), limit: 200 }),
  });
  if (found.isError) return <Failure>{reasonOf(found.error)}</Failure>;
  if (found.data === undefined) return <Reading />;
  const { counts: c, items, next } = found.data;
  return (
    <Card title="Guests">
      <p className="px-3 pt-2">
        {c.guests} {c.guests === 1 ? 'guest' : 'guests'}: {c.accepted} accepted, {c.declined} declined, {c.tentative} tentative, {c.open} have not
        replied, {c.known} got no message.
        {c.waiting > 0 && ` ${c.waiting} messages wait.`}
        {c.doubtful + c.refused > 0 && (
          <span className="text-failed">
            {' '}
            {c.doubtful} doubtful, {c.refused} refused.
          </span>
        )}
      </p>
      <div className="px-3 py-2">
        <Choice
          label="Guests in state"
          value={state}
          empty="all of them"
          options={['waiting', 'sent', 'known', 'doubtful', 'refused']}
          onChange={(s) => setState(s as GuestState | '')}
        />
      </div>
      {items.length === 0 ? (
        <Empty>{state === '' ? 'No guests yet.' : 'No guests in this state.'}</Empty>
      ) : (
        <GuestTable lane={lane} guests={items} withItem />
      )}
      {next !== null && <p className="px-3 py-2 text-soft">The first {items.length} are shown.</p>}
    </Card>
  );
}

function GuestTable({ lane, guests, withItem }: { lane: string; guests: GuestAnswer[]; withItem: boolean }) {
  return (
    <table>
      <thead>
        <tr>
          {withItem && <th>Item</th>}
          <th>Guest</th>
          <th>Message</th>
          <th>Reply</th>
          <th>What happened</th>
        </tr>
      </thead>
      <tbody>
        {guests.map((g) => (
          <tr key={`${g.pair} ${g.email}`}>
            {withItem && (
              <td>
                <Link to={`/lanes/${lane}/items/${encodeURIComponent(g.item)}/${encodeURIComponent(g.moment)}`}>{g.label || g.item}</Link>
              </td>
            )}
            <th scope="row" className="break-words">
              {g.name ?? g.email}
              {g.name !== null && <span className="block font-normal text-soft">{g.email}</span>}
            </th>
            <td>
              <Message guest={g} lane={lane} />
            </td>
            <td>
              {g.reply === null ? <span className="text-soft">none yet</span> : <strong>{g.reply}</strong>}
              {g.comment !== null && <span className="block break-words text-soft">"{g.comment}"</span>}
            </td>
            <td className="text-soft">
              {g.log.map((l) => (
                <span key={`${l.at} ${l.what}`} className="block">
                  <Ago at={l.at} /> {l.what}
                  {l.detail !== '' && ` (${l.detail})`}
                </span>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Message({ guest: g, lane }: { guest: GuestAnswer; lane: string }) {
  const settle = useMutation({
    mutationFn: (as: 'sent' | 'again') => client.settleGuest(lane, g, as),
    onSuccess: () => void Promise.all([queries.invalidateQueries({ queryKey: ['guests'] }), queries.invalidateQueries({ queryKey: ['items'] })]),
  });
  const isOpen = g.state === 'doubtful' || g.state === 'refused';
  return (
    <>
      <Badge tone={toneOfState(g.state)}>{g.state}</Badge>{' '}
      {g.state === 'waiting' ? (
        <span className="text-soft">
          {g.message}, <Ago at={g.dueAt} />
        </span>
      ) : (
        g.sentAt !== null && <Ago at={g.sentAt} />
      )}
      {g.trouble !== null && <span className="block break-words text-failed">{g.trouble}</span>}
      {isOpen && (
        <span className="mt-1 flex gap-1.5">
          <Button needs="operate" onClick={() => settle.mutate('again')} disabled={settle.isPending}>
            Send again
          </Button>
          <Button needs="operate" quiet onClick={() => settle.mutate('sent')} disabled={settle.isPending}>
            Take as sent
          </Button>
        </span>
      )}
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
    </>
  );
}
