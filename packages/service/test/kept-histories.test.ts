import { expect } from 'chai';
import { plainLane } from '../../../test/simulation/plain-lane.ts';
import type { Act } from '../../../test/simulation/reference/acts.ts';
import { playExact } from '../../../test/simulation/reference/exact.ts';

const laneWith = (more: Record<string, unknown>) =>
  plainLane({ direction: '<->', moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }], ...more });
const keeps = (what: string, lane: Record<string, unknown>, ...acts: Act[]) =>
  it(what, async () => {
    await playExact({ lane: laneWith(lane), acts });
  });
const keepsEdited = (what: string, lane: Record<string, unknown>, other: Record<string, unknown>, ...acts: Act[]) =>
  it(what, async () => {
    await playExact({ lane: laneWith(lane), other: laneWith({ ...lane, ...other }), acts });
  });

const check: Act = { do: 'run', sweep: true };
const changes: Act = { do: 'run', sweep: false };
const editRecord = (what: number, v: number): Act => ({ do: 'set record', at: 0, what, v, stamps: false });
const editEvent = (what: number, v: number): Act => ({ do: 'set event', at: 0, what, v, stamps: false });

const seriesRecord = {
  moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }],
  fields: { title: { copy: 'title' } },
  events: { repeating: 'one record' },
  window: { behind: 3, ahead: 20 },
};

/** Each of these once ended otherwise than the reference model says, and is as short as it gets. */
describe('short histories that found a fault', () => {
  keeps(
    'an edit of a record crosses whose series began before the window, also while its event is known by its ETag alone',
    seriesRecord,
    { do: 'twins', v: 728 },
    { do: 'new event', v: 0, form: 0 },
    check,
    { do: 'set record', at: 1, what: 0, v: 0, stamps: false },
    check,
  );
  keeps(
    'an audit counts once an event that a record adopts again whose own was taken away by rule',
    { direction: '<-', fields: { title: { copy: 'title' }, categories: { copy: 'tags' } } },
    { do: 'twins', v: 0 },
    { do: 'new record', v: 0 },
    { do: 'set record', at: 1, what: 5, v: 627, stamps: true },
    check,
    { do: 'settle', at: 1, choice: 2 },
    check,
    { do: 'set event', at: 0, what: 33, v: 412, stamps: true },
  );
  keeps(
    'a record whose event stands there is paired with it, also where nothing could be made for it',
    { fields: { title: { copy: 'title' }, categories: { copy: 'tags' } }, events: { filter: { field: 'categories', test: 'is empty' } } },
    { do: 'twins', v: 101 },
    check,
  );
  keeps(
    'a record gets the event that has stood at its time for long, also when only changes are looked at',
    { direction: '->' },
    { do: 'twins', v: 1 },
    editRecord(0, 2),
    check,
    { do: 'new record', v: 1 },
    changes,
  );
  keeps(
    'an event that was chosen waits for no answer any more, though its values are asked about',
    { matching: ['title'], moments: [{ name: 'visit', when: { due: 'due', show: 'ending', minutes: 90 } }] },
    { do: 'twins', v: 0 },
    check,
    { do: 'settle', at: 0, choice: 1 },
    check,
  );
  keeps(
    'a due time that came from a program which writes UTC keeps its time of day on the clock of the lane',
    { moments: [{ name: 'visit', when: { due: 'due', show: 'all-day' } }] },
    { do: 'new event', v: 0, form: 0 },
    check,
    editEvent(4, 2),
    changes,
  );
  keeps(
    'a value that the calendar does not show stays, where the event states what it shows anyway',
    { fields: { title: { copy: 'title' }, status: { table: 'status', values: { open: 'confirmed', later: 'tentative' }, direction: '<-' } } },
    { do: 'new record', v: 817 },
    check,
    { do: 'clash', at: 0, what: 8, v: 569, stamps: false },
    changes,
  );
  keeps(
    'an answer stands while the values that it was given about say the same',
    {
      direction: '->',
      fields: { title: { copy: 'title' }, status: { table: 'status', values: { open: 'confirmed', later: 'tentative' } } },
      departures: { editedAndDeleted: 'hold' },
    },
    { do: 'new record', v: 0 },
    check,
    { do: 'drop event', at: 0, v: 0 },
    editRecord(0, 1),
    changes,
    { do: 'settle', at: 0, choice: 0 },
    editRecord(14, 260),
    changes,
  );
  keeps(
    'unchanged events that a hold names get the verdict that they wait for its answer',
    {
      matching: ['attendees', 'when'],
      filter: { not: { field: 'title', test: 'words', value: 'rooke' } },
      fields: { title: { copy: 'title' }, attendees: { copy: 'guests' } },
    },
    { do: 'twins', v: 762 },
    check,
    editRecord(1, 403),
    changes,
  );
  keepsEdited(
    'an edit is not taken for one of the calendar because an earlier version of the lane had a further map of the property',
    { fields: { title: [{ copy: 'title' }, { words: 'kind', choose: [{ word: 'quill', value: 'voicing' }], direction: '<-' }] } },
    { fields: { title: { copy: 'title' } } },
    { do: 'new record', v: 245 },
    check,
    { do: 'edit lane', part: 'fields' },
    editRecord(0, 1),
    check,
    check,
    editRecord(14, 1),
    check,
  );
  keepsEdited(
    'a deleted event is not called edited too because the lane shows its record differently now',
    { fields: { title: { copy: 'title' } } },
    { fields: { title: { join: 'Visit: {title}', edit: 'title' } } },
    { do: 'new record', v: 1 },
    check,
    { do: 'edit lane', part: 'fields' },
    { do: 'drop event', at: 0, v: 0 },
    check,
  );
  keepsEdited(
    'records that only take from the calendar have the time in the fields that a new version of the lane names',
    { direction: '<-', moments: [{ name: 'visit', when: { day: 'first' } }] },
    { moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }] },
    { do: 'new event', v: 0, form: 1 },
    check,
    { do: 'edit lane', part: 'moments' },
    check,
  );
  keepsEdited(
    'a property that a new version of the lane maps is read from unchanged events',
    { direction: '->', fields: { title: { copy: 'title' } } },
    { fields: { title: { copy: 'title' }, description: { copy: 'notes' } } },
    { do: 'new record', v: 1 },
    check,
    editEvent(2, 1),
    check,
    check,
    { do: 'edit lane', part: 'fields' },
    check,
  );
  keepsEdited(
    'a mark of another lane that this lane put up with is no reason to unlink under a later version',
    { fields: { title: { copy: 'title' } }, events: { otherLanes: 'take' } },
    { events: { otherLanes: 'leave out' } },
    { do: 'new record', v: 1 },
    check,
    editEvent(14, 3),
    changes,
    { do: 'edit lane', part: 'events' },
    check,
  );
  keeps(
    'an event that was given a time in UTC keeps its time of day on the clock of the lane when its record moves to another day',
    { moments: [{ name: 'visit', when: { first: 'first', last: 'last', lastCounts: false } }] },
    { do: 'new record', v: 1 },
    check,
    editEvent(4, 7),
    changes,
    editRecord(10, 1),
    changes,
  );
  for (const [left, how] of [
    ['was deleted', { do: 'drop record', at: 0, v: 0 }],
    ['left the lane', { do: 'set record', at: 0, what: 14, v: 2, stamps: false }],
  ] as [string, Act][])
    it(`an event goes with its record that ${left}, also when it was moved to another address meanwhile`, async () => {
      const lane = laneWith({
        filter: { field: 'status', test: 'is not', value: 'done' },
        departures: { recordDeleted: 'remove', filteredOut: 'remove' },
      });
      const acts: Act[] = [{ do: 'new record', v: 1 }, check, how, { do: 'rename event', at: 0 }, changes];
      const world = await playExact({ lane, acts });
      expect([...world.calendar.events.keys()]).to.deep.equal([]);
    });
  it('an event that was copied to another address, and removed from its own at a later look, takes no record along', async () => {
    const lane = laneWith({ may: { records: { create: false } }, departures: { eventDeleted: 'delete record' } });
    const acts: Act[] = [{ do: 'new record', v: 1 }, check, { do: 'copy with UID', at: 0 }, changes, { do: 'drop event', at: 0, v: 0 }, changes];
    const world = await playExact({ lane, acts });
    expect(world.records.live().map((r) => r.id)).to.deep.equal(['R1']);
    expect(world.store.journal.at(-1)!.cause).to.equal('the event stands at another address now');
  });
  keepsEdited(
    'an event that a record may be paired with becomes no record of its own, also where the lane was stopped and started again',
    { matching: ['when', 'location'], may: { calendar: { create: false } } },
    { matching: ['title', 'when'] },
    { do: 'twins', v: 0 },
    check,
    { do: 'stop and start', how: 'remove' },
    { do: 'edit lane', part: 'matching' },
    check,
  );
  keeps(
    'a record is not called a duplicate any more once the copy of its event is gone',
    {},
    { do: 'new record', v: 1 },
    check,
    { do: 'copy with UID', at: 0 },
    check,
    { do: 'drop event', at: 1, v: 0 },
    check,
  );
  keepsEdited(
    'an event that was moved while its record is out of the window is known at its new address',
    {},
    { window: { behind: 1, ahead: 1 } },
    { do: 'new record', v: 1 },
    check,
    { do: 'edit lane', part: 'window' },
    check,
    { do: 'rename event', at: 0 },
    changes,
    { do: 'stop and start', how: 'unlink' },
    check,
  );
  keeps(
    'an event that was given days has the time of day of its record, in the zone that the record names',
    {},
    { do: 'new event', v: 76, form: 2 },
    check,
    editEvent(5, 911),
    check,
    editEvent(5, 828),
    check,
  );
  keepsEdited(
    'a copy that takes the place of its original is not called a duplicate any more, also while its record is out of the window',
    {},
    { window: { behind: 1, ahead: 1 } },
    { do: 'new record', v: 1 },
    check,
    { do: 'copy with UID', at: 0 },
    check,
    { do: 'edit lane', part: 'window' },
    { do: 'drop event', at: 0, v: 0 },
    check,
  );
  keepsEdited(
    'a copy that takes the place of a later moment is not called a duplicate any more either',
    {
      moments: [
        { name: 'visit', when: { start: 'start', end: 'end' } },
        { name: 'follow', when: { due: 'follow', show: 'all-day' } },
      ],
    },
    { window: { behind: 1, ahead: 1 } },
    { do: 'new record', v: 2 },
    check,
    { do: 'copy with UID', at: 1 },
    check,
    { do: 'edit lane', part: 'window' },
    { do: 'drop event', at: 1, v: 0 },
    check,
  );
  keeps(
    'a copy that is unlinked in the place of its original is not called a duplicate any more',
    { departures: { recordDeleted: 'keep' } },
    { do: 'new record', v: 1 },
    check,
    { do: 'copy with UID', at: 0 },
    check,
    { do: 'drop event', at: 0, v: 0 },
    { do: 'drop record', at: 0, v: 0 },
    check,
  );
  keeps(
    'an event that was moved stays with its record, also where another record matches it',
    { direction: '<-' },
    { do: 'twins', v: 10 },
    editRecord(0, 0),
    check,
    { do: 'edit lane', part: 'fields' },
    { do: 'rename event', at: 0 },
    editRecord(0, 10),
    check,
  );
  keeps(
    'a copy becomes a record of the moment of new events, whatever moment its original was of',
    {
      fields: { title: { copy: 'title' } },
      departures: { eventFilteredOut: 'delete record', recordDeleted: 'keep' },
      events: { filter: { field: 'all-day', test: 'is', value: false } },
      moments: [
        { name: 'visit', when: { start: 'start', end: 'end' } },
        { name: 'follow', direction: '->', when: { start: 'follow', minutes: 30 } },
      ],
    },
    { do: 'new record', v: 110 },
    check,
    { do: 'copy with UID', at: 1 },
    check,
    { do: 'clash', at: 1, what: 16, v: 212, stamps: false },
    check,
    check,
  );
  keeps(
    'a series becomes a record on the day on which the window reaches it, not at the hour at which it begins',
    seriesRecord,
    { do: 'new event', v: 752, form: 1 },
    check,
    { do: 'wait', hours: 94 },
    changes,
  );
  keeps(
    'a record that holds what no table names is not filled from the event like an empty one when they are first paired',
    {
      fields: { title: { copy: 'title' }, status: { table: 'status', values: { open: 'confirmed', later: 'tentative' } } },
      conflicts: { rule: 'hold', tolerance: 60, fields: {} },
    },
    { do: 'twins', v: 11 },
    editEvent(38, 7),
    check,
  );
  keepsEdited(
    'what was edited on both sides is still a conflict after its event took place again, whatever the lane is edited to',
    {
      fields: { title: { copy: 'title' } },
      conflicts: { rule: 'records win', tolerance: 60, fields: {} },
      departures: { eventDeleted: 'create again', eventCancelled: 'as deleted' },
    },
    { departures: { eventDeleted: 'hold', eventCancelled: 'hold' } },
    { do: 'twins', v: 10 },
    check,
    { do: 'clash', at: 0, what: 1, v: 105, stamps: false },
    editEvent(6, 179),
    changes,
    { do: 'edit lane', part: 'departures' },
    check,
  );
  keeps(
    'what one moment of a record writes, an answer about another may write back in the same run',
    {
      fields: {
        title: [{ copy: 'title' }, { words: 'kind', choose: [{ word: 'marsh', value: 'tuning' }], direction: '<-' }],
      },
      conflicts: { rule: 'records win', tolerance: 60, fields: {} },
      departures: { eventCancelled: 'hold' },
      sets: { eventCancelled: { kind: null } },
      moments: [
        { name: 'visit', when: { start: 'start', end: 'end' } },
        { name: 'follow', direction: '->', fields: { title: { join: 'After {title}', direction: '->' } }, when: { start: 'follow', minutes: 30 } },
      ],
    },
    { do: 'new record', v: 186 },
    check,
    { do: 'set event', at: 1, what: 38, v: 995, stamps: true },
    changes,
    { do: 'clash', at: 0, what: 0, v: 7, stamps: true },
    { do: 'settle', at: 0, choice: 1 },
    check,
  );
});
