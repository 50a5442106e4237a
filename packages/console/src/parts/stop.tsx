import type { LaneAnswer, StopChoice } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Button, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';
import { Impossible } from './impossible.tsx';
import { Operations } from './operations.tsx';

const choices: { value: StopChoice; label: string; hint: string }[] = [
  { value: 'keep', label: 'Keep', hint: 'What it created stays, and is known as the lane’s: it can be started again.' },
  { value: 'unlink', label: 'Unlink', hint: 'What it created stays, and is left alone for good.' },
  {
    value: 'remove',
    label: 'Remove',
    hint: 'What it created is removed, unless it was edited since. The journal keeps it, so that this can be undone.',
  },
];

/** Stopping a lane: what becomes of what it made, with the numbers in the question. */
export function StopDialog({ lane, open, onClose }: { lane: LaneAnswer; open: boolean; onClose: () => void }) {
  const go = useNavigate();
  const [how, setHow] = useState<StopChoice>('keep');
  const found = useQuery({
    queryKey: ['stop', lane.slug, how],
    queryFn: () => client.foreseeStop(lane.slug, how),
    enabled: open,
    staleTime: 0,
    gcTime: 0,
  });
  const stop = useMutation({
    mutationFn: () => client.stopLane(lane.slug, how),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['lanes'] });
      onClose();
      void go(`/lanes/${lane.slug}?tab=runs`);
    },
  });
  const f = found.data;
  const numbers =
    f === undefined
      ? ''
      : how === 'keep'
        ? `keep ${f.kept}`
        : how === 'unlink'
          ? `unlink ${f.unlinked}`
          : `remove ${f.removed}, unlink ${f.unlinked}`;
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={`Stop: ${lane.definition.name}`}
      description="It does nothing any more. What should happen to what it created?"
      actions={
        <>
          <Button onClick={onClose}>Close</Button>
          <Button danger onClick={() => stop.mutate()} disabled={f === undefined || stop.isPending}>
            Stop it{numbers === '' ? '' : `: ${numbers}`}
          </Button>
        </>
      }
    >
      <fieldset className="grid gap-2 px-4 py-3">
        <legend className="sr-only">What should happen to what it created</legend>
        {choices.map((c) => (
          <label key={c.value} className="flex items-start gap-2">
            <input type="radio" name="stop" checked={how === c.value} onChange={() => setHow(c.value)} className="mt-1.5 accent-(--ink)" />
            <span>
              <strong>{c.label}.</strong> <span className="text-soft">{c.hint}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {found.isPending && <Empty>Looking at both sides...</Empty>}
      {found.isError && <Failure>{reasonOf(found.error)}</Failure>}
      {stop.isError && <Failure>{reasonOf(stop.error)}</Failure>}
      {f !== undefined && f.operations.length > 0 && (
        <Operations lines={f.operations.map((o) => ({ ...o, key: `${o.recordId ?? o.href} ${o.moment}` }))} brief={() => true} />
      )}
      <Impossible title="Stays, though the lane made it" items={f?.impossible ?? []} />
    </Dialog>
  );
}
