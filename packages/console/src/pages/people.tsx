import type { ColleagueAnswer, Role } from '@monsoon/core';
import { roles } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { useMay, useMe } from '../may.tsx';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Choice, Setting, Words } from '../parts/controls.tsx';
import { Dialog } from '../parts/dialog.tsx';
import { Keeping } from '../parts/keeping.tsx';
import { Told, Webhooks } from '../parts/told.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['people'] });
export const roleHints: Record<Role, string> = {
  viewer: 'looks',
  operator: 'also runs, pauses and settles, and changes the lanes they own',
  administrator: 'everything',
};

/** Who may sign in and what they may; tokens and signed-in browsers. */
export function People() {
  const operates = useMay('operate');
  const [adding, setAdding] = useState(false);
  return (
    <>
      <PageHead title="People and access" note="Who may sign in, and what they may. A viewer looks; an operator also runs, pauses and settles.">
        <Button needs="administer" onClick={() => setAdding(true)}>
          Let somebody in
        </Button>
      </PageHead>
      {operates && <Colleagues />}
      <Told />
      <Sessions />
      <Tokens />
      {operates && <Webhooks />}
      <Keeping />
      <AddDialog open={adding} onClose={() => setAdding(false)} />
    </>
  );
}

function Colleagues() {
  const people = useQuery({ queryKey: ['people', 'all'], queryFn: () => client.people() });
  const mayChange = useMay('administer');
  const change = useMutation({
    mutationFn: ({ email, ...rest }: { email: string; role?: Role; disabled?: boolean; unlock?: boolean }) => client.changePerson(email, rest),
    onSuccess: again,
  });
  return (
    <Card title="People">
      {people.isError && <Failure>{reasonOf(people.error)}</Failure>}
      {change.isError && <Failure>{reasonOf(change.error)}</Failure>}
      <table>
        <thead>
          <tr>
            <th>Address</th>
            <th>Name</th>
            <th>Role</th>
            <th>Owns</th>
            <th>Last seen</th>
            <th>
              <span className="sr-only">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {people.data?.items.map((p) => (
            <tr key={p.id}>
              <td className="font-medium">{p.email}</td>
              <td>{p.name}</td>
              <td>
                {mayChange ? (
                  <Choice
                    label={`Role of ${p.email}`}
                    value={p.role}
                    options={[...roles]}
                    onChange={(role) => change.mutate({ email: p.email, role: role as Role })}
                  />
                ) : (
                  p.role
                )}
              </td>
              <td>{p.lanes.join(', ')}</td>
              <td>
                <Ago at={p.lastSeenAt} />
              </td>
              <td className="text-right">
                <StateOf person={p} />{' '}
                {mayChange && p.lockedUntil !== null && (
                  <Button quiet onClick={() => change.mutate({ email: p.email, unlock: true })}>
                    Unlock
                  </Button>
                )}
                {mayChange && (
                  <Button quiet onClick={() => change.mutate({ email: p.email, disabled: !p.disabled })}>
                    {p.disabled ? 'Enable' : 'Disable'}
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}

const StateOf = ({ person }: { person: ColleagueAnswer }) =>
  person.disabled ? <Badge tone="failed">disabled</Badge> : person.lockedUntil !== null ? <Badge tone="failed">locked</Badge> : null;

function Sessions() {
  const sessions = useQuery({ queryKey: ['people', 'sessions'], queryFn: () => client.sessions() });
  const end = useMutation({ mutationFn: (id: string) => client.endSession(id), onSuccess: again });
  return (
    <Card title="Signed-in browsers">
      {end.isError && <Failure>{reasonOf(end.error)}</Failure>}
      <table>
        <thead>
          <tr>
            <th>Address</th>
            <th>Browser</th>
            <th>Began</th>
            <th>Last used</th>
            <th>
              <span className="sr-only">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {sessions.data?.items.map((s) => (
            <tr key={s.id}>
              <td className="font-medium">{s.email}</td>
              <td className="break-words text-soft">{s.agent}</td>
              <td>
                <Ago at={s.createdAt} />
              </td>
              <td>
                <Ago at={s.lastUsedAt} />
              </td>
              <td className="text-right whitespace-nowrap">
                {s.current ? (
                  <span className="text-soft">this one</span>
                ) : (
                  <Button quiet onClick={() => end.mutate(s.id)}>
                    End
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}

function Tokens() {
  const tokens = useQuery({ queryKey: ['people', 'tokens'], queryFn: () => client.tokens() });
  const me = useMe();
  const [name, setName] = useState('');
  const [may, setMay] = useState('read');
  const [days, setDays] = useState('90');
  const make = useMutation({
    mutationFn: () => client.makeToken(name, may as 'read', days === '' ? null : Number(days)),
    onSuccess: () => {
      setName('');
      return again();
    },
  });
  const withdraw = useMutation({ mutationFn: (id: string) => client.withdrawToken(id), onSuccess: again });
  return (
    <Card title="Tokens for programs">
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
      {withdraw.isError && <Failure>{reasonOf(withdraw.error)}</Failure>}
      {make.data !== undefined && (
        <p role="status" className="mx-3 mt-2 rounded bg-sunk px-3 py-2">
          Shown only now: <code className="break-all">{make.data.token}</code>
        </p>
      )}
      {tokens.data?.items.length === 0 ? (
        <Empty>No tokens. A program that uses Monsoon gets one of its own, with no more rights than it needs.</Empty>
      ) : (
        <table>
          <thead>
            <tr>
              <th>Name</th>
              <th>Of</th>
              <th>May</th>
              <th>Ends</th>
              <th>Last used</th>
              <th>
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {tokens.data?.items.map((t) => (
              <tr key={t.id}>
                <td className="font-medium">{t.name}</td>
                <td>{t.email}</td>
                <td>{t.may}</td>
                <td>
                  <Ago at={t.expiresAt} />
                </td>
                <td>
                  <Ago at={t.lastUsedAt} />
                </td>
                <td className="text-right">
                  <Button quiet onClick={() => withdraw.mutate(t.id)}>
                    Withdraw
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <form
        className="flex flex-wrap items-end gap-2 border-t border-line px-3 py-2"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <span>A token for {me.email}:</span>
        <Words label="Name of the token" className="w-48" place="what it is for" value={name} onChange={setName} />
        <Choice
          label="What it may"
          value={may}
          options={[
            { value: 'read', label: 'look' },
            { value: 'operate', label: 'run, pause, settle' },
            { value: 'write', label: 'everything you may' },
          ]}
          onChange={setMay}
        />
        <Choice
          label="How long"
          value={days}
          empty="for ever"
          options={[
            { value: '30', label: '30 days' },
            { value: '90', label: '90 days' },
            { value: '365', label: 'a year' },
          ]}
          onChange={setDays}
        />
        <Button type="submit" disabled={name.trim() === '' || make.isPending}>
          Make
        </Button>
      </form>
    </Card>
  );
}

function AddDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const empty = { email: '', name: '', role: 'operator' as Role, password: '' };
  const [given, setGiven] = useState(empty);
  const add = useMutation({
    mutationFn: () => client.addPerson({ ...given, ...(given.password === '' ? { password: undefined as never } : {}) }),
    onSuccess: async () => {
      setGiven(empty);
      onClose();
      await again();
    },
  });
  const set = (part: Partial<typeof given>) => setGiven({ ...given, ...part });
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="Let somebody in"
      description="They sign in with their address and this password, and can change it."
      actions={
        <Button onClick={() => add.mutate()} disabled={given.email === '' || given.name === '' || add.isPending}>
          Let in
        </Button>
      }
    >
      {add.isError && <Failure>{reasonOf(add.error)}</Failure>}
      <Setting label="Address">{(id) => <Words id={id} value={given.email} onChange={(email) => set({ email })} />}</Setting>
      <Setting label="Name">{(id) => <Words id={id} value={given.name} onChange={(name) => set({ name })} />}</Setting>
      <Setting label="Role" hint={roleHints[given.role]}>
        {(id) => <Choice id={id} value={given.role} options={[...roles]} onChange={(role) => set({ role: role as Role })} />}
      </Setting>
      <Setting label="Password" hint="At least 10 characters. Empty: they sign in through the sign-in service only.">
        {(id) => (
          <input
            id={id}
            type="password"
            autoComplete="new-password"
            className="w-full rounded border border-line bg-paper px-2 py-1"
            value={given.password}
            onChange={(e) => set({ password: e.target.value })}
          />
        )}
      </Setting>
    </Dialog>
  );
}
