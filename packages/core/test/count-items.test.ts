import { countItems, stepOf } from '@monsoon/core';
import { expect } from 'chai';

describe('counting', () => {
  it('puts days into weeks that begin on Monday, and months', () => {
    expect(stepOf('2026-11-29', 'week')).to.equal('2026-11-23');
    expect(stepOf('2026-11-30', 'week')).to.equal('2026-11-30');
    expect(stepOf('2027-01-03', 'week'), 'over the turn of the year').to.equal('2026-12-28');
    expect(stepOf('2026-02-28', 'month')).to.equal('2026-02-01');
  });

  it('counts by step and group, with empty steps, and compares weeks and months', () => {
    const items = [
      { day: '2026-11-02', group: 'Leeds' },
      { day: '2026-11-02', group: 'Halifax' },
      { day: '2026-11-17', group: 'Leeds' },
      { day: '2026-11-20', group: 'Leeds' },
      { day: '2026-10-05', group: 'Leeds' },
      { day: '2026-10-30', group: 'Leeds' },
      { day: '2027-11-02', group: 'Leeds' },
    ];
    const found = countItems(items, 'week', '2026-11-02', '2026-11-22', '2026-11-20');
    expect(found.steps).to.deep.equal(['2026-11-02', '2026-11-09', '2026-11-16']);
    expect(found.groups).to.deep.equal([
      { name: 'Leeds', counts: [1, 0, 2], total: 3 },
      { name: 'Halifax', counts: [1, 0, 0], total: 1 },
    ]);
    expect(found.lately).to.deep.equal({ week: 2, weekBefore: 0, month: 4, monthBefore: 1 });
  });

  it('counts from one day to another, both included, the largest groups first, by days and by months', () => {
    const items = [
      ...['2026-10-31', '2026-11-01', '2026-11-03', '2026-11-04'].map((day) => ({ day, group: 'Halifax' })),
      ...['2026-11-01', '2026-11-02', '2026-11-03'].map((day) => ({ day, group: 'Leeds' })),
      { day: '2026-11-02', group: 'Keighley' },
    ];
    const byDay = countItems(items, 'day', '2026-11-01', '2026-11-03', '2026-11-10');
    expect(byDay.steps).to.deep.equal(['2026-11-01', '2026-11-02', '2026-11-03']);
    expect(byDay.groups).to.deep.equal([
      { name: 'Leeds', counts: [1, 1, 1], total: 3 },
      { name: 'Halifax', counts: [1, 0, 1], total: 2 },
      { name: 'Keighley', counts: [0, 1, 0], total: 1 },
    ]);
    expect(byDay.total).to.equal(6);
    // Seven days before, and the seven before those.
    expect(byDay.lately).to.deep.include({ week: 1, weekBefore: 7 });
    const byMonth = countItems(items, 'month', '2026-10-01', '2026-12-31', '2026-11-10');
    expect(byMonth.steps).to.deep.equal(['2026-10-01', '2026-11-01', '2026-12-01']);
    expect(byMonth.groups[0]).to.deep.equal({ name: 'Halifax', counts: [1, 3, 0], total: 4 });
  });

  it('puts small groups together, and loses none', () => {
    const items = Array.from({ length: 40 }, (_, i) => ({ day: '2026-11-02', group: `owner ${i}` }));
    const { groups, total } = countItems(items, 'day', '2026-11-02', '2026-11-02', '2026-11-02');
    expect(groups).to.have.length(20);
    expect(groups.at(-1)).to.deep.equal({ name: 'all others', counts: [21], total: 21 });
    const exactly = countItems(items.slice(0, 20), 'day', '2026-11-02', '2026-11-02', '2026-11-02');
    expect(exactly.groups.map((g) => g.name)).to.have.members(items.slice(0, 20).map((i) => i.group));
    expect(groups.reduce((n, g) => n + g.total, 0))
      .to.equal(total)
      .and.to.equal(40);
  });
});
