import type { PausedAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Button, Failure } from './basics.tsx';
import { Setting, Words } from './controls.tsx';
import { Dialog } from './dialog.tsx';

const again = () => queries.invalidateQueries();
export const usePaused = (): PausedAnswer | null => useQuery({ queryKey: ['paused'], queryFn: () => client.paused() }).data ?? null;

/** On every page, while everything is paused: by whom, why, and the way out. */
export function PausedBar() {
  const paused = usePaused();
  const resume = useMutation({ mutationFn: () => client.resumeEverything(), onSuccess: again });
  if (paused === null) return null;
  return (
    <div role="status" className="border-b border-failed bg-failed-wash text-failed">
      <div className="mx-auto flex max-w-[84rem] flex-wrap items-center gap-3 px-5 py-2">
        <strong>Everything is paused</strong>
        <span>
          <Ago at={paused.at} />, by {paused.by}: {paused.why}
        </span>
        <Button needs="operate" className="ml-auto" onClick={() => resume.mutate()} disabled={resume.isPending}>
          Resume everything
        </Button>
        {resume.isError && <Failure>{reasonOf(resume.error)}</Failure>}
      </div>
    </div>
  );
}

/** The red switch. */
export function PauseEverything() {
  const paused = usePaused();
  const [open, setOpen] = useState(false);
  const [why, setWhy] = useState('');
  const pause = useMutation({
    mutationFn: () => client.pauseEverything(why),
    onSuccess: async () => {
      setOpen(false);
      setWhy('');
      await again();
    },
  });
  if (paused !== null) return null;
  return (
    <>
      <Button danger needs="operate" onClick={() => setOpen(true)}>
        Pause everything
      </Button>
      <Dialog
        open={open}
        onClose={() => setOpen(false)}
        title="Pause everything"
        description="Every run stops after the items it has at hand, and no lane writes anything until somebody resumes. Nothing is lost: what changes meanwhile crosses then."
        actions={
          <Button danger onClick={() => pause.mutate()} disabled={why.trim() === '' || pause.isPending}>
            Pause everything now
          </Button>
        }
      >
        {pause.isError && <Failure>{reasonOf(pause.error)}</Failure>}
        <Setting label="Why" hint="For those who find everything paused.">
          {(id) => <Words id={id} value={why} onChange={setWhy} />}
        </Setting>
      </Dialog>
    </>
  );
}
