import { compareLanes } from '@monsoon/arranging';
import type { ItemDetail, LaneAnswer, RunAnswer } from '@monsoon/contract';
import { sayCounts } from '@monsoon/contract/text';
import { parseLane } from '@monsoon/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Button, Card, Failure } from '../parts/basics.tsx';
import { ForecastList } from '../parts/forecast-list.tsx';
import { Cell, namesOf } from '../parts/values.tsx';
import { type Editing, shortName } from './draft.ts';

/** The last section: first what would happen, then one item for real, then everything. */
export function Prove(editing: Editing) {
  const { draft, preview } = editing;
  const lane = useQuery({ queryKey: ['lanes', draft.lane], queryFn: () => client.lane(draft.lane!), enabled: draft.lane !== null });
  const problems = preview?.problems ?? [];
  if (problems.length > 0)
    return (
      <Card title="Prove it">
        <p className="px-3 pt-2">Before it can be proven:</p>
        <ul className="px-3 py-2 text-failed">
          {problems.map((p) => (
            <li key={`${p.pointer} ${p.reason}`}>
              {p.pointer.slice(1)}: {p.reason}
            </li>
          ))}
        </ul>
      </Card>
    );
  if (draft.lane === null) return <Make {...editing} />;
  return lane.data === undefined ? null : <ProveLane {...editing} live={lane.data} />;
}

/** The lane is made without being started, so that everything about it can be seen first. */
function Make({ lane, draft, slug, saved }: Editing) {
  const go = useNavigate();
  const named = slug === '' ? shortName(lane.name ?? '') : slug;
  const make = useMutation({
    mutationFn: async () => {
      await saved();
      const made = await client.makeLane(named, lane, false);
      await client.dropDraft(draft.id);
      return client.makeDraft({ slug: named, lane: made.slug, definition: lane });
    },
    onSuccess: (next) => {
      void queries.invalidateQueries({ queryKey: ['drafts'] });
      void go(`/drafts/${next.id}?section=prove`, { replace: true });
    },
  });
  return (
    <Card title="Prove it">
      <p className="px-3 py-2">
        Nothing is missing. The lane <strong>{named}</strong> is made now, and not started: nothing is written on either side until you say so.
      </p>
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
      <div className="px-3 pb-3">
        <Button onClick={() => make.mutate()} disabled={make.isPending || named === ''}>
          Make it, and show what it would do
        </Button>
      </div>
    </Card>
  );
}

function changesOf(live: LaneAnswer, edited: object): { pointer: string; before: unknown; after: unknown }[] | null {
  try {
    return compareLanes(live.definition, parseLane(edited));
  } catch {
    return null;
  }
}

const say = (value: unknown) => (value === null || value === undefined ? '(nothing)' : typeof value === 'string' ? value : JSON.stringify(value));

function ProveLane({ lane, draft, saved, live }: Editing & { live: LaneAnswer }) {
  const go = useNavigate();
  const [picked, setPicked] = useState<string | null>(null);
  const changes = changesOf(live, lane);
  const fresh = live.lastRun === null || (live.state === 'paused' && live.pairs <= 1);
  const forecast = useQuery({
    queryKey: ['forecast', live.slug, JSON.stringify(lane)],
    queryFn: () => client.forecast(live.slug, lane),
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
  const overtaken = draft.laneVersion !== null && draft.laneVersion !== live.version;
  const save = useMutation({
    mutationFn: async (start: boolean) => {
      await saved();
      if (changes === null || changes.length > 0) await client.changeLane(live.slug, live.version, lane);
      if (start && live.state === 'paused') await client.resume(live.slug);
      await client.dropDraft(draft.id);
    },
    onSuccess: () => {
      for (const noun of ['lanes', 'drafts', 'runs', 'items', 'today']) void queries.invalidateQueries({ queryKey: [noun] });
      void go(`/lanes/${live.slug}`);
    },
  });
  const started = live.state === 'running';
  return (
    <>
      {overtaken && (
        <p role="alert" className="mb-3 rounded bg-held-wash px-3 py-2 text-held">
          Somebody saved version {live.version} since this draft was started from version {draft.laneVersion}. What you save replaces theirs; the
          differences below are against it.
        </p>
      )}
      {changes !== null && changes.length > 0 && (
        <Card title={`Against version ${live.version}`}>
          <table>
            <thead>
              <tr>
                <th>Setting</th>
                <th>Before</th>
                <th>After</th>
              </tr>
            </thead>
            <tbody>
              {changes.map((c) => (
                <tr key={c.pointer}>
                  <th scope="row">{c.pointer.slice(1)}</th>
                  <td className="break-words">{say(c.before)}</td>
                  <td className="break-words">{say(c.after)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Card>
      )}
      <Card title="1. What it would do" aside={<Button onClick={() => void forecast.refetch()}>Look again</Button>}>
        {forecast.isFetching && <p className="px-3 py-2 text-soft">Reading both sides...</p>}
        {forecast.isError && <Failure>{reasonOf(forecast.error)}</Failure>}
        {forecast.data !== undefined && <ForecastList forecast={forecast.data} {...(started ? {} : { onPick: setPicked })} />}
      </Card>
      {!started && (
        <OneItem
          live={live}
          picked={picked}
          onPick={setPicked}
          stale={changes === null || changes.length > 0}
          onDone={() => void forecast.refetch()}
        />
      )}
      <Card title={started ? '2. Switch over' : '3. Everything'}>
        <p className="px-3 py-2">
          {started
            ? changes?.length === 0
              ? 'This draft says what the lane does already.'
              : 'The lane runs with the new version from now on; its next run does what the forecast says.'
            : forecast.data === undefined
              ? ''
              : `The first run does what the forecast says: ${sayCounts(forecast.data.counts)}. It can be paused at any time, and taken back.`}
        </p>
        {save.isError && <Failure>{reasonOf(save.error)}</Failure>}
        <div className="flex flex-wrap gap-2 px-3 pb-3">
          <Button onClick={() => save.mutate(true)} disabled={save.isPending || forecast.data === undefined || (started && changes?.length === 0)}>
            {started ? `Save as version ${live.version + 1}` : fresh ? 'Start the lane' : 'Save and resume the lane'}
          </Button>
          {!started && (
            <Button quiet onClick={() => save.mutate(false)} disabled={save.isPending}>
              Keep it for later, not started
            </Button>
          )}
        </div>
      </Card>
    </>
  );
}

/** One item for real, chosen by the person, shown on both sides, and taken back if wished. */
function OneItem({
  live,
  picked,
  onPick,
  stale,
  onDone,
}: {
  live: LaneAnswer;
  picked: string | null;
  onPick: (record: string) => void;
  stale: boolean;
  onDone: () => void;
}) {
  const [done, setDone] = useState<{ run: RunAnswer; item: ItemDetail } | null>(null);
  const ended = async (run: RunAnswer): Promise<RunAnswer> => {
    let now = run;
    for (let i = 0; i < 600 && (now.state === 'waiting' || now.state === 'running'); i++) {
      await new Promise((resolve) => setTimeout(resolve, 150));
      now = await client.oneRun(run.id);
    }
    return now;
  };
  const cross = useMutation({
    mutationFn: async (record: string) => {
      const run = await ended(await client.run(live.slug, { records: [record] }));
      return { run, item: await client.item(live.slug, record) };
    },
    onSuccess: (result) => {
      setDone(result);
      onDone();
    },
  });
  const back = useMutation({
    mutationFn: async (run: string) => ended(await client.undo({ run })),
    onSuccess: () => {
      setDone(null);
      onDone();
    },
  });
  const names = done === null ? [] : namesOf(done.item.record.values, done.item.event.values);
  return (
    <Card title="2. One item for real">
      {stale ? (
        <p className="px-3 py-2 text-soft">The draft differs from the lane that was made. Keep it first, then try one item.</p>
      ) : (
        <form
          className="flex flex-wrap items-center gap-2 px-3 py-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (picked !== null && picked !== '') cross.mutate(picked);
          }}
        >
          <label htmlFor="one-record">Record</label>
          <input
            id="one-record"
            value={picked ?? ''}
            placeholder="choose one in the forecast"
            className="w-60 rounded border border-line bg-paper px-2 py-1"
            onChange={(e) => onPick(e.target.value)}
          />
          <Button type="submit" disabled={picked === null || picked === '' || cross.isPending}>
            {cross.isPending ? 'Crossing...' : 'Let this one cross'}
          </Button>
        </form>
      )}
      {cross.isError && <Failure>{reasonOf(cross.error)}</Failure>}
      {back.isError && <Failure>{reasonOf(back.error)}</Failure>}
      {back.isSuccess && done === null && (
        <p className="px-3 pb-2" role="status">
          Taken back.
        </p>
      )}
      {done !== null && (
        <div role="status">
          <p className="px-3 py-1">
            <strong>{done.item.label}</strong>: {done.item.why}
          </p>
          <table>
            <thead>
              <tr>
                <th />
                <th className="text-records">Record</th>
                <th className="text-calendar">Event</th>
              </tr>
            </thead>
            <tbody>
              {names.map((name) => (
                <tr key={name}>
                  <th scope="row">{name}</th>
                  <td>
                    <Cell name={name} value={done.item.record.values?.[name]} />
                  </td>
                  <td>
                    <Cell name={name} value={done.item.event.values?.[name]} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="flex flex-wrap items-center gap-3 px-3 py-2">
            {done.item.record.url !== null && (
              <a className="underline" href={done.item.record.url}>
                The record in its system
              </a>
            )}
            <Link className="underline" to={`/lanes/${live.slug}/items/${encodeURIComponent(done.item.recordId ?? '')}`}>
              Its history
            </Link>
            {done.run.counts.created + done.run.counts.changed > 0 && (
              <Button onClick={() => back.mutate(done.run.id)} disabled={back.isPending}>
                Take it back
              </Button>
            )}
          </div>
        </div>
      )}
    </Card>
  );
}
