import {
  type Baseline,
  type Change,
  type EventRead,
  type EventView,
  type Gathered,
  type LaneContext,
  type MappedValues,
  type Operation,
  type Pair,
  plan,
  UnpairedEvents,
  type Verdict,
} from '@monsoon/core';
import { asks, each, turned, unlink, whole } from '../planners.ts';
import type { Planner } from '../world.ts';

/** An engine that is wrong in one way: what the reference model must find. */
export interface WrongEngine {
  /** the rule of ENGINE.md that it breaks */
  rule: string;
  wrong: string;
  planner: Planner;
  /** what it overlooks of the systems */
  overlooks?: { tellsReplaced: false };
}

const onEvent = (change: (edits: MappedValues, o: Operation) => MappedValues): Planner =>
  each((o) => {
    if (Object.keys(o.eventEdits).length === 0) return o;
    const eventEdits = change(o.eventEdits, o);
    const changes = o.changes.map((c) =>
      c.side === 'event' && c.property in eventEdits ? ({ ...c, after: eventEdits[c.property as 'title'] } as Change) : c,
    );
    return { ...o, eventEdits, changes };
  });
const onRecord = (change: (edits: Operation['recordEdits'], o: Operation) => Operation['recordEdits']): Planner =>
  each((o) => {
    if (Object.keys(o.recordEdits).length === 0) return o;
    const recordEdits = change(o.recordEdits, o);
    const changes = o.changes.map((c) =>
      c.side === 'record' && c.property in recordEdits ? ({ ...c, after: recordEdits[c.property] } as Change) : c,
    );
    return { ...o, recordEdits, changes };
  });
const later = (clock: string, hours: number) => `${new Date(Date.parse(`${clock}Z`) + hours * 3_600_000).toISOString().slice(0, 19)}`;
const shift = (clock: string, days: number) => new Date(Date.parse(`${clock}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
const lying: Verdict = { reason: 'filtered out', condition: 'status is not done', value: 'done', recheckAt: null };
/** The lane as another one: its settings changed where the engine looks at them. */
const withLane = (change: (definition: Parameters<Planner>[0]['definition']) => Partial<Parameters<Planner>[0]['definition']>): Planner => {
  const changed = new WeakMap<object, Parameters<Planner>[0]['definition']>();
  return (context, gathered, due) => {
    const definition = changed.get(context.definition) ?? { ...context.definition, ...change(context.definition) };
    changed.set(context.definition, definition);
    return plan({ ...context, definition }, gathered, due);
  };
};
/** What was gathered as something else: what an engine overlooks, or takes for what it is not. */
const gathering =
  (change: (gathered: Gathered, context: LaneContext) => Partial<Gathered>): Planner =>
  (context, gathered, due) =>
    plan(context, { ...gathered, ...change(gathered, context) }, due);
const onPairs = (change: (pair: Pair & { baseline: Baseline }, context: LaneContext) => Pair): Planner =>
  gathering((g, context) => ({ pairs: g.pairs.map((p) => (p.baseline === null ? p : change({ ...p, baseline: p.baseline }, context))) }));
const onRead = (change: (read: EventRead, text: string | null) => EventRead): Planner =>
  gathering((g) => {
    const view = (e: EventView) => (e.read === null ? e : { ...e, read: change(e.read, e.text) });
    return { events: new Map([...g.events].map(([href, e]) => [href, e && view(e)])), newcomers: g.newcomers.map(view) };
  });
const departing = (name: string, choice: string): Planner => withLane((d) => ({ departures: { ...d.departures, [name]: choice } }) as never);

export const wrongEngines: WrongEngine[] = [
  // Those that a checker once let pass.
  {
    rule: 'everything explained',
    wrong: 'does nothing, and calls everything filtered out',
    planner: whole((result, _context, gathered) => ({
      ...result,
      operations: [],
      verdicts: gathered.records.map((r) => ({ recordId: r.id, href: null, moment: 'visit', label: r.id, verdict: lying })),
    })),
  },
  {
    rule: 'merge',
    wrong: 'ignores the conflict rule',
    planner: withLane((d) => ({ conflicts: { ...d.conflicts, rule: 'records win', fields: {} } })),
  },
  {
    rule: 'time is exact',
    wrong: 'writes every end two hours late',
    planner: onEvent((e) => (e.when?.kind === 'timed' ? { ...e, when: { ...e.when, end: later(e.when.end, 2) } } : e)),
  },
  {
    rule: 'time is exact',
    wrong: 'writes every length as 7',
    planner: onRecord((r) => ('length' in r ? { ...r, length: 7 } : r)),
  },
  { rule: 'everything explained', wrong: 'unlinks every pair at its first edit', planner: each((o) => (o.kind === 'change' ? unlink(o) : o)) },
  {
    rule: 'no lost edit',
    wrong: 'deletes a record whose event was edited',
    planner: each((o) =>
      o.kind === 'change' && Object.keys(o.recordEdits).length > 0 ? { ...o, kind: 'remove record', pair: { ...o.pair, state: 'removed' } } : o,
    ),
  },
  {
    rule: 'nothing else touched',
    wrong: 'sets busy and visibility without a map',
    planner: onEvent((e) => ({ ...e, busy: 'free', visibility: 'private' })),
  },
  {
    rule: 'nothing else touched',
    wrong: 'overwrites a status that is not mapped',
    planner: onEvent((e, o) => (o.kind === 'change' ? { ...e, status: 'tentative' } : e)),
  },
  { rule: 'departures', wrong: 'unlinks instead of asking', planner: each((o) => (o.kind === 'hold' ? unlink(o) : o)) },
  {
    rule: 'everything explained',
    wrong: 'says that a conflict is settled, and does nothing',
    planner: each((o) => (asks(o) === 'conflict' ? turned(o, 'agree', 'in sync', { changes: [] }) : o)),
  },
  {
    rule: 'everything explained',
    wrong: 'explains one item by another',
    planner: whole((result) => ({ ...result, verdicts: result.verdicts.map((v) => ({ ...v, moment: v.verdict === null ? v.moment : 'follow' })) })),
  },
  {
    rule: 'agreement',
    wrong: 'carries only every second edit',
    planner: ((seen) => each((o) => (o.kind === 'change' && seen.n++ % 2 === 1 ? null : o)))({ n: 0 }),
  },

  // Match.
  { rule: 'match', wrong: 'never adopts', planner: withLane(() => ({ matching: [] })) },
  { rule: 'match', wrong: 'matches by title alone', planner: withLane((d) => ({ matching: d.matching.length > 1 ? ['title'] : d.matching })) },
  {
    rule: 'match',
    wrong: 'takes the first of several candidates',
    planner: each((o) => (asks(o) === 'several candidates' ? unlink(o) : o)),
  },
  // Judge.
  { rule: 'judge', wrong: 'ignores the filter', planner: withLane(() => ({ filter: null })) },
  { rule: 'judge', wrong: 'ignores the filter of a moment', planner: withLane((d) => ({ moments: d.moments.map((m) => ({ ...m, filter: null })) })) },
  { rule: 'judge', wrong: 'ignores the filter on events', planner: withLane((d) => ({ events: { ...d.events, filter: null } })) },
  { rule: 'judge', wrong: 'ignores the window', planner: withLane(() => ({ window: null })) },
  { rule: 'judge', wrong: 'ignores the start line', planner: withLane(() => ({ startLine: null })) },
  { rule: 'judge', wrong: 'takes private records', planner: withLane(() => ({ private: null })) },
  { rule: 'judge', wrong: 'takes private events', planner: withLane((d) => ({ events: { ...d.events, private: 'take' } })) },
  { rule: 'judge', wrong: 'takes in the events of other lanes', planner: withLane((d) => ({ events: { ...d.events, otherLanes: 'take' } })) },
  {
    rule: 'judge',
    wrong: 'gives another reason than the true one',
    planner: whole((result) => ({
      ...result,
      verdicts: result.verdicts.map((v) => (v.verdict?.reason === 'no date' ? { ...v, verdict: { ...v.verdict, reason: 'out of the window' } } : v)),
    })),
  },
  {
    rule: 'judge',
    wrong: 'says nothing of what it leaves out',
    planner: whole((result) => ({ ...result, verdicts: result.verdicts.map((v) => ({ ...v, verdict: null })) })),
  },
  // Maps.
  { rule: 'maps', wrong: 'never writes descriptions', planner: onEvent(({ description: _d, ...e }) => e) },
  { rule: 'maps', wrong: 'cuts titles', planner: onEvent((e) => (typeof e.title === 'string' ? { ...e, title: e.title.slice(0, 8) } : e)) },
  { rule: 'maps', wrong: 'forgets the defaults of new records', planner: withLane(() => ({ defaults: {} })) },
  { rule: 'maps', wrong: 'does not note the UID', planner: withLane(() => ({ link: null })) },
  {
    rule: 'maps',
    wrong: 'writes what should be set only once',
    planner: withLane((d) => ({
      fields: Object.fromEntries(
        Object.entries(d.fields).map(([p, map]) => [
          p,
          map !== undefined && !Array.isArray(map) && map.direction === 'once' ? { ...map, direction: d.direction === '<-' ? '<-' : '->' } : map,
        ]),
      ),
    })),
  },
  // When.
  {
    rule: 'time is exact',
    wrong: 'moves all-day events by a day',
    planner: onEvent((e) =>
      e.when?.kind === 'all-day' ? { ...e, when: { ...e.when, first: shift(e.when.first, 1), end: shift(e.when.end, 1) } } : e,
    ),
  },
  {
    rule: 'time is exact',
    wrong: 'counts the last day once more',
    planner: onEvent((e) => (e.when?.kind === 'all-day' ? { ...e, when: { ...e.when, end: shift(e.when.end, 1) } } : e)),
  },
  {
    rule: 'time is exact',
    wrong: 'starts an hour early',
    planner: onEvent((e) => (e.when?.kind === 'timed' ? { ...e, when: { ...e.when, start: later(e.when.start, -1) } } : e)),
  },
  { rule: 'time is exact', wrong: 'does not move due times', planner: onRecord(({ due: _due, ...r }) => r) },
  // Merge.
  {
    rule: 'merge',
    wrong: 'lets the calendar win every conflict',
    planner: withLane((d) => ({ conflicts: { ...d.conflicts, rule: 'calendar wins', fields: {} } })),
  },
  { rule: 'merge', wrong: 'asks about every conflict', planner: withLane((d) => ({ conflicts: { ...d.conflicts, rule: 'hold', fields: {} } })) },
  { rule: 'merge', wrong: 'ignores the rules of single properties', planner: withLane((d) => ({ conflicts: { ...d.conflicts, fields: {} } })) },
  { rule: 'merge', wrong: 'puts back what should be left', planner: withLane(() => ({ foreignEdits: 'put back' })) },
  { rule: 'merge', wrong: 'leaves what should be put back', planner: withLane(() => ({ foreignEdits: 'leave' })) },
  {
    rule: 'merge',
    wrong: 'writes records that it may not change',
    planner: withLane((d) => ({ may: { ...d.may, records: { ...d.may.records, change: true } } })),
  },
  {
    rule: 'merge',
    wrong: 'replaces lists of guests',
    planner: onEvent((e) => (Array.isArray(e.attendees) ? { ...e, attendees: e.attendees.slice(0, 1) } : e)),
  },
  {
    rule: 'merge',
    wrong: 'adds a word to categories',
    planner: onEvent((e) => (e.categories === undefined ? e : { ...e, categories: [...(e.categories ?? []), 'more'] })),
  },
  // Departures.
  { rule: 'departures', wrong: 'removes when a record was deleted', planner: departing('recordDeleted', 'remove') },
  { rule: 'departures', wrong: 'keeps when a record was deleted', planner: departing('recordDeleted', 'keep') },
  { rule: 'departures', wrong: 'removes what is filtered out', planner: departing('filteredOut', 'remove') },
  { rule: 'departures', wrong: 'keeps what is filtered out', planner: departing('filteredOut', 'keep') },
  { rule: 'departures', wrong: 'removes what lost its date', planner: departing('dateLost', 'remove') },
  { rule: 'departures', wrong: 'deletes records of deleted events', planner: departing('eventDeleted', 'delete record') },
  { rule: 'departures', wrong: 'unlinks deleted events', planner: departing('eventDeleted', 'unlink') },
  { rule: 'departures', wrong: 'takes a cancelled event for a deleted one', planner: departing('eventCancelled', 'as deleted') },
  { rule: 'departures', wrong: 'deletes records of events that are filtered out', planner: departing('eventFilteredOut', 'delete record') },
  { rule: 'departures', wrong: 'lets every edit win over a deletion', planner: departing('editedAndDeleted', 'edit wins') },
  { rule: 'departures', wrong: 'lets every deletion win over an edit', planner: departing('editedAndDeleted', 'deletion wins') },
  { rule: 'departures', wrong: 'sets no fields', planner: withLane(() => ({ sets: { eventDeleted: {}, eventCancelled: {} } })) },
  // Faults that users found.
  {
    rule: 'departures',
    wrong: 'puts back a cancelled event without a question',
    planner: onPairs((p) => ({ ...p, baseline: { ...p.baseline, event: { ...p.baseline.event, status: 'cancelled' } } })),
  },
  {
    rule: 'departures',
    wrong: 'does not notice deleted records',
    planner: gathering((g) => ({ records: g.records.filter((r) => r.item !== null) })),
  },
  {
    rule: 'time is exact',
    wrong: "reads times in a program's own zone as UTC",
    planner: onRead((read, text) => {
      const { when } = read.values;
      const own = when?.kind === 'timed' && text?.includes('TZID=Workshop') === true;
      return own ? { ...read, values: { ...read.values, when: { ...when, zone: 'UTC' } } } : read;
    }),
  },
  {
    rule: 'merge',
    wrong: 'does not show again what an edited lane shows differently',
    planner: onPairs((p, context) => ({ ...p, laneVersion: context.version })),
  },
  {
    rule: 'match',
    wrong: 'makes records of the candidates that a person did not choose',
    planner: each((o) => (o.kind === 'unlink' && o.pair.recordId === null && o.cause.startsWith('settled by a person') ? null : o)),
  },
  {
    rule: 'merge',
    wrong: 'takes the stamp of its own write for a later edit',
    planner: onPairs((p) => ({ ...p, baseline: { ...p.baseline, stamps: { record: null, event: null } } })),
  },
  {
    rule: 'maps',
    wrong: 'leaves a field empty where an event means a default',
    planner: each((o) =>
      o.kind === 'create record' && o.event?.read?.values.visibility === null
        ? { ...o, recordEdits: Object.fromEntries(Object.entries(o.recordEdits).filter(([name]) => name !== 'secret')) }
        : o,
    ),
  },
  {
    rule: 'match',
    wrong: 'never matches by guests',
    planner: withLane((d) => ({ matching: d.matching.includes('attendees') ? [] : d.matching })),
  },
  { rule: 'merge', wrong: 'takes a series for a single event', planner: onRead((read) => ({ ...read, repeating: false })) },
  { rule: 'judge', wrong: 'follows an event that another lane has taken over', planner: onRead((read) => ({ ...read, mark: null })) },
  {
    rule: 'departures',
    wrong: 'makes nothing again for events whose records went when the lane was stopped',
    planner: gathering((g) => ({ pairs: g.pairs.map((p) => (p.state === 'removed' && p.recordId === null ? { ...p, recordId: 'gone' } : p)) })),
  },
  {
    rule: 'no removal without leave',
    wrong: 'takes another calendar at the same address for an emptied one',
    planner: plan,
    overlooks: { tellsReplaced: false },
  },
  {
    rule: 'everything explained',
    wrong: 'says nothing of a UID that stands twice',
    planner: whole((result) => ({
      ...result,
      verdicts: result.verdicts.map((v) => (v.verdict?.reason === 'duplicate UID' ? { ...v, verdict: null } : v)),
    })),
  },
  {
    rule: 'no removal without leave',
    wrong: 'takes an event that was moved to another address for a deleted one',
    planner: whole((result, context, gathered) => {
      const moved = (o: Operation) => o.kind === 'adopt' && o.cause === 'the event stands at another address now';
      if (!result.operations.some(moved)) return result;
      return plan(context, { ...gathered, unpaired: new UnpairedEvents() });
    }),
  },
  {
    rule: 'match',
    wrong: 'asks about the one record that came of an attempt without an answer',
    planner: gathering((g) => ({
      createCandidates: new Map([...g.createCandidates].map(([id, { sure, maybe }]) => [id, { sure: [], maybe: [...sure, ...maybe] }])),
    })),
  },
  // What is said.
  {
    rule: 'everything explained',
    wrong: 'journals other values than it writes',
    planner: each((o) => ({ ...o, changes: o.changes.map((c) => ({ ...c, property: 'memo' })) })),
  },
  {
    rule: 'everything explained',
    wrong: 'journals what it does not do',
    planner: each((o) =>
      o.kind === 'change' ? { ...o, changes: [...o.changes, { side: 'record', property: 'memo', before: 'a', after: 'b', cause: 'x' }] } : o,
    ),
  },
  {
    rule: 'no duplicate',
    wrong: 'makes every event twice',
    planner: whole((result) => ({
      ...result,
      operations: result.operations.flatMap((o): Operation[] =>
        o.kind === 'create' ? [o, { ...o, pair: { ...o.pair, id: o.pair.id.replace(/^./, 'f'), uid: `${o.pair.uid}-2`, recordId: null } }] : [o],
      ),
    })),
  },
];
