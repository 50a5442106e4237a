import { damageToJudge, type Gathered, guard, type Pair, pairId, plan, step, withMark } from '@monsoon/core';
import { expect } from 'chai';
import { among, context, event, gathered, heldBy, kinds, LANE, lane, pair, paired, record, values } from './engine-fixtures.ts';

describe('judging and planning', () => {
  it('makes an event for a record that belongs, under a UID that anybody would compute again', () => {
    const [operation] = plan(context(), gathered({})).operations;
    expect(operation).to.include({ kind: 'create', cause: 'new in the records' });
    expect(operation!.pair).to.include({ uid: pairId(LANE, 'V-1', 'visit'), state: 'creating' });
    expect(plan(context(), gathered({})).operations[0]!.pair.uid).to.equal(operation!.pair.uid);
  });

  it('makes an event for each moment of a record, each with its own time and title', () => {
    const twice = lane({
      moments: [
        { name: 'visit', when: { start: 'start', length: 'length' } },
        { name: 'packing', when: { due: 'start', show: 'ending', minutes: 20 }, fields: { title: { join: 'Pack for {customer}' } } },
      ],
    });
    const { operations } = plan(context(twice), gathered({}));
    expect(operations.map((o) => o.pair.label)).to.deep.equal(['Marsh: tuning', 'Pack for Marsh']);
    expect(new Set(operations.map((o) => o.pair.uid)).size).to.equal(2);
    expect(operations[1]!.changes[0]!.after).to.include({ start: '2026-12-01T08:40:00', end: '2026-12-01T09:00:00' });
  });

  it('knows what it was writing when the answer was lost, and asks nobody about it', () => {
    const both = lane({
      direction: '<->',
      fields: { title: { join: '{customer}[: {kind}]' }, description: { copy: 'notes' } },
      conflicts: { rule: 'calendar wins' },
    });
    const lost = { side: 'event' as const, property: 'description', before: null, after: 'first', cause: 'changed in the record' };
    const now = (notes: string | null, description: string | null, attempted: Pair['attempted']) =>
      plan(context(both), paired(record({ notes }), event({ description }), {}, pair({ attempted }))).operations[0];
    // Our own writing stands there, and the record was edited since: that edit crosses, whoever wins conflicts.
    expect(now('second', 'first', [lost])).to.deep.include({ kind: 'change', eventEdits: { description: 'second' }, recordEdits: {} });
    // Taken back in the record, it is taken back on the calendar, and not written into the record.
    expect(now(null, 'first', [lost])).to.deep.include({ kind: 'change', eventEdits: { description: null }, recordEdits: {} });
    expect(now('first', 'first', [lost])!.kind).to.equal('agree');
    // Somebody else's words are an edit, attempt or not.
    expect(now('second', 'theirs', [lost])!.recordEdits).to.deep.equal({ notes: 'theirs' });
    const backwards = { side: 'record' as const, property: 'notes', before: null, after: 'from the calendar', cause: 'changed on the calendar' };
    expect(now('from the calendar', 'since then', [backwards])).to.deep.include({
      kind: 'change',
      eventEdits: {},
      recordEdits: { notes: 'since then' },
    });
  });

  it('does nothing where nothing changed', () => {
    expect(plan(context(), paired(record(), event()))).to.deep.include({ operations: [], unchanged: 1 });
  });

  it('adopts one event with the same title and start, holds back before several, and never takes a marked one', () => {
    const byHand = event({ description: 'by hand' }, 'by-hand', false);
    expect(kinds(plan(context(), gathered(among(byHand))))).to.deep.equal(['adopt']);
    const two = plan(context(), gathered(among(byHand, { ...event({}, 'other', false), href: '/c/2.ics' })));
    expect(kinds(two)).to.deep.equal(['hold']);
    expect(heldBy(two.operations[0]).choices).to.deep.equal(['take by-hand', 'take other', 'create new', 'leave out']);
    expect(two.verdicts[0]!.verdict).to.include({ reason: 'several candidates' });
    expect(kinds(plan(context(), gathered(among(event({}, 'of-another-lane')))))).to.deep.equal(['create']);
    expect(plan(context(), gathered(among(event()))).operations[0], 'its own, made before a crash').to.include({
      kind: 'adopt',
      cause: 'it was made before an interruption',
    });
  });

  it('leaves an event to another lane that has written on it since, unless it is told to share, and then puts nothing back', () => {
    const theirs = event({ title: 'Theirs' }, 'of-both');
    theirs.read!.mark = { lane: '3d7a8f60-94c2-4b1e-8d0f-5c2b7e9a1f44', pair: 'p' };
    const found = plan(context(), paired(record(), theirs));
    expect(found.operations[0]).to.deep.include({ kind: 'unlink', eventEdits: {}, recordEdits: {} });
    expect(found.operations[0]!.pair.state).to.equal('unlinked');
    expect(found.verdicts[0]!.verdict).to.include({ reason: 'made by another lane', condition: 'it carries no mark of another lane' });
    expect(kinds(plan(context(lane({ events: { otherLanes: 'take' } })), paired(record(), theirs)))).to.deep.equal([]);
    // It was theirs already when the pair was made, by a link for instance.
    const known = withMark({ record: values, event: values }, theirs.read!.mark, LANE);
    expect(kinds(plan(context(), paired(record(), theirs, {}, pair({ baseline: known }))))).to.deep.equal([]);
    expect(withMark(known, null, LANE).event).to.deep.equal(values);
  });

  it('sends what changed in the record and only that', () => {
    const [operation] = plan(context(), paired(record({ kind: 'voicing' }), event())).operations;
    expect(operation).to.include({ kind: 'change' });
    expect(operation!.changes).to.deep.equal([
      { side: 'event', property: 'title', before: 'Marsh: tuning', after: 'Marsh: voicing', cause: 'changed in the record' },
    ]);
  });

  it('moves the baseline alone when both sides came to say the same', () => {
    expect(kinds(plan(context(), paired(record({ kind: 'voicing' }), event({ title: 'Marsh: voicing' }))))).to.deep.equal(['agree']);
  });

  for (const [what, fields, definition, expected] of [
    ['no date', { start: null }, {}, { reason: 'no date', value: '(empty)' }],
    [
      'a failed filter',
      { kind: 'voicing' },
      { filter: { all: [{ field: 'kind', test: 'is', value: 'tuning' }] } },
      { reason: 'filtered out', condition: 'kind is tuning', value: 'voicing' },
    ],
    ['a private record', { private: true }, { private: { field: 'private', treat: 'leave out' } }, { reason: 'private', value: 'yes' }],
    [
      'a day outside of the window',
      { start: '2027-06-01T09:00:00' },
      { window: { behind: 10, ahead: 20 } },
      { reason: 'out of the window', recheckAt: '2027-05-11T23:00:00Z' },
    ],
    ['a length that is none', { length: -5 }, {}, { reason: 'unfit value' }],
    ['a date that does not exist', { start: '2026-02-30T09:00:00' }, {}, { reason: 'unfit value' }],
  ] as const) {
    it(`leaves ${what} out, with the condition and the value`, () => {
      const result = plan(context(lane(definition)), gathered({ records: [{ id: 'V-1', item: record(fields) }] }));
      expect(result.operations).to.deep.equal([]);
      expect(result.verdicts[0]!.verdict).to.include(expected);
    });
  }

  it('never removes what only left the window', () => {
    expect(
      plan(context(lane({ window: { behind: 1, ahead: 1 }, departures: { filteredOut: 'remove', dateLost: 'remove' } })), paired(record(), event()))
        .operations,
    ).to.deep.equal([]);
  });

  for (const [departure, item, e] of [
    ['recordDeleted', null, event()],
    ['dateLost', record({ start: null }), event()],
    ['filteredOut', record({ private: true }), event()],
    ['eventDeleted', record(), null],
  ] as const) {
    it(`settles "${departure}" by the lane's rule, holds by default, and takes a person's answer`, () => {
      const rules = { private: { field: 'private', treat: 'leave out' } };
      const by = (choice?: string, more: Partial<Gathered> = {}, p = pair()) =>
        plan(context(lane({ ...rules, departures: choice === undefined ? {} : { [departure]: choice } })), paired(item, e, more, p));
      expect(kinds(by())).to.deep.equal(['hold']);
      const asked = heldBy(by().operations[0]);
      const holding = (choice: string | null): Partial<Gathered> => ({
        holds: new Map([[pair().id, { question: asked.question, asked: asked.asked, choice }]]),
      });
      expect(kinds(by(undefined, holding(null), pair({ state: 'held' }))), 'held once only').to.deep.equal([]);
      const [first, second] = departure === 'eventDeleted' ? (['create again', 'unlink'] as const) : (['remove', 'keep'] as const);
      const does = { 'create again': 'create', unlink: 'unlink', remove: 'remove', keep: 'unlink' };
      for (const choice of [first, second]) {
        expect(kinds(by(choice)), choice).to.deep.equal([does[choice]]);
        expect(kinds(by(undefined, holding(choice), pair({ state: 'held' }))), `settled: ${choice}`).to.deep.equal([does[choice]]);
      }
    });
  }

  it('makes a removed one again when it comes back, and lets a unlinked one be', () => {
    expect(plan(context(), paired(record(), null, {}, pair({ state: 'removed', href: null }))).operations[0]).to.include({
      kind: 'create',
      cause: 'it belongs again',
    });
    const unlinked = plan(context(), paired(record({ kind: 'voicing' }), event(), {}, pair({ state: 'unlinked' })));
    expect(unlinked.operations).to.deep.equal([]);
    expect(unlinked.verdicts[0]!.verdict!.reason).to.equal('no longer followed');
  });

  it('looks for an event whose making was interrupted', () => {
    const making = pair({ state: 'creating', baseline: null, etag: null });
    expect(kinds(plan(context(), paired(record(), event(), {}, making)))).to.deep.equal(['adopt']);
    expect(kinds(plan(context(), paired(record(), null, {}, making)))).to.deep.equal(['create']);
  });

  it('is refused an impossible step in the life of a pair', () => {
    expect(() => step('unlinked', 'creating')).to.throw('a pair cannot go from unlinked to creating');
  });

  it('remembers where a moved event stands, and who edited it last, where nothing can be agreed on', () => {
    const both = lane({
      direction: '<->',
      fields: { title: { join: '{customer}[: {kind}]' }, status: { table: 'kind', values: { tuning: 'confirmed' } } },
    });
    const stamps = { record: null, event: '2026-11-01T00:00:00Z' };
    const agreed = { ...values, status: 'confirmed' as const };
    const p = pair({ etag: null, baseline: { record: agreed, event: agreed, stamps } as Pair['baseline'] });
    const moved = { ...event({ status: 'tentative' }), href: '/c/2.ics' };
    const found = paired(record(), null, { ...among(moved) }, p);
    const result = plan(context(both), found);
    expect(result.operations).to.deep.equal([]);
    expect(result.refreshed).to.deep.equal([{ ...p, href: '/c/2.ics' }]);
    expect(result.verdicts.find((v) => v.recordId === 'V-1')!.verdict).to.include({ reason: 'unfit value' });
  });
});

describe('the guard', () => {
  const operations = (removals: number, rewrites: number) => ({ removals, rewrites });
  const limits = { removals: 10, removedPercent: 20, rewrittenPercent: 50 };
  it('holds too many removals, too large a share, and too much rewriting', () => {
    expect(guard(operations(11, 0), 1000, limits).reasons[0]).to.match(/11 items; the guard lets 10 through/);
    expect(guard(operations(3, 0), 12, limits).reasons[0]).to.match(/3 of 12/);
    expect(guard(operations(0, 51), 100, limits).reasons[0]).to.match(/rewrite 51 of 100/);
    expect(guard(operations(10, 50), 100, limits).reasons).to.deep.equal([]);
    expect(guard(operations(1, 1), 2, limits).reasons, 'shares of a handful say little').to.deep.equal([]);
  });
  it('lets through what a person allowed, and no more', () => {
    const shown = { removals: 2, rewrites: 1, items: ['remove a', 'remove b', 'rewrite c'] };
    expect(damageToJudge(shown, null)).to.equal(shown);
    expect(damageToJudge(shown, shown)).to.deep.equal({ removals: 0, rewrites: 0 });
    const others = { removals: 2, rewrites: 2, items: ['remove a', 'remove c', 'rewrite c', 'rewrite b'] };
    expect(damageToJudge(others, shown), 'as many, and others').to.deep.equal({ removals: 2, rewrites: 2 });
    expect(damageToJudge({ removals: 1, rewrites: 0, items: ['remove b'] }, shown), 'fewer of them').to.deep.equal({ removals: 0, rewrites: 0 });
    // As an earlier version kept it.
    expect(damageToJudge(others, { removals: 2, rewrites: 1 })).to.deep.equal({ removals: 0, rewrites: 2 });
  });
});

describe('a record that holds the rule of a series', () => {
  const when = { kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' };
  const recurrence = 'RRULE:FREQ=WEEKLY;COUNT=4';
  const said = { title: values.title, when, recurrence };
  const planned = (start: string, now: object, fields: object) =>
    plan(
      context(lane({ fields: { title: { join: '{customer}[: {kind}]' }, ...fields } })),
      paired(record({ start, notes: 'FREQ=WEEKLY;COUNT=4' }), event(now), {}, pair({ baseline: { record: said, event: said } as Pair['baseline'] })),
    ).operations[0]!;
  const rule = { recurrence: { rule: 'notes' } };

  it('takes the whole series along where only records lead', () => {
    expect(planned('2026-12-02T09:00:00', said, rule)).to.deep.include({
      kind: 'change',
      eventEdits: { when: { ...when, start: '2026-12-02T09:00:00', end: '2026-12-02T10:00:00' } },
    });
    const { title, recurrence: _no, ...single } = said;
    expect(planned('2026-12-01T09:00:00', { title, ...single }, rule).eventEdits, 'does not repeat any more').to.deep.equal({ recurrence });
  });

  it('takes up the series that stands for it already, and no series for a record of one time', () => {
    const there = event(said, 'foreign', false);
    const kindsFor = (notes: string | null) =>
      kinds(
        plan(
          context(lane({ fields: { title: { join: '{customer}[: {kind}]' }, ...rule } })),
          gathered({ records: [{ id: 'V-1', item: record({ notes }) }], ...among(there) }),
        ),
      );
    expect(kindsFor('FREQ=WEEKLY;COUNT=4')).to.deep.equal(['adopt']);
    expect(kindsFor(null)).to.deep.equal(['create']);
  });

  it('asks where the record holds one time alone', () => expect(planned('2026-12-02T09:00:00', said, {}).kind).to.equal('hold'));
});

describe('a series on another clock, or in an hour that the clock skips', () => {
  const skipped = { kind: 'timed', start: '2027-03-28T01:30:00', end: '2027-03-28T02:30:00', zone: 'Europe/London' };
  const after = { ...skipped, start: '2027-03-28T02:30:00', end: '2027-03-28T03:30:00' };
  const rule = 'FREQ=WEEKLY;COUNT=4';
  const recurrence = `RRULE:${rule}`;
  const fields = { title: { join: '{customer}[: {kind}]' }, recurrence: { rule: 'notes' } };
  const one = (direction: string) => lane({ direction, fields, events: { repeating: 'one record' } });
  const planned = (direction: string, [notes, shown]: [string | null, string | null], [before, now]: [object, object]) => {
    const was = { title: values.title, when: after, recurrence: shown };
    const agreed = pair({ baseline: { record: was, event: { ...was, ...before } } as Pair['baseline'] });
    return plan(context(one(direction)), paired(record({ start: '2027-03-28T02:30:00', notes }), event(now), {}, agreed));
  };
  const reason = /the clock skips/;

  it('does not come to the record, neither dragged there nor made to repeat there', () => {
    for (const before of [
      { when: after, recurrence },
      { when: skipped, recurrence: null },
    ]) {
      const shown = before.recurrence;
      const { operations, verdicts } = planned('<->', [shown === null ? null : rule, shown], [before, { when: skipped, recurrence }]);
      expect(operations.flatMap((o) => o.changes)).to.deep.equal([]);
      expect(verdicts[0]!.verdict).to.include({ reason: 'unfit value' }).and.property('condition').match(reason);
    }
  });

  it('is made no record of', () => {
    const newcomer = event({ when: skipped, recurrence }, 'foreign', false);
    const { operations, verdicts } = plan(context(one('<->')), gathered({ records: [], newcomers: [newcomer], ...among(newcomer) }));
    expect(operations).to.deep.equal([]);
    expect(verdicts[0]!.verdict!.condition).to.match(reason);
  });

  it("gets the record's clock where the record leads", () => {
    const dragged = planned(
      '->',
      [rule, recurrence],
      [
        { when: after, recurrence },
        { when: skipped, recurrence },
      ],
    );
    expect(dragged.operations[0]!.eventEdits).to.deep.equal({ when: after });
    const repeats = planned('<->', [rule, null], [{ when: skipped, recurrence: null }, { when: skipped }]);
    expect(repeats.operations[0]!.eventEdits).to.deep.equal({ when: after, recurrence });
  });

  it("gets the record's clock where it stood in UTC and begins to repeat as the record says", () => {
    const utc = { kind: 'timed', start: '2027-03-28T01:30:00', end: '2027-03-28T02:30:00', zone: 'UTC' };
    const repeats = planned('<->', [rule, null], [{ when: utc, recurrence: null }, { when: utc }]);
    expect(repeats.operations[0]!.eventEdits).to.deep.equal({ when: after, recurrence });
    const single = planned('<->', [null, null], [{ when: utc, recurrence: null }, { when: utc }]);
    expect(single.operations, 'once, an instant is an instant').to.deep.equal([]);
  });

  it('does not go to the calendar from a record that says just that hour', () => {
    const { operations, verdicts } = plan(
      context(one('->')),
      gathered({ records: [{ id: 'V-1', item: record({ start: '2027-03-28T01:30:00', notes: rule }) }] }),
    );
    expect(operations).to.deep.equal([]);
    expect(verdicts[0]!.verdict!.condition).to.match(reason);
  });
});
