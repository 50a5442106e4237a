import { asWritten, fromNowOn } from '@monsoon/arranging/text';
import type { HoldAnswer, RunAnswer } from '@monsoon/contract';
import type { holdChoices, LaneDefinition } from '@monsoon/core';
import { candidateAnswer } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { HoldBand } from '../calendar/hold-band.tsx';
import { client, queries, reasonOf } from '../data.ts';
import { draftWith } from '../editor/draft-with.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead, SideHeads } from '../parts/basics.tsx';
import { Tick } from '../parts/controls.tsx';
import { groupHolds, type HoldGroup } from '../parts/group-holds.ts';
import { itemPath } from '../parts/operations.tsx';
import { namesOf, sayValue } from '../parts/values.tsx';

/** Changes that wait for a person. */
export function Holds() {
  const holds = useQuery({ queryKey: ['holds'], queryFn: () => client.holds() });
  const today = useQuery({ queryKey: ['today'], queryFn: () => client.today() });
  const lane = useSearchParams()[0].get('lane');
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
      {lane !== null && (
        <p className="mb-4">
          Of the lane {lane} alone. <Link to="/holds">Show all</Link>
        </p>
      )}
      {groupHolds((holds.data?.items ?? []).filter((h) => lane === null || h.lane === lane)).map((group) =>
        group.holds.length < MANY ? (
          group.holds.map((hold) => <Hold key={hold.id} hold={hold} />)
        ) : (
          <Group key={`${group.lane} ${group.question}`} group={group} />
        ),
      )}
    </>
  );
}

/** A run that the guard held: released, or fixed where it came from. */
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
          Since <Ago at={run.endedAt ?? run.createdAt} />; <Link to={`/lanes/${run.lane}?forecast`}>look at the lane's forecast</Link> first, or
          correct it at its source and run again: the question then closes.
        </span>
      </p>
      {release.isError && <Failure>{reasonOf(release.error)}</Failure>}
    </Card>
  );
}

type HoldChoice = (typeof holdChoices)[keyof typeof holdChoices][number];
/** Answers that say more in other words. */
const said: Partial<Record<HoldChoice, string>> = {
  remove: 'remove the event',
  keep: 'keep it and stop following',
  unlink: 'stop following',
  'set fields': "set the lane's fields",
};
const sayChoice = (choice: string): string => said[choice as HoldChoice] ?? choice;
const dangerous = new Set(['remove', 'delete record', 'deletion wins']);

/** From so many on, questions of a lane that ask the same are one list. */
const MANY = 3;

/** The same question about many items: what each is about in a line, one answer for all, and each by itself where it is opened. */
function Group({ group: { lane, question, holds } }: { group: HoldGroup }) {
  const [open, setOpen] = useState<string | null>(null);
  const settle = useMutation({
    mutationFn: (choice: string) => client.settleAll(question, choice, lane),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['holds'] }),
  });
  const choices = [...new Set(holds.flatMap((h) => h.choices))].filter((c) => candidateAnswer(c)?.kind !== 'take');
  return (
    <Card
      title={`${lane}: ${holds.length} times "${question}"`}
      aside={
        <div className="flex flex-wrap items-center justify-end gap-2">
          {choices.map((choice) => (
            <Button
              key={choice}
              needs="operate"
              danger={dangerous.has(choice)}
              onClick={() => settle.mutate(choice)}
              disabled={settle.isPending}
              aria-label={`${sayChoice(choice)}: all ${holds.length} with the question ${question}`}
            >
              All {holds.length}: {sayChoice(choice)}
            </Button>
          ))}
        </div>
      }
    >
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
      <ul>
        {holds.map((hold) => (
          <li key={hold.id} className="border-b border-line last:border-0">
            <div className="flex flex-wrap items-baseline gap-x-3 px-3 py-1.5">
              <Button quiet aria-expanded={open === hold.id} onClick={() => setOpen(open === hold.id ? null : hold.id)}>
                {hold.label}
              </Button>
              <span className="text-soft">{briefly(hold)}</span>
            </div>
            {open === hold.id && (
              <div className="px-3">
                <Hold hold={hold} />
              </div>
            )}
          </li>
        ))}
      </ul>
    </Card>
  );
}

/** What a question is about, in a line: the values that differ, or else its cause. */
function briefly(hold: HoldAnswer): string {
  const at = (side: object, name: string) => sayValue(name, (side as Record<string, unknown>)[name]);
  if (hold.question !== 'conflict') return `${hold.cause}${hold.recordId === null ? '' : ` (${hold.recordId})`}`;
  return namesOf(hold.record, hold.event)
    .map((name) => `${name}: ${at(hold.record, name) || '(none)'} \u2194 ${at(hold.event, name) || '(none)'}`)
    .join('; ');
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
  const asksWhich = hold.candidates.length > 0;
  const names = asksWhich ? [] : namesOf(hold.record, hold.event);
  const conflict = hold.question === 'conflict';
  const at = (side: object, name: string) => sayValue(name, (side as Record<string, unknown>)[name]);
  return (
    <Card
      title={hold.label}
      aside={
        <div className="flex flex-wrap items-center justify-end gap-2">
          {rulable && <Tick label="and from now on" checked={always} onChange={setAlways} />}
          {hold.choices
            .filter((choice) => !hold.candidates.some((c) => c.choice === choice))
            .map((choice) => (
              <Button
                key={choice}
                needs="operate"
                danger={dangerous.has(choice)}
                onClick={() => settle.mutate(choice)}
                disabled={settle.isPending}
                aria-label={`${sayChoice(choice)}: ${hold.label}`}
              >
                {sayChoice(choice)}
              </Button>
            ))}
        </div>
      }
    >
      <p className="px-3 py-2">
        <Badge tone="held">{hold.question}</Badge> {asksWhich ? `${hold.candidates.length} may be the one` : hold.cause}.{' '}
        <span className="text-soft">
          Since <Ago at={hold.createdAt} />;{' '}
          <Link to={itemPath(hold.lane, hold)}>{hold.recordId === null ? 'the event' : `record ${hold.recordId}`}</Link>
        </span>
      </p>
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
      {!asksWhich && <HoldBand hold={hold} />}
      {asksWhich && <Candidates hold={hold} onTake={(choice) => settle.mutate(choice)} busy={settle.isPending} />}
      {names.length > 0 && (
        <table className="table-fixed">
          <SideHeads
            sides={[
              { name: conflict ? 'Record now' : 'Record, when last agreed', tone: 'records' },
              ...(hold.baseline === null ? [] : [{ name: 'Baseline' }]),
              { name: 'Event now', tone: 'calendar' },
            ]}
          />
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

/** What may be the one, side by side: only where they differ can a person tell them apart. */
function Candidates({ hold, onTake, busy }: { hold: HoldAnswer; onTake: (choice: string) => void; busy: boolean }) {
  const own = hold.recordId === null ? hold.event : hold.record;
  const names = namesOf(own, ...hold.candidates.map((c) => c.values));
  const at = (side: object, name: string) => sayValue(name, (side as Record<string, unknown>)[name]);
  const differs = (name: string) => new Set(hold.candidates.map((c) => at(c.values, name))).size > 1;
  const sorted = [...names.filter(differs), ...names.filter((n) => !differs(n))];
  const isEvent = hold.recordId !== null;
  return (
    <table className="table-fixed">
      <SideHeads
        sides={[
          { name: isEvent ? `Record ${hold.recordId}` : 'The event', tone: isEvent ? 'records' : 'calendar' },
          ...hold.candidates.map((c, i) => ({
            name: `${isEvent ? 'Event' : 'Record'} ${i + 1}`,
            tone: isEvent ? ('calendar' as const) : ('records' as const),
            extra: (
              <Button needs="operate" onClick={() => onTake(c.choice)} disabled={busy} aria-label={`${c.choice}: ${hold.label}`}>
                It is this one
              </Button>
            ),
          })),
        ]}
      />
      <tbody>
        {sorted.map((name) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td className="break-words">{at(own, name)}</td>
            {hold.candidates.map((c) => (
              <td key={c.choice} className={`break-words ${differs(name) ? 'bg-sunk font-medium' : 'text-soft'}`}>
                {at(c.values, name) || '(none)'}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
