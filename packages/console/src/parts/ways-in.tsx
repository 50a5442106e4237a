import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { useMe } from '../may.tsx';
import { Ago, Button, Card, Empty, Failure, Heads } from './basics.tsx';
import { Choice, Words } from './controls.tsx';
import { LineForm } from './line-form.tsx';

const again = () => queries.invalidateQueries({ queryKey: ['people'] });

/** Signed-in browsers: one's own, and for an administrator everybody's. */
export function Sessions() {
  const sessions = useQuery({ queryKey: ['people', 'sessions'], queryFn: () => client.sessions() });
  const end = useMutation({ mutationFn: (id: string) => client.endSession(id), onSuccess: again });
  return (
    <Card title="Signed-in browsers">
      {end.isError && <Failure>{reasonOf(end.error)}</Failure>}
      <table>
        <Heads of={['Address', 'Browser', 'Began', 'Last used']} actions />
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

/** Tokens for programs. */
export function Tokens() {
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
          <Heads of={['Name', 'Of', 'May', 'Ends', 'Last used']} actions />
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
      <LineForm onSubmit={() => make.mutate()}>
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
      </LineForm>
    </Card>
  );
}
