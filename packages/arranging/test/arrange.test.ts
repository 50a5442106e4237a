import { arrange, compareLanes, sayLane, soundPart, starters } from '@monsoon/arranging';
import { starterNames } from '@monsoon/contract';
import { type Collection, departureChoices, nearestWord, parseLane, quietUntil, type RecordItem } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';

const field = (name: string, type: Collection['fields'][number]['type'], more: object = {}) => ({ name, label: name, type, ...more });
const may = { create: true, change: true, remove: true };
const hires: Collection = {
  name: 'hire',
  label: 'Hires',
  may,
  retries: 'none',
  stamps: { created: true, modified: true },
  fields: [
    field('customer', 'reference'),
    field('instrument', 'text'),
    field('delivery_at', 'date-time'),
    field('renewal_on', 'date'),
    field('status', 'choice', { choices: ['booked', 'out', 'returned'] }),
    field('confidential', 'yes/no'),
  ],
};
const leave: Collection = {
  name: 'leave',
  label: 'Leave',
  may,
  retries: 'none',
  stamps: { created: true, modified: true },
  fields: [
    field('person', 'text'),
    field('first_day', 'date'),
    field('last_day', 'date'),
    field('site', 'choice', { choices: ['Leeds', 'Halifax'] }),
  ],
};
const tasks: Collection = {
  name: 'tasks',
  label: 'Tasks',
  may,
  retries: 'key',
  stamps: { created: true, modified: true },
  fields: [field('title', 'text'), field('details', 'long text'), field('due', 'date'), field('state', 'choice', { choices: ['open', 'done'] })],
};
const records = (n: number, fields: RecordItem['fields']): RecordItem[] => Array.from({ length: n }, (_, i) => ({ id: String(i), fields }));
const sides = (collection: string) => ({
  records: { system: 'book', collection },
  calendar: { system: 'diary', calendar: 'A' },
  zone: 'Europe/London',
});
const zones = loadZones();

describe('arranging a lane from what is found', () => {
  it('have the names by which the HTTP interface knows them', () => {
    expect(starters.map((s) => s.slug)).to.deep.equal([...starterNames]);
  });

  it('suggests times and maps that work as they are, each with its reason, for every starter and collection', () => {
    for (const collection of [hires, leave, tasks])
      for (const starter of starters) {
        const { definition, reasons } = arrange(collection, [], { ...sides(collection.name), starter: starter.slug });
        const { problems } = soundPart(definition, collection, zones);
        // Where a starter does not suit a collection, what is missing is the title or a way back, never something broken.
        expect(
          problems.filter((p) => !/\/fields\/title|\/moments|\/may/.test(p.pointer)),
          `${starter.slug} of ${collection.name}`,
        ).to.deep.equal([]);
        expect(reasons.every((r) => r.pointer.startsWith('/') && r.reason !== '')).to.equal(true);
      }
  });

  it('takes several dates as moments, day ranges whole, and finished tasks out', () => {
    const several = arrange(hires, records(3, { status: 'booked' }), { ...sides('hire'), starter: 'several-dates' }).definition;
    expect(several).to.deep.include({
      moments: [
        { name: 'delivery_at', when: { start: 'delivery_at', minutes: 60 } },
        { name: 'renewal_on', when: { day: 'renewal_on' } },
      ],
      private: { field: 'confidential', treat: 'leave out' },
    });
    expect((several['fields'] as { title: object }).title).to.deep.equal({ join: '{customer}: {instrument}', edit: 'instrument' });
    const absences = arrange(leave, [], { ...sides('leave'), starter: 'absences' }).definition;
    expect(absences['moments']).to.deep.equal([{ name: 'leave', when: { first: 'first_day', last: 'last_day', lastCounts: true } }]);
    expect((absences['fields'] as { categories: object }).categories).to.deep.equal({ copy: 'site' });
    const due = arrange(tasks, records(2, { state: 'done' }), { ...sides('tasks'), starter: 'due-tasks' }).definition;
    expect(due).to.deep.include({ filter: 'state none of [done]', direction: '<->', moments: [{ name: 'task', when: { day: 'due' } }] });
  });

  it('shows the sound part of an unfinished lane, and names everything that is missing or wrong', () => {
    const draft = {
      name: 'T',
      direction: '->',
      zone: 'Europe/Londn',
      filter: 'state is dnoe',
      fields: { title: { copy: 'title' }, description: { copy: 'detials' } },
    };
    const { definition, problems } = soundPart(draft, tasks, zones);
    expect(definition).to.deep.include({ name: 'T', filter: null, zone: 'UTC' });
    expect(definition.fields).to.deep.include({ title: { copy: 'title' } });
    expect(problems.map((p) => p.pointer)).to.include.members(['/moments']);
    const dated = soundPart(
      {
        ...draft,
        records: { system: 'b', collection: 'tasks' },
        calendar: { system: 'd', calendar: 'A' },
        moments: [{ name: 'due', when: { day: 'due' } }],
      },
      tasks,
      zones,
    );
    expect(dated.problems.map((p) => p.pointer)).to.have.members(['/zone', '/filter/value', '/fields/description/copy']);
    expect(dated.problems.find((p) => p.pointer === '/fields/description/copy')!.reason).to.match(/did you mean "details"\?/);
    expect(soundPart({ filter: 'state is (' }, tasks, zones).problems[0]!.reason).to.match(/column/);
    expect(soundPart({ fields: 5, moments: 'x', records: [] } as never, null, zones).definition.moments).to.have.length(1);
  });

  it('compares versions setting by setting, and says a lane in words', () => {
    const one = parseLane(arrange(tasks, [], { ...sides('tasks'), starter: 'due-tasks' }).definition);
    const two = { ...one, checkEvery: 5, filter: null, departures: { ...one.departures, eventDeleted: 'create again' as const } };
    expect(compareLanes(one, one)).to.deep.equal([]);
    expect(compareLanes(one, two)).to.have.deep.members([
      { pointer: '/checkEvery', before: 10, after: 5 },
      { pointer: '/filter', before: 'state none of [done]', after: null },
      { pointer: '/departures/eventDeleted', before: 'hold', after: 'create again' },
    ]);
    expect(sayLane(two, { records: 'Tasks', calendar: 'Restoration' }).join(' '))
      .to.match(/Tasks and Restoration are kept alike, both ways\. In Restoration, new events are made/)
      .and.match(/When an event is deleted, it is created again/);
  });

  it('says every way in which an item may leave in words', () => {
    const lane = parseLane(arrange(tasks, [], { ...sides('tasks'), starter: 'due-tasks' }).definition);
    for (const [departure, choices] of Object.entries(departureChoices))
      for (const choice of choices) {
        const said = sayLane({ ...lane, departures: { ...lane.departures, [departure]: choice } }, { records: 'Tasks', calendar: 'Restoration' });
        expect(said.join(' '), `${departure}: ${choice}`).not.to.include('undefined');
      }
  });

  it('knows until when a lane is quiet, over midnight and through a change of clocks', () => {
    const until = (quiet: { from: string; until: string } | null, now: string) => quietUntil({ quiet, zone: 'Europe/London' }, now, zones);
    const night = { from: '22:00', until: '06:00' };
    expect(until(null, '2026-06-01T12:00:00Z')).to.equal(null);
    expect(until(night, '2026-06-01T12:00:00Z')).to.equal(null);
    expect(until(night, '2026-06-01T21:00:00Z')).to.equal('2026-06-02T05:00:00Z');
    expect(until(night, '2026-06-02T04:59:00Z')).to.equal('2026-06-02T05:00:00Z');
    expect(until(night, '2026-06-02T05:00:00Z')).to.equal(null);
    // Clocks go back in that night.
    expect(until(night, '2026-10-24T22:30:00Z')).to.equal('2026-10-25T06:00:00Z');
    expect(until({ from: '12:00', until: '13:00' }, '2026-12-01T12:30:00Z')).to.equal('2026-12-01T13:00:00Z');
    expect(
      soundPart({ quiet: { from: '9', until: '10:00' } }, null, zones)
        .problems.map((p) => p.reason)
        .join(),
    ).to.match(/"9" is not a time such as 22:00/);
  });

  it('finds the word that was meant, and none where nothing is near', () => {
    expect(nearestWord('statsu', ['status', 'start', 'site'])).to.equal('status');
    expect(nearestWord('zzz', ['status', 'start'])).to.equal(undefined);
  });
});
