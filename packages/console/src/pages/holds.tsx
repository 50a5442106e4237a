import type { HoldAnswer, LaneDefinition, RunAnswer } from '@monsoon/core';
import { asWritten, fromNowOn } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { draftWith } from '../editor/draft-with.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Tick } from '../parts/controls.tsx';
import { itemPath } from '../parts/operations.tsx';
import { namesOf, sayValue } from '../parts/values.tsx';

/** Changes that wait for a person. */
export function Holds() {
  const holds = useQuery({ queryKey: ['holds'], queryFn: () => client.holds() });
  const today = useQuery({ queryKey: ['today'], queryFn: () => client.today() });
  return (
    <>
      <PageHead title="Holds" note="Changes set aside until a person settles them." />
      {holds.isError && <Failure>{reasonOf(holds.error)}</Failure>}
      {(today.data?.heldRuns ?? []).map((run) => (
        <HeldRun key={run.id} run={run} />
      ))}
      {holds.data?.items.length === 0 && (today.data?.heldRuns ?? []).length === 0 && (
        <Card>
          <Empty>Nothing is held.</Empty>
        </Card>
      )}
      <SettleAlike holds={holds.data?.items ?? []} />
      {holds.data?.items.map((hold) => (
        <Hold key={hold.id} hold={hold} />
      ))}
    </>
  );
}

/** A run that the guard held: let through, or mended where it came from. */
function HeldRun({ run }: { run: RunAnswer }) {
  const go = useNavigate();
  const release = useMutation({ mutationFn: () => client.release(run.id), onSuccess: (made) => void go(`/runs/${made.id}`) });
  return (
    <Card
      title={`A run of ${run.laneName}`}
      aside={
        <Button
          danger
          needs="operate"
          onClick={() => release.mutate()}
          disabled={release.isPending}
          aria-label={`Let the run of ${run.laneName} through`}
        >
          Let it through
        </Button>
      }
    >
      <p className="px-3 py-2">
        <Badge tone="held">guard</Badge> {run.reason}.{' '}
        <span className="text-soft">
          Since <Ago at={run.endedAt ?? run.createdAt} />; <Link to={`/lanes/${run.lane}?forecast`}>look at the lane's forecast</Link> first, or mend
          it where it came from and run again: the question then closes by itself.
        </span>
      </p>
      {release.isError && <Failure>{reasonOf(release.error)}</Failure>}
    </Card>
  );
}

const said: Record<string, string> = {
  remove: 'remove the event',
  keep: 'keep it and stop following',
  part: 'stop following',
  'set fields': "set the lane's fields",
};
const dangerous = new Set(['remove', 'delete record', 'deletion wins']);

/** One answer for all holds that ask the same, where there are several. */
function SettleAlike({ holds }: { holds: HoldAnswer[] }) {
  const settle = useMutation({
    mutationFn: ({ question, choice }: { question: string; choice: string }) => client.settleAll(question, choice),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['holds'] }),
  });
  const questions = [...new Set(holds.map((h) => h.question))].map((question) => ({ question, asked: holds.filter((h) => h.question === question) }));
  const several = questions.filter(({ asked }) => asked.length > 1);
  if (several.length === 0) return null;
  return (
    <Card title="All alike">
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
      <ul className="px-3 py-2">
        {several.map(({ question, asked }) => (
          <li key={question} className="flex flex-wrap items-center gap-2 py-1">
            <Badge tone="held">{question}</Badge> {asked.length} holds:
            {asked[0]!.choices
              .filter((c) => !c.startsWith('take '))
              .map((choice) => (
                <Button
                  key={choice}
                  needs="operate"
                  danger={dangerous.has(choice)}
                  onClick={() => settle.mutate({ question, choice })}
                  disabled={settle.isPending}
                  aria-label={`${said[choice] ?? choice}: all ${asked.length} with the question ${question}`}
                >
                  {said[choice] ?? choice}
                </Button>
              ))}
          </li>
        ))}
      </ul>
    </Card>
  );
}

/** For asking whether an answer can be a rule, before the lane is read. */
const blank = { conflicts: { rule: 'hold' as const, tolerance: 0, fields: {} }, departures: {} as LaneDefinition['departures'] };

/** The lane as it would be with the answer as its rule, to be looked at and started. */
async function draftOf(hold: HoldAnswer, choice: string) {
  const lane = await client.lane(hold.lane);
  const ruled = fromNowOn(lane.definition, hold.question, choice, Object.keys(hold.record));
  return ruled === null ? null : draftWith(lane, asWritten(ruled));
}

function Hold({ hold }: { hold: HoldAnswer }) {
  const go = useNavigate();
  const [always, setAlways] = useState(false);
  const settle = useMutation({
    mutationFn: async (choice: string) => {
      const draft = always ? await draftOf(hold, choice) : null;
      await client.settle(hold.id, choice);
      return draft;
    },
    onSuccess: (draft) => {
      // As a rule it is looked at first: the draft's forecast says what it would do.
      if (draft !== null) void go(`/drafts/${draft.id}?section=prove`);
      return queries.invalidateQueries({ queryKey: ['holds'] });
    },
  });
  const rulable = hold.choices.some((c) => fromNowOn(blank, hold.question, c, Object.keys(hold.record)) !== null);
  const names = namesOf(hold.record, hold.event);
  const conflict = hold.question === 'conflict';
  const at = (side: object, name: string) => sayValue(name, (side as Record<string, unknown>)[name]);
  return (
    <Card
      title={hold.label}
      aside={
        <div className="flex flex-wrap items-center justify-end gap-2">
          {rulable && <Tick label="and from now on" checked={always} onChange={setAlways} />}
          {hold.choices.map((choice) => (
            <Button
              key={choice}
              needs="operate"
              danger={dangerous.has(choice)}
              onClick={() => settle.mutate(choice)}
              disabled={settle.isPending}
              aria-label={`${said[choice] ?? choice}: ${hold.label}`}
            >
              {said[choice] ?? choice}
            </Button>
          ))}
        </div>
      }
    >
      <p className="px-3 py-2">
        <Badge tone="held">{hold.question}</Badge> {hold.cause}.{' '}
        <span className="text-soft">
          Since <Ago at={hold.createdAt} />;{' '}
          <Link to={itemPath(hold.lane, hold)}>{hold.recordId === null ? 'the event' : `record ${hold.recordId}`}</Link>
        </span>
      </p>
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
      {names.length > 0 && (
        <table className="table-fixed">
          <thead>
            <tr>
              <th className="w-28">Field</th>
              <th>
                <Badge tone="records">{conflict ? 'Record now' : 'Record, when last agreed'}</Badge>
              </th>
              {hold.baseline !== null && <th>Baseline</th>}
              <th>
                <Badge tone="calendar">Event now</Badge>
              </th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                <td>{at(hold.record, name)}</td>
                {hold.baseline !== null && <td className="text-soft">{at(hold.baseline.event, name)}</td>}
                <td>{at(hold.event, name) || <span className="text-soft">(gone)</span>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Card>
  );
}
