import type { LaneDefinition } from '@monsoon/core';
import { judgeEvent } from './judge.ts';
import { showAll } from './links.ts';
import { makeEvent, makeRecord } from './make.ts';
import type { Fields } from './maps.ts';
import type { Followed, Run } from './run-state.ts';
import { same, type Values } from './values.ts';

/** How one side leaves. */
export interface Leaving {
  departure: keyof LaneDefinition['departures'];
  /** why it belongs no more, where it is still there */
  reason: string | null;
  /** the other side was edited since */
  edited: boolean;
}

/** One side of a pair leaves: by the lane's rule, or as a person answers. */
export function depart(run: Run, of: Followed, leaving: Leaving): unknown {
  const { departure, edited } = leaving;
  if (edited) return departEdited(run, of, leaving);
  const asks = departure.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);
  const rule = run.lane.departures[departure];
  const choice = run.answered(of.pair, asks);
  if (choice === null && rule === 'hold') return run.hold(of.pair, asks);
  carry(run, of, leaving, choice ?? rule, choice !== null);
}

function departEdited(run: Run, of: Followed, leaving: Leaving): unknown {
  const { pair, links } = of;
  const { departure } = leaving;
  const { departures: rules, may } = run.lane;
  const fromRecord = pair.record !== null && run.end.records.has(pair.record);
  const side = fromRecord ? showAll(links, run.end.records.get(pair.record!)!).values : run.events.get(pair.event!)!.values;
  const about = JSON.stringify([departure, links.map((l) => side[fromRecord ? l.key : l.property] ?? null)]);
  const said = run.answered(pair, 'edited and deleted', about);
  const choice = said ?? (rules.editedAndDeleted === 'hold' ? null : rules.editedAndDeleted);
  if (choice === null) return run.hold(pair, 'edited and deleted', about);
  if (choice === 'edit wins') return carry(run, of, leaving, 'create again', said !== null);
  const isRecord = departure === 'eventDeleted';
  const removal = (isRecord ? may.records.remove : may.calendar.remove) ? (isRecord ? 'delete record' : 'remove') : 'unlink';
  carry(run, of, leaving, rules[departure] === 'hold' ? removal : rules[departure], said !== null);
}

/** Does what was chosen for a departure. */
function carry(run: Run, of: Followed, leaving: Leaving, choice: string, byPerson: boolean): unknown {
  const { end } = run;
  const { pair, moment, links } = of;
  const event = pair.event === null ? undefined : end.events.get(pair.event);
  if (choice === 'remove') {
    if (event !== undefined) {
      end.events.delete(pair.event!);
      end.removals++;
    }
    pair.event = null;
    return run.settle(pair, 'removed');
  }
  if (choice === 'mark cancelled') {
    if (event !== undefined && event['status'] !== 'cancelled') {
      end.events.set(pair.event!, { ...event, status: 'cancelled' });
      end.rewrites++;
    }
    return run.settle(pair, 'unlinked');
  }
  if (choice === 'delete record') {
    end.records.delete(pair.record!);
    end.removals++;
    run.say(`${pair.record} ${pair.moment}`, null);
    pair.record = null;
    return run.settle(pair, 'removed');
  }
  if (choice === 'set fields') {
    const wanted = leaving.departure === 'eventCancelled' ? run.lane.sets.eventCancelled : run.lane.sets.eventDeleted;
    const before = end.records.get(pair.record!)!;
    const after = { ...before, ...(wanted as Fields) };
    if (!same(before as Values, after as Values)) end.rewrites++;
    end.records.set(pair.record!, after);
    const out = run.judge(pair.record, after, moment, links);
    run.say(`${pair.record} ${pair.moment}`, out);
    return run.settle(pair, out === null || event !== undefined ? 'unlinked' : 'removed');
  }
  if (choice === 'as deleted') return depart(run, of, { ...leaving, departure: 'eventDeleted', edited: false });
  if (choice === 'create again') return createAgain(run, of, leaving, byPerson);
  run.settle(pair, 'unlinked');
}

/** The side that left comes back. */
function createAgain(run: Run, { pair, moment, links }: Followed, { departure }: Leaving, byPerson: boolean): unknown {
  const { end, lane } = run;
  const event = pair.event === null ? undefined : end.events.get(pair.event);
  if (event !== undefined && departure === 'eventDeleted') {
    // It was cancelled, and takes place again.
    if (!lane.may.calendar.change) return run.settle(pair, 'unlinked');
    const shown = showAll(links, end.records.get(pair.record!)!).values;
    end.events.set(pair.event!, { ...event, status: shown['status'] ?? 'confirmed' });
    end.rewrites++;
    pair.seen = true;
    pair.loose = true;
    pair.redefined = run.isReshown(pair);
    run.settle(pair, 'in sync');
    // What the event says now is what it said, but for its status.
    return run.agree(pair, links, { settled: [], before: pair.base });
  }
  if (departure === 'eventDeleted' && lane.may.calendar.create) return makeEvent(run, pair, links);
  const href = pair.event;
  if (departure !== 'recordDeleted' || event === undefined || href === null) return run.settle(pair, 'unlinked');
  if (!lane.may.records.create || judgeEvent(run.look, run.events.get(href)!, true) !== null) return run.settle(pair, 'unlinked');
  const key = `${pair.record} ${pair.moment}`;
  const before = { ...pair };
  if (makeRecord(run, href, pair, moment)) return;
  Object.assign(pair, before);
  // An answer that cannot be carried out leaves the question open; a rule says why it does nothing.
  const why = end.reasons.get(href) ?? null;
  run.say(href, null);
  if (!byPerson) run.say(key, why);
}
