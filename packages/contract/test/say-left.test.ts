import { sayLeft } from '@monsoon/contract';
import { expect } from 'chai';

describe('the time that a run still takes', () => {
  const run = { startedAt: '2026-11-23T10:00:00Z', planned: 1000 };
  const now = Date.parse('2026-11-23T10:01:00Z');
  it('follows from the progress, once there is enough of it', () => {
    expect(sayLeft({ ...run, done: 500 }, now)).to.equal('about 60 s left');
    expect(sayLeft({ ...run, done: 100 }, now)).to.equal('about 9 min left');
    expect(sayLeft({ ...run, done: 0 }, now)).to.equal('');
    expect(sayLeft({ ...run, done: 1000 }, now)).to.equal('');
    expect(sayLeft({ ...run, done: 10 }, Date.parse(run.startedAt) + 1000)).to.equal('');
  });
});
