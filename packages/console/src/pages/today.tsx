import type { TodayAnswer } from '@monsoon/contract';
import { sayItem } from '@monsoon/core/text';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { PauseEverything } from '../parts/everything.tsx';
import { FirstSteps } from '../parts/first-steps.tsx';
import { groupHolds } from '../parts/group-holds.ts';
import { itemPath, Operations } from '../parts/operations.tsx';
import { LaneLines } from '../parts/strip.tsx';

/** What needs a person, how every lane does, and what crossed in the last day. */
export function Today() {
  const today = useQuery({ queryKey: ['today'], queryFn: () => client.today() });
  return (
    <>
      <PageHead title="Today">
        <PauseEverything />
      </PageHead>
      {today.isError && <Failure>{reasonOf(today.error)}</Failure>}
      {today.data !== undefined && (
        <>
          {today.data.lanes.length === 0 && <FirstSteps />}
          <NeedsYou today={today.data} />
          {today.data.lanes.length > 0 && (
            <Card title="Lanes">
              <LaneLines today={today.data} />
            </Card>
          )}
          <Crossed today={today.data} />
        </>
      )}
    </>
  );
}

function NeedsYou({ today }: { today: TodayAnswer }) {
  const count = today.troubles.length + today.heldRuns.length + today.holds.length + today.failed.length;
  return (
    <Card title="Needs you" aside={count > 0 ? <span className="text-soft">{count}</span> : undefined}>
      {count === 0 ? (
        <Empty>Nothing needs you.</Empty>
      ) : (
        <ul>
          {today.troubles.map((t) => (
            <Line
              key={`${t.noun} ${t.slug}`}
              badge={<Badge tone="failed">{t.noun}</Badge>}
              to={t.noun === 'lane' ? `/lanes/${t.slug}` : '/systems'}
              name={t.name}
            >
              {t.detail}
            </Line>
          ))}
          {today.heldRuns.map((r) => (
            <Line key={r.id} badge={<Badge tone="held">run held</Badge>} to={`/runs/${r.id}`} name={r.laneName}>
              {r.reason}
            </Line>
          ))}
          {groupHolds(today.holds).map(({ lane, question, holds }) => (
            <Line
              key={`${lane} ${question}`}
              badge={<Badge tone="held">{question}</Badge>}
              to={`/holds?lane=${encodeURIComponent(lane)}`}
              name={holds.length === 1 ? holds[0]!.label : `${holds.length} in ${today.lanes.find((l) => l.slug === lane)?.definition.name ?? lane}`}
            >
              {holds.length === 1
                ? sayCause(holds[0]!)
                : `${holds
                    .slice(0, 3)
                    .map((h) => h.label)
                    .join('; ')}${holds.length > 3 ? '; ...' : ''}`}
            </Line>
          ))}
          {today.failed.slice(0, 20).map((f) => (
            <Line
              key={`${f.lane} ${f.recordId ?? f.href} ${f.moment}`}
              badge={<Badge tone="failed">{f.verdict?.reason ?? 'failed'}</Badge>}
              to={itemPath(f.lane, f)}
              name={f.label}
            >
              {sayItem(f)}: {f.verdict?.condition}; found {f.verdict?.value}
            </Line>
          ))}
        </ul>
      )}
    </Card>
  );
}

const sayCause = (hold: TodayAnswer['holds'][number]): string =>
  hold.candidates.length > 0 ? `${hold.candidates.length} events may be its own` : hold.cause;

const Line = ({ badge, to, name, children }: { badge: ReactNode; to: string; name: string; children: ReactNode }) => (
  <li className="flex flex-wrap items-baseline gap-x-3 border-b border-line px-3 py-2 last:border-0">
    {badge}
    <Link to={to} className="font-medium">
      {name}
    </Link>
    <span className="text-soft">{children}</span>
  </li>
);

const Crossed = ({ today }: { today: TodayAnswer }) => (
  <Card title="Crossed in the last day" aside={<span className="text-soft">{today.crossedCount}</span>}>
    {today.crossed.length === 0 ? (
      <Empty>Nothing crossed in the last day.</Empty>
    ) : (
      <Operations
        lead="When"
        brief={() => true}
        lines={today.crossed.map((c) => ({ ...c, key: c.id, to: itemPath(c.lane, c), lead: <Ago at={c.at} /> }))}
      />
    )}
  </Card>
);
