import { useMutation } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { useMe } from '../may.tsx';
import { Button } from './basics.tsx';

const fields = [
  { name: 'current', label: 'Current password', complete: 'current-password' },
  { name: 'password', label: 'New password', complete: 'new-password' },
  { name: 'again', label: 'New password, again', complete: 'new-password' },
] as const;

/** Changes one's own password; the other signed-in browsers are signed out. */
export function OwnPassword({ onDone }: { onDone?: () => void }) {
  const me = useMe();
  const change = useMutation({
    mutationFn: ({ current, password, again, devices }: Record<(typeof fields)[number]['name'], string> & { devices: boolean }) => {
      if (password !== again) throw new Error('The two new passwords are not the same.');
      return client.changePassword(current, password, devices);
    },
    onSuccess: async () => {
      onDone?.();
      await queries.invalidateQueries();
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    change.mutate({
      current: String(form.get('current')),
      password: String(form.get('password')),
      again: String(form.get('again')),
      devices: form.get('devices') === 'on',
    });
  };
  return (
    <form onSubmit={submit} className="grid gap-3">
      <input type="hidden" name="username" autoComplete="username" value={me.email} readOnly />
      {fields.map(({ name, label, complete }) => (
        <label key={name} className="grid gap-1">
          {label}
          <input
            name={name}
            type="password"
            autoComplete={complete}
            required
            minLength={name === 'current' ? undefined : 12}
            className="rounded border border-line bg-paper px-2 py-1.5"
          />
        </label>
      ))}
      <p className="text-soft">At least 12 characters: three or four words that do not belong together are easy to keep and hard to guess.</p>
      <label className="flex items-start gap-2">
        <input name="devices" type="checkbox" className="mt-1" />
        <span>End the passwords of my devices, too: calendar programs need new ones then</span>
      </label>
      {change.isError && (
        <p role="alert" className="rounded bg-failed-wash px-2 py-1 text-failed">
          {reasonOf(change.error)}
        </p>
      )}
      {change.isSuccess && <p role="status">Your password is changed; your other browsers are signed out.</p>}
      <Button type="submit" disabled={change.isPending} className="justify-center">
        Change password
      </Button>
    </form>
  );
}
