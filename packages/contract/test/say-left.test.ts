import { sayLeft } from '@monsoon/contract';
import { expect } from 'chai';

describe('the time that a run still takes', () => {
  const begun = { startedAt: '2026-11-23T10:00:00Z', planned: 1000 };
  const now = Date.parse('2026-11-23T10:01:00Z');
  it('is told from how far it is, and not before that says something', () => {
    expect(sayLeft({ ...begun, done: 500 }, now)).to.equal('about 60 s left');
    expect(sayLeft({ ...begun, done: 100 }, now)).to.equal('about 9 min left');
    expect(sayLeft({ ...begun, done: 0 }, now)).to.equal('');
    expect(sayLeft({ ...begun, done: 1000 }, now)).to.equal('');
    expect(sayLeft({ ...begun, done: 10 }, Date.parse(begun.startedAt) + 1000)).to.equal('');
  });
});
