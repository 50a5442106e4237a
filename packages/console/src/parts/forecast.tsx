import type { LaneAnswer, RunAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Button, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';
import { ForecastList } from './forecast-list.tsx';

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
          <Button needs="operate" onClick={() => run.mutate()} disabled={forecast.data === undefined || run.isPending}>
            {held ? 'Run it, to be held' : 'Run it now'}
          </Button>
        </>
      }
    >
      {forecast.isPending && <Empty>Reading both sides...</Empty>}
      {forecast.isError && <Failure>{reasonOf(forecast.error)}</Failure>}
      {run.isError && <Failure>{reasonOf(run.error)}</Failure>}
      {forecast.data !== undefined && <ForecastList forecast={forecast.data} />}
    </Dialog>
  );
}
