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

  it('puts small groups together, and loses none', () => {
    const items = Array.from({ length: 40 }, (_, i) => ({ day: '2026-11-02', group: `owner ${i}` }));
    const { groups, total } = countItems(items, 'day', '2026-11-02', '2026-11-02', '2026-11-02');
    expect(groups).to.have.length(20);
    expect(groups.reduce((n, g) => n + g.total, 0))
      .to.equal(total)
      .and.to.equal(40);
  });
});
