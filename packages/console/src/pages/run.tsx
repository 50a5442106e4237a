import { sayCounts, sayLeft } from '@monsoon/contract/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead, Reading, toneOf } from '../parts/basics.tsx';
import { itemPath, Operations } from '../parts/operations.tsx';
import { UndoDialog } from '../parts/undo.tsx';

/** One run: its progress while it works, and every operation with its cause. */
export function Run() {
  const id = useParams()['run']!;
  const navigate = useNavigate();
  const run = useQuery({ queryKey: ['runs', 'one', id], queryFn: () => client.oneRun(id) });
  const journal = useQuery({ queryKey: ['journal', id], queryFn: () => client.journal({ run: id, limit: 200 }) });
  const release = useMutation({ mutationFn: () => client.release(id), onSuccess: (made) => void navigate(`/runs/${made.id}`) });
  const [undoing, setUndoing] = useState(false);
  const undo = useMutation({ mutationFn: () => client.undo({ run: id }), onSuccess: (made) => void navigate(`/runs/${made.id}`) });
  if (run.isError) return <Failure>{reasonOf(run.error)}</Failure>;
  if (run.data === undefined) return <Reading />;
  const r = run.data;
  return (
    <>
      <PageHead
        title={`Run of ${r.laneName}`}
        note={
          <>
            <Link to={`/lanes/${r.lane}`}>The lane</Link>; began <Ago at={r.startedAt} none="not yet" />, cause: {r.cause}, read:{' '}
            {r.scope || 'not yet'}; version {r.laneVersion}
          </>
        }
      >
        <a
          href={`/api/v1/journal/export?run=${r.id}&format=csv`}
          className="inline-flex items-center rounded border border-line bg-card px-3 py-1 font-medium hover:bg-sunk"
          download
        >
          CSV
        </a>
        {r.state === 'done' && r.counts.created + r.counts.changed + r.counts.removed + r.counts.adopted > 0 && (
          <Button needs="operate" onClick={() => setUndoing(true)}>
            Undo...
          </Button>
        )}
        {r.state === 'held' && (
          <Button danger needs="operate" onClick={() => release.mutate()} disabled={release.isPending}>
            Let it through: {r.reason}
          </Button>
        )}
      </PageHead>
      {undo.isError && <Failure>{reasonOf(undo.error)}</Failure>}
      <UndoDialog
        of={{ run: id }}
        title={`Take back the run of ${r.laneName}`}
        open={undoing}
        onClose={() => setUndoing(false)}
        onConfirm={() => undo.mutate()}
      />
      {release.isError && <Failure>{reasonOf(release.error)}</Failure>}
      <Card>
        <div className="px-3 py-2">
          <Badge tone={toneOf(r.state)}>{r.state}</Badge>{' '}
          {r.reason !== null && (
            <span className={r.state === 'failed' ? 'text-failed' : r.state === 'held' ? 'text-held' : 'text-soft'}>{r.reason}. </span>
          )}
          {sayCounts(r.counts)}
          {r.state === 'running' && (
            <>
              <span className="block text-soft tabular-nums">
                {r.done} of {r.planned || '(still reading both sides)'} {sayLeft(r, Date.now())}
              </span>
              <progress className="mt-2 block h-2 w-full" max={Math.max(r.planned, 1)} value={r.done} aria-label="progress">
                {r.done} of {r.planned}
              </progress>
            </>
          )}
        </div>
      </Card>
      <Card title="What it did" aside={journal.data?.next != null ? <span className="text-soft">the last 200</span> : undefined}>
        {journal.data?.items.length === 0 ? (
          <Empty>{r.state === 'done' ? 'Nothing was written.' : 'Nothing yet.'}</Empty>
        ) : (
          <Operations
            lines={(journal.data?.items ?? []).map((e) => ({ ...e, key: e.id, to: itemPath(e.lane, e) }))}
            brief={(line) => line.kind === 'create'}
          />
        )}
      </Card>
    </>
  );
}
