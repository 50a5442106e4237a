import type { NotificationSettings, Occasion } from '@monsoon/contract';
import { occasions } from '@monsoon/contract/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { useMay } from '../may.tsx';
import { Ago, Button, Card, Empty, Failure, Heads } from './basics.tsx';
import { Choice, Setting, Tick, Words } from './controls.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['people'] });

/** What the person is notified of by mail, and when the digest comes. */
export function Notifications() {
  const wanted = useQuery({ queryKey: ['people', 'notifications'], queryFn: () => client.notifications() });
  const save = useMutation({ mutationFn: (next: NotificationSettings) => client.setNotifications(next), onSuccess: again });
  const now = save.variables !== undefined && save.isPending ? save.variables : wanted.data;
  if (now === undefined) return null;
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const toggle = (o: Occasion, yes: boolean) =>
    save.mutate({ ...now, occasions: yes ? [...now.occasions, o] : now.occasions.filter((x) => x !== o) });
  return (
    <Card title="Your notifications by mail">
      {save.isError && <Failure>{reasonOf(save.error)}</Failure>}
      <Setting label="At once, when" hint="One mail for each cause; several at a time come in one.">
        {(id) => (
          <span id={id} className="flex flex-wrap gap-4 pt-1">
            {occasions.map((o) => (
              <Tick key={o} label={o} checked={now.occasions.includes(o)} onChange={(yes) => toggle(o, yes)} />
            ))}
          </span>
        )}
      </Setting>
      <Setting label="Daily digest" hint="What crossed, what waits, and today's events.">
        {(id) => (
          <span className="flex flex-wrap items-center gap-2">
            <Choice
              id={id}
              value={now.digest === null ? '' : String(now.digest.hour)}
              empty="none"
              options={Array.from({ length: 24 }, (_, h) => ({ value: String(h), label: `${String(h).padStart(2, '0')}:00` }))}
              onChange={(hour) => save.mutate({ ...now, digest: hour === '' ? null : { hour: Number(hour), zone: now.digest?.zone ?? zone } })}
            />
            {now.digest !== null && <span className="text-soft">by the clock of {now.digest.zone}</span>}
          </span>
        )}
      </Setting>
    </Card>
  );
}

/** Other programs that are notified. */
export function Webhooks() {
  const mayChange = useMay('administer');
  const hooks = useQuery({ queryKey: ['people', 'webhooks'], queryFn: () => client.webhooks() });
  const [given, setGiven] = useState({ name: '', url: '' });
  const add = useMutation({
    mutationFn: () => client.addWebhook({ ...given, occasions: [...occasions] }),
    onSuccess: () => {
      setGiven({ name: '', url: '' });
      return again();
    },
  });
  const test = useMutation({ mutationFn: (id: string) => client.testWebhook(id), onSettled: again });
  const remove = useMutation({ mutationFn: (id: string) => client.removeWebhook(id), onSuccess: again });
  return (
    <Card title="Webhooks to other programs">
      {[add, test, remove].map((m, i) => m.isError && <Failure key={String(i)}>{reasonOf(m.error)}</Failure>)}
      {add.data !== undefined && (
        <p role="status" className="mx-3 mt-2 rounded bg-sunk px-3 py-2">
          The secret to check signatures with, shown only now: <code className="break-all">{add.data.secret}</code>
        </p>
      )}
      {hooks.data?.items.length === 0 ? (
        <Empty>None. A chat or a pager can be notified with signed webhooks (Standard Webhooks).</Empty>
      ) : (
        <table>
          <Heads of={['Name', 'Address', 'Of', 'Last']} actions />
          <tbody>
            {hooks.data?.items.map((h) => (
              <tr key={h.id}>
                <td className="font-medium">{h.name}</td>
                <td className="break-all text-soft">{h.url}</td>
                <td>{h.occasions.join(', ')}</td>
                <td>
                  <Ago at={h.lastAt} /> {h.lastOutcome}
                </td>
                <td className="text-right whitespace-nowrap">
                  <Button quiet needs="administer" onClick={() => test.mutate(h.id)}>
                    Test
                  </Button>
                  <Button quiet needs="administer" onClick={() => remove.mutate(h.id)}>
                    Remove
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayChange && (
        <form
          className="flex flex-wrap items-end gap-2 border-t border-line px-3 py-2"
          onSubmit={(e) => {
            e.preventDefault();
            add.mutate();
          }}
        >
          <Words
            label="Name of the webhook"
            className="w-48"
            place="such as on-call chat"
            value={given.name}
            onChange={(name) => setGiven({ ...given, name })}
          />
          <Words label="Its address" className="w-96" place="https://" value={given.url} onChange={(url) => setGiven({ ...given, url })} />
          <Button type="submit" disabled={given.name === '' || given.url === '' || add.isPending}>
            Add
          </Button>
        </form>
      )}
    </Card>
  );
}
