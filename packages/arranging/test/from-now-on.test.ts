import { fromNowOn } from '@monsoon/arranging';
import { expect } from 'chai';

describe('an answer from now on', () => {
  const lane = { conflicts: { rule: 'hold' as const, tolerance: 2, fields: {} }, departures: { eventDeleted: 'hold' } as never };
  it('is a rule of the properties that were asked about, or of that departure', () => {
    expect(fromNowOn(lane, 'conflict', 'records win', ['title', 'length'])!.conflicts).to.deep.equal({
      rule: 'hold',
      tolerance: 2,
      fields: { title: 'records win' },
    });
    expect(fromNowOn(lane, 'event deleted', 'create again', [])!.departures).to.deep.equal({ eventDeleted: 'create again' });
  });
  it('is none where it is about one item alone', () => {
    expect(fromNowOn(lane, 'several candidates', 'create new', [])).to.equal(null);
    expect(fromNowOn(lane, 'event cancelled', 'keep', [])).to.equal(null);
  });
});
