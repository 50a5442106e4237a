import type { Settings } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { client, queries, reasonOf } from '../data.ts';
import { useMay } from '../may.tsx';
import { Card, Failure } from './basics.tsx';
import { Count, Setting } from './controls.tsx';

const said: Record<keyof Settings['keep'], [string, string]> = {
  idleRuns: ['Runs that found nothing', 'They are only of use while something is being looked for.'],
  runs: ['Runs', 'The last run of each lane stays.'],
  journal: ['Journal', 'What is gone from it can no longer be taken back.'],
  activity: ['Activity', 'Who did what.'],
  audits: ['Audits', ''],
};

/** How long things are kept. */
export function Keeping() {
  const settings = useQuery({ queryKey: ['settings'], queryFn: () => client.settings() });
  const save = useMutation({
    mutationFn: (next: Settings) => client.changeSettings(next),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['settings'] }),
  });
  const mayChange = useMay('administer');
  const now = settings.data;
  if (now === undefined) return null;
  return (
    <Card title="What is kept how long">
      {save.isError && <Failure>{reasonOf(save.error)}</Failure>}
      {(Object.keys(said) as (keyof Settings['keep'])[]).map((name) => (
        <Setting key={name} label={said[name][0]} hint={said[name][1] || undefined}>
          {(id) =>
            mayChange ? (
              <span className="flex items-center gap-2">
                <Count id={id} value={now.keep[name]} onChange={(days) => save.mutate({ ...now, keep: { ...now.keep, [name]: days } })} /> days
              </span>
            ) : (
              <span id={id}>{now.keep[name]} days</span>
            )
          }
        </Setting>
      ))}
      <Setting label="Mails to one person" hint="What gathers meanwhile comes in one.">
        {(id) => (
          <span className="flex items-center gap-2">
            every <Count id={id} value={now.mailEvery} onChange={(mailEvery) => mayChange && save.mutate({ ...now, mailEvery })} /> minutes at most
          </span>
        )}
      </Setting>
    </Card>
  );
}
