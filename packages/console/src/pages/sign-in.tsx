import { useMutation } from '@tanstack/react-query';
import type { FormEvent } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { Button } from '../parts/basics.tsx';

export function SignIn() {
  const signIn = useMutation({
    mutationFn: ({ email, password }: { email: string; password: string }) => client.signIn(email, password),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['me'] }),
  });
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
        {signIn.isError && (
          <p role="alert" className="rounded bg-failed-wash px-2 py-1 text-failed">
            {reasonOf(signIn.error)}
          </p>
        )}
        <Button type="submit" disabled={signIn.isPending} className="justify-center">
          Sign in
        </Button>
      </form>
    </main>
  );
}
