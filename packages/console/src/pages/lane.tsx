import { asWritten } from '@monsoon/arranging/text';
import type { LaneAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Tabs } from 'radix-ui';
import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { CalendarView } from '../calendar/calendar.tsx';
import { client, queries, reasonOf } from '../data.ts';
import { AuditDialog } from '../parts/audit.tsx';
import { Ago, Badge, Button, Failure, PageHead, Reading } from '../parts/basics.tsx';
import { Failures, PastAudits } from '../parts/failures.tsx';
import { FeedsOf } from '../parts/feeds.tsx';
import { ForecastDialog } from '../parts/forecast.tsx';
import { GuestsOfLane } from '../parts/guests.tsx';
import { Items } from '../parts/items.tsx';
import { LaneSettings } from '../parts/lane-settings.tsx';
import { RunTable } from '../parts/run-table.tsx';
import { StopDialog } from '../parts/stop.tsx';
import { laneState, Way } from '../parts/strip.tsx';
import { Versions } from '../parts/versions.tsx';

export function Lane() {
  const slug = useParams()['lane']!;
  const lane = useQuery({ queryKey: ['lanes', slug], queryFn: () => client.lane(slug) });
  if (lane.isError) return <Failure>{reasonOf(lane.error)}</Failure>;
  return lane.data === undefined ? <Reading /> : <LanePage lane={lane.data} />;
}

const tabs = ['items', 'calendar', 'guests', 'runs', 'settings'] as const;
/** Items or calendar: a lane opens as it was last left. */
const LAST = 'lane-opens-on';

function LanePage({ lane }: { lane: LaneAnswer }) {
  const [search, setSearch] = useSearchParams();
  const [forecasting, setForecasting] = useState(search.has('forecast'));
  const [auditing, setAuditing] = useState(false);
  const [stopping, setStopping] = useState(false);
  const { word, tone } = laneState(lane);
  const toggle = useMutation({
    mutationFn: () => (lane.state === 'running' ? client.pause(lane.slug) : client.resume(lane.slug)),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['lanes'] }),
  });
  const go = useNavigate();
  const edit = useMutation({
    mutationFn: async () => client.makeDraft({ slug: lane.slug, lane: lane.slug, definition: asWritten(lane.definition) }),
    onSuccess: (draft) => void go(`/drafts/${draft.id}?section=which`),
  });
  const tab = tabs.find((t) => t === search.get('tab')) ?? (localStorage.getItem(LAST) === 'calendar' ? 'calendar' : 'items');
  const open = (next: string) => {
    if (next === 'items' || next === 'calendar') localStorage.setItem(LAST, next);
    setSearch({ tab: next }, { replace: true });
  };
  const running = lane.lastRun?.state === 'running' || lane.lastRun?.state === 'waiting' ? lane.lastRun : null;
  return (
    <>
      <PageHead
        title={lane.definition.name}
        note={
          <>
            <Badge tone="records">{lane.recordsName}</Badge> <Way lane={lane} className="inline" /> <Badge tone="calendar">{lane.calendarName}</Badge>{' '}
            {lane.pairs} pairs, {lane.leftOut} left out
            {lane.failed > 0 && <span className="text-failed">, {lane.failed} failed</span>}
            {lane.holds > 0 && <span className="text-held">, {lane.holds} held</span>}
          </>
        }
      >
        <Button needs="operate" onClick={() => toggle.mutate()} disabled={toggle.isPending}>
          {lane.state === 'running' ? 'Pause' : 'Resume'}
        </Button>
        <Button needs="operate" onClick={() => edit.mutate()} disabled={edit.isPending}>
          Change
        </Button>
        <Button needs={{ owner: lane.owner }} onClick={() => setStopping(true)}>
          Stop
        </Button>
        <Button onClick={() => setAuditing(true)}>Audit</Button>
        <Button onClick={() => setForecasting(true)}>Forecast and run</Button>
      </PageHead>
      <p className="mb-3">
        <Badge tone={tone}>{word}</Badge>{' '}
        {running !== null && running.planned > 0 ? (
          <span className="tabular-nums">
            {running.done} of {running.planned}
          </span>
        ) : (
          <span className="text-soft">
            last <Ago at={lane.lastRunAt} />, next <Ago at={lane.nextRunAt} none="when resumed" />; version {lane.version}
            {lane.delay !== null && `; an edit is across in ${lane.delay.median} s (median), 95 % within ${lane.delay.most} s`}
            {lane.owner !== null && `; arranged by ${lane.owner}`}
          </span>
        )}
      </p>
      {lane.trouble !== null && lane.failures > 0 && (
        <Failure>
          {lane.trouble}. Tried {lane.failures} {lane.failures === 1 ? 'time' : 'times'}; the next attempt is <Ago at={lane.nextRunAt} />.
        </Failure>
      )}
      {toggle.isError && <Failure>{reasonOf(toggle.error)}</Failure>}
      {edit.isError && <Failure>{reasonOf(edit.error)}</Failure>}
      <Tabs.Root value={tab} onValueChange={open}>
        <Tabs.List aria-label="Parts of the lane" className="mb-3 flex gap-1 border-b border-line">
          {tabs
            .filter((t) => t !== 'guests' || lane.definition.invitations.by !== 'none')
            .map((t) => (
              <Tabs.Trigger
                key={t}
                value={t}
                className="-mb-px rounded-t border border-transparent px-3 py-1.5 font-medium text-soft capitalize hover:text-ink data-[state=active]:border-line data-[state=active]:border-b-card data-[state=active]:bg-card data-[state=active]:text-ink"
              >
                {t}
              </Tabs.Trigger>
            ))}
        </Tabs.List>
        <Tabs.Content value="items">
          <Failures lane={lane} />
          <Items lane={lane} />
        </Tabs.Content>
        <Tabs.Content value="calendar">
          <CalendarView of={{ lane: lane.slug }} zone={lane.definition.zone} mayForecast />
        </Tabs.Content>
        <Tabs.Content value="guests">
          <GuestsOfLane lane={lane.slug} />
        </Tabs.Content>
        <Tabs.Content value="runs">
          <RunTable lane={lane.slug} />
          <PastAudits lane={lane} />
        </Tabs.Content>
        <Tabs.Content value="settings">
          <FeedsOf lane={lane} />
          <LaneSettings lane={lane} />
          <Versions lane={lane} />
        </Tabs.Content>
      </Tabs.Root>
      <StopDialog lane={lane} open={stopping} onClose={() => setStopping(false)} />
      <AuditDialog lane={lane} open={auditing} onClose={() => setAuditing(false)} />
      <ForecastDialog lane={lane} open={forecasting} onClose={() => setForecasting(false)} />
    </>
  );
}
