import type { SystemAnswer } from '@monsoon/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead, toneOf } from '../parts/basics.tsx';
import { Dialog } from '../parts/dialog.tsx';

export function Systems() {
  const systems = useQuery({ queryKey: ['systems'], queryFn: () => client.systems() });
  const [checked, setChecked] = useState<SystemAnswer | null>(null);
  return (
    <>
      <PageHead title="Systems" note="Outside programs that Monsoon holds an address and credentials for." />
      {systems.isError && <Failure>{reasonOf(systems.error)}</Failure>}
      {systems.data !== undefined && (
        <Card>
          {systems.data.items.length === 0 ? (
            <Empty>
              No system is connected. Connect one: <code>monsoon systems connect -f FILE</code>
            </Empty>
          ) : (
            <table>
              <thead>
                <tr>
                  <th>System</th>
                  <th>Holds</th>
                  <th>Address</th>
                  <th>Push</th>
                  <th>Health</th>
                  <th>Lanes</th>
                  <th>
                    <span className="sr-only">Actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {systems.data.items.map((s) => (
                  <tr key={s.id}>
                    <td className="font-medium">{s.name}</td>
                    <td>
                      {s.offers.map((o) => (
                        <Badge key={o} tone={o === 'records' ? 'records' : 'calendar'}>
                          {o}
                        </Badge>
                      ))}
                    </td>
                    <td className="break-all text-soft">{s.address}</td>
                    <td>{s.push ? 'yes' : 'no'}</td>
                    <td>
                      {s.health.state === 'failing' ? <Badge tone={toneOf(s.health.state)}>{s.health.state}</Badge> : s.health.state}{' '}
                      <span className="text-soft">{s.health.state === 'failing' ? s.health.detail : <Ago at={s.health.at} none="" />}</span>
                    </td>
                    <td>
                      {s.lanes.map((l) => (
                        <Link key={l} to={`/lanes/${l}`} className="mr-2">
                          {l}
                        </Link>
                      ))}
                    </td>
                    <td className="text-right">
                      <Button onClick={() => setChecked(s)} aria-label={`Check ${s.name}`}>
                        Check
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Card>
      )}
      {checked !== null && <CheckDialog system={checked} onClose={() => setChecked(null)} />}
    </>
  );
}

function CheckDialog({ system, onClose }: { system: SystemAnswer; onClose: () => void }) {
  const check = useQuery({ queryKey: ['check', system.slug], queryFn: () => client.checkSystem(system.slug), staleTime: 0, gcTime: 0, retry: false });
  const details = useQuery({
    queryKey: ['held', system.slug],
    queryFn: async () => ({ collections: (await client.collections(system.slug)).items, calendars: (await client.calendars(system.slug)).items }),
    enabled: check.data?.ok === true,
  });
  const make = useMutation({ mutationFn: (name: string) => client.makeCalendar(system.slug, name, '#12706d'), onSuccess: () => details.refetch() });
  return (
    <Dialog open onClose={onClose} title={`Check: ${system.name}`} description={system.address} actions={<Button onClick={onClose}>Close</Button>}>
      {check.isPending && <Empty>Asking...</Empty>}
      {check.isError && <Failure>{reasonOf(check.error)}</Failure>}
      {check.data !== undefined && (
        <table>
          <tbody>
            {check.data.steps.map((s) => (
              <tr key={s.name}>
                <td className="w-24">{s.outcome === 'failed' ? <Badge tone="failed">failed</Badge> : s.outcome}</td>
                <td className="w-48 font-medium">{s.name}</td>
                <td>{s.detail}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {details.data?.calendars.map((c) => (
        <p key={c.href} className="px-4 py-1">
          <Badge tone="calendar">{c.name}</Badge> <span className="text-soft">{c.href}</span>
        </p>
      ))}
      {details.data?.collections.map((c) => (
        <details key={c.name} className="px-4 py-1">
          <summary>
            <Badge tone="records">{c.label}</Badge> <span className="text-soft">{c.fields.length} fields</span>
          </summary>
          <p className="py-1 text-soft">{c.fields.map((f) => `${f.label} (${f.type})`).join(', ')}</p>
        </details>
      ))}
      {system.offers.includes('calendars') && details.data !== undefined && (
        <form
          className="flex items-end gap-2 px-4 py-3"
          onSubmit={(event) => {
            event.preventDefault();
            make.mutate(String(new FormData(event.currentTarget).get('name')));
          }}
        >
          <label className="grid gap-1">
            New calendar
            <input name="name" required maxLength={200} className="rounded border border-line bg-paper px-2 py-1" />
          </label>
          <Button type="submit" disabled={make.isPending}>
            Make it
          </Button>
        </form>
      )}
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
    </Dialog>
  );
}
