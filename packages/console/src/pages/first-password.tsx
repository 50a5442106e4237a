import { client, queries } from '../data.ts';
import { Button } from '../parts/basics.tsx';
import { OwnPassword } from '../parts/own-password.tsx';

/** Somebody else chose this person's password: they choose one of their own before anything else. */
export function FirstPassword() {
  const signOut = async () => {
    await client.signOut();
    await queries.invalidateQueries({ queryKey: ['me'] });
  };
  return (
    <main className="mx-auto mt-[10vh] w-[24rem]">
      <h1 className="mb-1 text-2xl font-semibold">Choose a password</h1>
      <p className="mb-4 text-soft">Somebody else knows the one you signed in with. Choose one of your own, then go on.</p>
      <div className="mb-3 rounded-md border border-line bg-card p-4">
        <OwnPassword />
      </div>
      <Button quiet onClick={signOut}>
        Sign out
      </Button>
    </main>
  );
}
