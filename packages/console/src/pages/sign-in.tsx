import { useMutation, useQuery } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { Button } from '../parts/basics.tsx';

/** Why signing in through the sign-in service failed: the address names the reason, and these are the words. */
const refusals: Record<string, string> = {
  'not-started': 'This sign-in was not started here, or too long ago. Start again.',
  'not-confirmed': 'The sign-in service did not confirm who you are. Try again.',
  'not-verified': 'The sign-in service has not verified your e-mail address.',
  disabled: 'You may no longer sign in. Ask an administrator.',
  'not-linked': 'Your account of the sign-in service is not linked to you here. An administrator can link it: People, Link.',
  'not-known': 'You were not let in yet. Ask an administrator.',
};

export function SignIn() {
  const signIn = useMutation({
    mutationFn: ({ email, password }: { email: string; password: string }) => client.signIn(email, password),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['me'] }),
  });
  const ways = useQuery({ queryKey: ['ways'], queryFn: () => client.signInWays(), staleTime: Number.POSITIVE_INFINITY });
  const refused = refusals[new URLSearchParams(location.search).get('refused') ?? ''];
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    signIn.mutate({ email: String(form.get('email')), password: String(form.get('password')) });
  };
  return (
    <main className="mx-auto mt-[14vh] w-[22rem]">
      <h1 className="mb-1 flex items-center gap-2 text-2xl font-semibold">
        <img src="/mark.svg" alt="" width="28" height="28" /> Monsoon
      </h1>
      <p className="mb-5 text-soft">Business records and calendars, telling the same story.</p>
      <form onSubmit={submit} className="grid gap-3 rounded-md border border-line bg-card p-4">
        <label className="grid gap-1">
          E-mail
          <input name="email" type="email" autoComplete="username" required className="rounded border border-line bg-paper px-2 py-1.5" />
        </label>
        <label className="grid gap-1">
          Password
          <input
            name="password"
            type="password"
            autoComplete="current-password"
            required
            className="rounded border border-line bg-paper px-2 py-1.5"
          />
        </label>
        {refused !== undefined && (
          <p role="alert" className="rounded bg-failed-wash px-2 py-1 text-failed">
            {refused}
          </p>
        )}
        {signIn.isError && (
          <p role="alert" className="rounded bg-failed-wash px-2 py-1 text-failed">
            {reasonOf(signIn.error)}
          </p>
        )}
        <Button type="submit" disabled={signIn.isPending} className="justify-center">
          Sign in
        </Button>
        {ways.data?.provider != null && (
          <a href="/sign-in/begin" className="rounded border border-line bg-card px-3 py-1 text-center font-medium hover:bg-sunk">
            Sign in with {ways.data.provider}
          </a>
        )}
      </form>
    </main>
  );
}
