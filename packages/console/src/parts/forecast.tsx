import type { ForecastAnswer, LaneAnswer, RunAnswer } from '@monsoon/core';
import { sayCounts, sayItem } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Button, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';
import { Operations } from './operations.tsx';

/** Before anything is written: what a run would do, and then the button that does it. */
export function ForecastDialog({ lane, open, onClose }: { lane: LaneAnswer; open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const forecast = useQuery({ queryKey: ['forecast', lane.slug], queryFn: () => client.forecast(lane.slug), enabled: open, staleTime: 0, gcTime: 0 });
  const run = useMutation({
    mutationFn: () => client.run(lane.slug, { sweep: true }),
    onSuccess: (made: RunAnswer) => void navigate(`/runs/${made.id}`),
  });
  const held = (forecast.data?.guard.length ?? 0) > 0;
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={`Forecast: ${lane.definition.name}`}
      description="What a run would do now. Nothing is written by looking."
      actions={
        <>
          <Button onClick={onClose}>Close</Button>
          <Button onClick={() => run.mutate()} disabled={forecast.data === undefined || run.isPending}>
            {held ? 'Run it, to be held' : 'Run it now'}
          </Button>
        </>
      }
    >
      {forecast.isPending && <Empty>Reading both sides...</Empty>}
      {forecast.isError && <Failure>{reasonOf(forecast.error)}</Failure>}
      {run.isError && <Failure>{reasonOf(run.error)}</Failure>}
      {forecast.data !== undefined && <ForecastBody forecast={forecast.data} />}
    </Dialog>
  );
}

function ForecastBody({ forecast }: { forecast: ForecastAnswer }) {
  const shown = forecast.operations.slice(0, 300);
  return (
    <>
      <p className="px-4 pt-3 font-semibold">{sayCounts(forecast.counts)}</p>
      {forecast.guard.map((reason) => (
        <p key={reason} className="mx-4 mt-2 rounded bg-held-wash px-3 py-2 text-held">
          The guard would hold this run: {reason}.
        </p>
      ))}
      {shown.length === 0 ? (
        <Empty>Nothing would be written: both sides stand as last agreed.</Empty>
      ) : (
        <Operations lines={shown.map((o) => ({ ...o, key: `${o.recordId ?? o.href} ${o.moment}` }))} />
      )}
      {forecast.operations.length > shown.length && <Empty>And {forecast.operations.length - shown.length} more.</Empty>}
      {forecast.verdicts.length > 0 && (
        <>
          <h3 className="px-4 pt-4 font-semibold">Would not cross: {forecast.verdicts.length}</h3>
          <table>
            <thead>
              <tr>
                <th>Record</th>
                <th>Title</th>
                <th>Why not</th>
                <th>Condition</th>
                <th>Found</th>
              </tr>
            </thead>
            <tbody>
              {forecast.verdicts.slice(0, 300).map((v) => (
                <tr key={`${v.recordId ?? v.href} ${v.moment}`}>
                  <td className="whitespace-nowrap">{sayItem(v)}</td>
                  <td>{v.label}</td>
                  <td>{v.reason}</td>
                  <td>{v.condition}</td>
                  <td>{v.value}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}
