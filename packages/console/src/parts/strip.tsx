import type { LaneAnswer } from '@monsoon/core';
import { MoveHorizontal, MoveLeft, MoveRight } from 'lucide-react';
import { Link } from 'react-router';
import { Ago, Badge } from './basics.tsx';

export function laneState(lane: LaneAnswer): { word: string; tone: 'plain' | 'held' | 'failed' } {
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
export function Way({ lane, className = '' }: { lane: LaneAnswer; className?: string }) {
  const { Arrow, means } = arrows[lane.definition.direction];
  return <Arrow className={`text-soft ${className}`} size={20} role="img" aria-label={means} />;
}

/** A lane as a strip: records left, what passes in the middle, calendar right. */
export function LaneStrip({ lane }: { lane: LaneAnswer }) {
  const { word, tone } = laneState(lane);
  const last = lane.lastRun;
  return (
    <li className="grid grid-cols-[1.1fr_auto_1.1fr_11rem] items-center gap-3 border-b border-line px-3 py-2 last:border-0">
      <div>
        <Link to={`/lanes/${lane.slug}`} className="font-semibold">
          {lane.definition.name}
        </Link>
        <div>
          <Badge tone="records">{lane.recordsName}</Badge>
        </div>
      </div>
      <div className="w-32 text-center">
        <Way lane={lane} className="mx-auto" />
        <span className="tabular-nums text-soft">{lane.pairs} pairs</span>
      </div>
      <div>
        <Badge tone="calendar">{lane.calendarName}</Badge>
        <div className="text-soft">
          {lane.leftOut} left out{lane.failed > 0 && <span className="text-failed">, {lane.failed} to mend</span>}
          {lane.holds > 0 && <span className="text-held">, {lane.holds} held</span>}
        </div>
      </div>
      <div className="text-right">
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
