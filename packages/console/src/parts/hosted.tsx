import type { HostedCalendarAnswer, HostedRight, Role } from '@monsoon/contract';
import { hostedRights, roles } from '@monsoon/contract/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Button, Card, Empty, Failure, Heads } from './basics.tsx';
import { Choice, Words } from './controls.tsx';
import { Dialog } from './dialog.tsx';
import { LineForm } from './line-form.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['calendars'] });

const sayRight = (c: HostedCalendarAnswer): string =>
  c.filledBy.length > 0 ? `look; the lane ${c.filledBy.join(', ')} fills it` : c.may === 'manage' ? 'read and write, and settle who else may' : c.may;

/** The calendars that Monsoon keeps itself, as far as the person may see them. */
export function HostedCalendars() {
  const calendars = useQuery({ queryKey: ['calendars', 'hosted'], queryFn: () => client.hostedCalendars() });
  const [name, setName] = useState('');
  const [colour, setColour] = useState('#0d5755');
  const [open, setOpen] = useState<string | null>(null);
  const make = useMutation({
    mutationFn: () => client.makeHostedCalendar({ name, colour }),
    onSuccess: () => {
      setName('');
      return again();
    },
  });
  const all = calendars.data?.items ?? [];
  const shown = all.find((c) => c.slug === open) ?? null;
  return (
    <Card title="Calendars of Monsoon">
      {calendars.isError && <Failure>{reasonOf(calendars.error)}</Failure>}
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
      {calendars.isSuccess && all.length === 0 ? (
        <Empty>No calendars yet. Monsoon keeps as many as you make: no calendar server is needed.</Empty>
      ) : (
        <table>
          <Heads of={['Name', 'Items', 'Whose', 'You may', 'Address for calendar programs']} right={['Items']} actions />
          <tbody>
            {all.map((c) => (
              <tr key={c.id}>
                <td className="font-medium">
                  <span aria-hidden className="mr-2 inline-block size-3 align-baseline" style={{ background: c.colour ?? 'var(--line)' }} />
                  <Link to={`/calendar?of=${encodeURIComponent(`calendar|hosted|${c.href}`)}`}>{c.name}</Link>
                </td>
                <td className="text-right">{c.items}</td>
                <td>{c.owner ?? 'a lane'}</td>
                <td>{sayRight(c)}</td>
                <td>
                  <code className="break-all">{c.address}</code>
                </td>
                <td className="text-right">
                  {c.may === 'manage' && (
                    <Button quiet onClick={() => setOpen(c.slug)}>
                      Change
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <LineForm onSubmit={() => make.mutate()}>
        <span>A new calendar:</span>
        <Words label="Name of the calendar" className="w-56" place="its name" value={name} onChange={setName} />
        <input
          type="color"
          aria-label="Colour"
          value={colour}
          onChange={(e) => setColour(e.target.value)}
          className="h-8 w-10 rounded border border-line bg-paper"
        />
        <Button type="submit" needs="operate" disabled={name.trim() === '' || make.isPending}>
          Make
        </Button>
      </LineForm>
      {shown !== null && <CalendarDialog calendar={shown} onClose={() => setOpen(null)} />}
    </Card>
  );
}

/** Name and colour, and who may do what. */
function CalendarDialog({ calendar, onClose }: { calendar: HostedCalendarAnswer; onClose: () => void }) {
  const [who, setWho] = useState('');
  const [may, setMay] = useState<HostedRight>('read');
  const [name, setName] = useState(calendar.name);
  const people = useQuery({ queryKey: ['people', 'all'], queryFn: () => client.people(), retry: false });
  const share = useMutation({
    mutationFn: (rights: Parameters<typeof client.shareHostedCalendar>[1]) => client.shareHostedCalendar(calendar.slug, rights),
    onSuccess: again,
  });
  const change = useMutation({
    mutationFn: (part: { name?: string; colour?: string }) => client.changeHostedCalendar(calendar.slug, part),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: () => client.removeHostedCalendar(calendar.slug),
    onSuccess: () => {
      onClose();
      return again();
    },
  });
  const failed = [share, change, remove].find((m) => m.isError);
  const rights = calendar.rights.map((r) => ({ person: r.person, role: r.role as Role | null, may: r.may as HostedRight }));
  const others = rights.filter((r) => (r.person ?? r.role) !== who);
  const isRole = (roles as readonly string[]).includes(who);
  return (
    <Dialog
      open
      onClose={onClose}
      title={calendar.name}
      description="What is said of a person goes before what is said of their role. Whose it is, and administrators, read and write unless it is said otherwise; no one else sees it."
      actions={
        <Button danger onClick={() => remove.mutate()} disabled={remove.isPending}>
          Remove it with its {calendar.items} items
        </Button>
      }
    >
      {failed !== undefined && <Failure>{reasonOf(failed.error)}</Failure>}
      <div className="flex flex-wrap items-end gap-2 px-3 py-2">
        <Words label="Name" className="w-64" value={name} onChange={setName} />
        <Button onClick={() => change.mutate({ name })} disabled={name.trim() === '' || name === calendar.name}>
          Rename
        </Button>
        <input
          type="color"
          aria-label="Colour"
          value={calendar.colour ?? '#888888'}
          onChange={(e) => change.mutate({ colour: e.target.value })}
          className="h-8 w-10 rounded border border-line bg-paper"
        />
      </div>
      {rights.length === 0 ? (
        <Empty>Nothing is said of anybody yet.</Empty>
      ) : (
        <table>
          <Heads of={['Who', 'May']} actions />
          <tbody>
            {rights.map((r) => (
              <tr key={r.person ?? r.role}>
                <td>{r.person ?? `everybody who is ${r.role}`}</td>
                <td>{r.may}</td>
                <td className="text-right">
                  <Button quiet onClick={() => share.mutate(rights.filter((o) => o !== r))}>
                    Take away
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <LineForm onSubmit={() => share.mutate([...others, { person: isRole ? null : who, role: isRole ? (who as Role) : null, may }])}>
        <Choice
          label="Who"
          value={who}
          empty="Who?"
          options={[
            ...roles.map((r) => ({ value: r as string, label: `everybody who is ${r}` })),
            ...(people.data?.items ?? []).map((p) => ({ value: p.email, label: p.email })),
          ]}
          onChange={setWho}
        />
        <Choice label="May" value={may} options={[...hostedRights]} onChange={(value) => setMay(value as HostedRight)} />
        <Button type="submit" disabled={who === '' || share.isPending}>
          Say so
        </Button>
      </LineForm>
    </Dialog>
  );
}

/** The person's own devices, each with a password of its own. */
export function Devices() {
  const devices = useQuery({ queryKey: ['calendars', 'devices'], queryFn: () => client.devices() });
  const [name, setName] = useState('');
  const add = useMutation({
    mutationFn: () => client.addDevice(name),
    onSuccess: () => {
      setName('');
      return again();
    },
  });
  const withdraw = useMutation({ mutationFn: (id: string) => client.withdrawDevice(id), onSuccess: again });
  const made = add.data;
  return (
    <Card title="Your devices">
      {add.isError && <Failure>{reasonOf(add.error)}</Failure>}
      {withdraw.isError && <Failure>{reasonOf(withdraw.error)}</Failure>}
      {made !== undefined && (
        <div role="status" className="m-3 rounded bg-sunk px-3 py-2">
          <p>In the calendar program on {made.name}, add a CalDAV account. The password is shown only now.</p>
          <dl className="grid grid-cols-[6rem_minmax(0,1fr)]">
            <dt>Address</dt>
            <dd>
              <code className="break-all">{made.address}</code>
            </dd>
            <dt>User</dt>
            <dd>
              <code>{made.user}</code>
            </dd>
            <dt>Password</dt>
            <dd>
              <code>{made.password}</code>
            </dd>
          </dl>
        </div>
      )}
      {devices.data?.items.length === 0 ? (
        <Empty>No devices. Each telephone or computer that shows these calendars gets a password of its own.</Empty>
      ) : (
        <table>
          <Heads of={['Device', 'Made', 'Last used', 'By']} actions />
          <tbody>
            {devices.data?.items.map((d) => (
              <tr key={d.id}>
                <td className="font-medium">{d.name}</td>
                <td>
                  <Ago at={d.createdAt} />
                </td>
                <td>
                  <Ago at={d.lastUsedAt} />
                </td>
                <td className="break-words text-soft">{d.agent}</td>
                <td className="text-right">
                  <Button quiet onClick={() => withdraw.mutate(d.id)}>
                    Withdraw
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <LineForm onSubmit={() => add.mutate()}>
        <span>A password for</span>
        <Words label="Name of the device" className="w-56" place="my telephone" value={name} onChange={setName} />
        <Button type="submit" disabled={name.trim() === '' || add.isPending}>
          Make
        </Button>
      </LineForm>
    </Card>
  );
}
