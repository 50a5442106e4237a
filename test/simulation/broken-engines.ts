import { operation, plan } from '@monsoon/core';
import { asks, each, turned, whole } from './planners.ts';
import type { Planner } from './world.ts';

/** An engine that is wrong in one way, for each invariant: what the checker must find. */
export const brokenEngines: { invariant: string; wrong: string; planner: Planner; inAnotherOrder?: true; twoLanes?: true; from?: number }[] = [
  {
    invariant: 'no lost edit',
    wrong: 'takes a conflict for an agreement',
    from: 500,
    planner: each((o) =>
      o.kind === 'hold' && o.hold.question === 'conflict'
        ? turned(o, 'agree', 'in sync', { settled: [...o.settled, ...Object.keys(o.hold.record)], changes: [] })
        : o,
    ),
  },
  {
    invariant: 'agreement',
    wrong: 'says that it wrote the title, and does not',
    planner: each((o) => {
      if (o.kind !== 'change') return o;
      const { title: _title, ...rest } = o.eventEdits;
      return { ...o, eventEdits: rest };
    }),
  },
  {
    invariant: 'no duplicate',
    wrong: 'forgets what it began',
    planner: whole((result) => ({
      ...result,
      operations: result.operations.map((o) =>
        o.kind === 'adopt' && o.cause.includes('interruption')
          ? turned(o, 'create', 'creating', { eventEdits: { ...o.event.read.values }, pair: { ...o.pair, uid: `${o.pair.uid}-again` } })
          : o,
      ),
    })),
  },
  {
    invariant: 'no echo',
    wrong: 'writes what is there already',
    planner: whole((result, _context, gathered) => {
      const planned = new Set(result.operations.map((o) => o.pair.id));
      const [quiet] = gathered.pairs.flatMap((pair) => {
        const record = gathered.records.find((r) => r.id === pair.recordId)?.item;
        const event = gathered.events.get(pair.href ?? '');
        return pair.state !== 'in sync' || record == null || event?.read == null || planned.has(pair.id)
          ? []
          : [{ pair, record, event: { ...event, read: event.read } }];
      });
      if (quiet === undefined) return result;
      const { pair, ...sides } = quiet;
      const { title } = sides.event.read.values;
      const changes = [{ side: 'event' as const, property: 'title', before: title, after: title, cause: 'once more' }];
      const again = operation('change', pair, 'once more', { ...sides, changes, eventEdits: { title }, settled: ['title'] });
      return { ...result, operations: [...result.operations, again] };
    }),
  },
  {
    invariant: 'no removal without leave',
    wrong: 'removes instead of asking',
    planner: each((o) => (asks(o) === 'record deleted' ? turned(o, 'remove', 'removed') : o)),
  },
  {
    invariant: 'nothing else touched',
    wrong: 'clears a field that no map speaks of',
    planner: each((o) =>
      Object.keys(o.recordEdits).length > 0 && o.kind === 'change' ? { ...o, recordEdits: { ...o.recordEdits, memo: 'cleared' } } : o,
    ),
  },
  {
    invariant: 'everything explained',
    wrong: 'says nothing of what it does',
    planner: each((o) => (o.kind === 'change' ? { ...o, cause: '', changes: [] } : o)),
  },
  {
    invariant: 'time is exact',
    wrong: 'is an hour late',
    planner: each((o) => {
      const when = o.eventEdits.when;
      if (o.kind !== 'change' || when?.kind !== 'timed') return o;
      const late = (clock: string) => `${clock.slice(0, 11)}${String((Number(clock.slice(11, 13)) + 1) % 24).padStart(2, '0')}${clock.slice(13)}`;
      return { ...o, eventEdits: { ...o.eventEdits, when: { ...when, start: late(when.start), end: late(when.end) } }, settled: o.settled };
    }),
  },
  {
    invariant: 'order does not matter',
    wrong: 'lets whoever comes first win',
    inAnotherOrder: true,
    // A conflict among several records that are looked at together is rare.
    from: 580,
    planner: whole((result, _context, gathered) => ({
      ...result,
      operations: result.operations.flatMap((o) => {
        if (asks(o) !== 'conflict') return [o];
        const first = gathered.records[0]?.id === o.pair.recordId && gathered.records.length > 1;
        return [turned(o, 'change', 'in sync', { eventEdits: first ? { title: 'first' } : { title: 'not first' } })];
      }),
    })),
  },
  {
    invariant: 'no echo',
    wrong: 'does not see the mark of another lane',
    twoLanes: true,
    from: 60,
    planner: (context, gathered, due) => {
      const unmarked = [...gathered.events].map(([href, e]) => [href, e?.read == null ? e : { ...e, read: { ...e.read, mark: null } }] as const);
      return plan(context, { ...gathered, events: new Map(unmarked) }, due);
    },
  },
];
