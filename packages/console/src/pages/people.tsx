import type { ColleagueAnswer, Role } from '@monsoon/contract';
import { roles } from '@monsoon/contract/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { useMay } from '../may.tsx';
import { Ago, Badge, Button, Card, Failure, PageHead } from '../parts/basics.tsx';
import { Choice, Setting, Words } from '../parts/controls.tsx';
import { Dialog } from '../parts/dialog.tsx';
import { Keeping } from '../parts/keeping.tsx';
import { Notifications, Webhooks } from '../parts/notifications.tsx';
import { OwnPassword } from '../parts/own-password.tsx';
import { type Column, useSorted } from '../parts/sorted.tsx';
import { Sessions, Tokens } from '../parts/ways-in.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['people'] });
const roleHints: Record<Role, string> = {
  viewer: 'looks',
  operator: 'also runs, pauses and settles, and changes the lanes they own',
  administrator: 'everything',
};

/** Who may sign in and what they may; tokens and signed-in browsers. */
export function People() {
  const operates = useMay('operate');
  const [adding, setAdding] = useState(false);
  const [changing, setChanging] = useState(false);
  return (
    <>
      <PageHead title="People and access" note="Who may sign in, and what they may. A viewer looks; an operator also runs, pauses and settles.">
        <Button quiet onClick={() => setChanging(true)}>
          Change your password
        </Button>
        <Button needs="administer" onClick={() => setAdding(true)}>
          Let somebody in
        </Button>
      </PageHead>
      {operates && <Colleagues />}
      <Notifications />
      <Sessions />
      <Tokens />
      {operates && <Webhooks />}
      <Keeping />
      <Dialog
        open={changing}
        title="Change your password"
        description="Your other signed-in browsers are signed out; tokens stay."
        onClose={() => setChanging(false)}
      >
        <div className="max-w-md p-4">
          <OwnPassword />
        </div>
      </Dialog>
      <AddDialog open={adding} onClose={() => setAdding(false)} />
    </>
  );
}

const columns: Column<ColleagueAnswer>[] = [
  { name: 'Address', by: (p) => p.email },
  { name: 'Name', by: (p) => p.name },
  { name: 'Role', by: (p) => p.role },
  { name: 'Owns', by: (p) => p.lanes.length },
  { name: 'Last seen', by: (p) => p.lastSeenAt },
];

function Colleagues() {
  const people = useQuery({ queryKey: ['people', 'all'], queryFn: () => client.people() });
  const { rows, heads } = useSorted(people.data?.items ?? [], columns, true);
  const mayChange = useMay('administer');
  const ways = useQuery({ queryKey: ['sign-in-ways'], queryFn: () => client.signInWays() });
  const [linking, setLinking] = useState<string | null>(null);
  const change = useMutation({
    mutationFn: ({ email, ...rest }: { email: string; role?: Role; disabled?: boolean; unlock?: boolean; provider?: true }) =>
      client.changePerson(email, rest),
    onSuccess: again,
  });
  return (
    <Card title="People">
      {people.isError && <Failure>{reasonOf(people.error)}</Failure>}
      {change.isError && <Failure>{reasonOf(change.error)}</Failure>}
      <table>
        {heads}
        <tbody>
          {rows.map((p) => (
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
                {mayChange && p.password && ways.data?.provider != null && (
                  <Button quiet onClick={() => setLinking(p.email)}>
                    Link...
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
      <Dialog
        open={linking !== null}
        onClose={() => setLinking(null)}
        title={`Link ${linking ?? ''}`}
        description="Their sign-in is handed over to the sign-in service."
        actions={
          <Button
            onClick={() => {
              change.mutate({ email: linking!, provider: true });
              setLinking(null);
            }}
          >
            Link
          </Button>
        }
      >
        <p className="px-4 py-3">
          They sign in through {ways.data?.provider} from now on. Their password and sessions end; their next sign-in there links the account.
        </p>
      </Dialog>
    </Card>
  );
}

const StateOf = ({ person }: { person: ColleagueAnswer }) =>
  person.disabled ? <Badge tone="failed">disabled</Badge> : person.lockedUntil !== null ? <Badge tone="failed">locked</Badge> : null;

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
