import type { LaneLine, TodayAnswer } from '@monsoon/contract';
import { MoveHorizontal, MoveLeft, MoveRight } from 'lucide-react';
import { Link } from 'react-router';
import { Ago, Badge } from './basics.tsx';
import { type Column, useSorted } from './sorted.tsx';

export function laneState(lane: LaneLine): { word: string; tone: 'plain' | 'held' | 'failed' } {
  if (lane.failures > 0) return { word: 'in trouble', tone: 'failed' };
  if (lane.lastRun?.state === 'held') return { word: 'held', tone: 'held' };
  if (lane.lastRun?.state === 'running' || lane.lastRun?.state === 'waiting') return { word: 'at work', tone: 'plain' };
  return { word: lane.state, tone: 'plain' };
}

const arrows = {
  '->': { Arrow: MoveRight, means: 'records to calendar' },
  '<-': { Arrow: MoveLeft, means: 'calendar to records' },
  '<->': { Arrow: MoveHorizontal, means: 'both ways' },
};

/** Which way a lane goes, between its two sides. */
export function Way({ lane, className = '' }: { lane: LaneLine; className?: string }) {
  const { Arrow, means } = arrows[lane.definition.direction];
  return <Arrow className={`text-soft ${className}`} size={20} role="img" aria-label={means} />;
}

/** What crossed hour by hour in the last day, the oldest left. */
function HourBars({ hours }: { hours: number[] }) {
  const most = Math.max(...hours, 1);
  const sum = hours.reduce((a, b) => a + b, 0);
  return (
    <svg viewBox="0 0 96 18" width="96" height="18" role="img" aria-label={`crossed in the last day: ${sum}`}>
      <title>{sum} crossed in the last 24 hours</title>
      <line x1="0" x2="96" y1="17.5" y2="17.5" stroke="var(--line)" />
      {hours.map((n, i) => {
        const height = n === 0 ? 0 : Math.max(2, Math.round((16 * n) / most));
        // biome-ignore lint/suspicious/noArrayIndexKey: the place is the hour
        return <rect key={i} x={i * 4} y={17 - height} width="3" height={height} fill="var(--soft)" />;
      })}
    </svg>
  );
}

/** A lane as a strip: records left, what passes in the middle, calendar right. */
export function LaneStrip({ lane }: { lane: LaneLine }) {
  const { word, tone } = laneState(lane);
  const last = lane.lastRun;
  return (
    <li className="grid items-center gap-x-3 gap-y-1 md:grid-cols-[1.1fr_auto_1.1fr_11rem] border-b border-line px-3 py-2 last:border-0">
      <div>
        <Link to={`/lanes/${lane.slug}`} className="font-semibold">
          {lane.definition.name}
        </Link>
        <div>
          <Badge tone="records">{lane.recordsName}</Badge>
        </div>
      </div>
      <div className="flex items-center gap-2 md:block md:w-32 md:text-center">
        <Way lane={lane} className="mx-auto" />
        <span className="tabular-nums text-soft">{lane.pairs} pairs</span>
      </div>
      <div>
        <Badge tone="calendar">{lane.calendarName}</Badge>
        <div className="text-soft">
          {lane.leftOut} left out{lane.failed > 0 && <span className="text-failed">, {lane.failed} failed</span>}
          {lane.holds > 0 && <span className="text-held">, {lane.holds} held</span>}
        </div>
      </div>
      <div className="md:text-right">
        <Badge tone={tone}>{word}</Badge>
        <div className="text-soft">
          {last !== null && (last.state === 'running' || last.state === 'waiting') && last.planned > 0 ? (
            <span className="tabular-nums">
              {last.done} of {last.planned}
            </span>
          ) : (
            <>
              <Ago at={lane.lastRunAt} />, next <Ago at={lane.nextRunAt} none="when resumed" />
            </>
          )}
        </div>
      </div>
    </li>
  );
}

/** Every lane on one line: enough for forty on two screens. */
const laneColumns: Column<LaneLine>[] = [
  { name: 'Lane', by: (l) => l.definition.name },
  { name: 'Records', by: (l) => l.recordsName },
  { name: 'Way' },
  { name: 'Calendar', by: (l) => l.calendarName },
  { name: 'Pairs', by: (l) => l.pairs, right: true },
  { name: 'Failed', by: (l) => l.failed, right: true },
  { name: 'Held', by: (l) => l.holds, right: true },
  { name: 'Last 24 hours' },
  { name: 'State', by: (l) => laneState(l).word },
  { name: 'Last, next', by: (l) => l.lastRunAt },
];

export function LaneLines({ today }: { today: Pick<TodayAnswer, 'lanes' | 'byHour'> }) {
  const { rows, heads } = useSorted(today.lanes, laneColumns);
  return (
    <table>
      {heads}
      <tbody>
        {rows.map((lane) => {
          const { word, tone } = laneState(lane);
          const running = lane.lastRun?.state === 'running' && lane.lastRun.planned > 0 ? lane.lastRun : null;
          return (
            <tr key={lane.id}>
              <td className="font-medium whitespace-nowrap">
                <Link to={`/lanes/${lane.slug}`}>{lane.definition.name}</Link>
              </td>
              <td>
                <Badge tone="records">{lane.recordsName}</Badge>
              </td>
              <td>
                <Way lane={lane} />
              </td>
              <td>
                <Badge tone="calendar">{lane.calendarName}</Badge>
              </td>
              <td className="text-right tabular-nums">{lane.pairs}</td>
              <td className={`text-right tabular-nums ${lane.failed > 0 ? 'font-semibold text-failed' : 'text-soft'}`}>{lane.failed}</td>
              <td className={`text-right tabular-nums ${lane.holds > 0 ? 'font-semibold text-held' : 'text-soft'}`}>{lane.holds}</td>
              <td>
                <HourBars hours={today.byHour.find((b) => b.lane === lane.slug)?.hours ?? []} />
              </td>
              <td>
                <Badge tone={tone}>{word}</Badge>
              </td>
              <td className="whitespace-nowrap text-soft">
                {running !== null ? (
                  <span className="tabular-nums">
                    {running.done} of {running.planned}
                  </span>
                ) : (
                  <>
                    <Ago at={lane.lastRunAt} />, <Ago at={lane.nextRunAt} none="when resumed" />
                  </>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
