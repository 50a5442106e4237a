import { type Free, type Lost, pairAgain } from '@monsoon/core';
import { expect } from 'chai';

const HOUR = 3600;
const DAY = 24 * HOUR;
/** The n-th day of the tests, in seconds; far from 1970, as real ones are. */
const day = (n: number, hours = 0) => 20_000 * DAY + n * DAY + hours * HOUR;
const lost = (...days: number[]): Lost[] => days.map((n) => ({ pair: `of ${n}`, href: `/c/s.ics#was-${n}`, from: day(n) }));
const free = (...days: number[]): Free[] => days.map((n) => ({ href: `/c/s.ics#${n}`, uid: `s#${n}`, from: day(n) }));
const outside = (...days: number[]): Free[] => free(...days).map((place) => ({ ...place, outside: true }));
/** What each pair follows, as `of 1 -> 2`. */
const said = (found: Map<string, Free>) => [...found].map(([pair, { href }]) => `${pair} -> ${href.slice(href.indexOf('#') + 1)}`).sort();
const follow = (seekers: Lost[], places: Free[]) => said(pairAgain(seekers, places));

describe('pairs that lost their occurrence', () => {
  it('go where the whole series was dragged, each by the same time', () => {
    expect(follow(lost(1, 8, 15), free(2, 9, 16))).to.deep.equal(['of 1 -> 2', 'of 15 -> 16', 'of 8 -> 9']);
    expect(follow(lost(1, 8, 15), free(0, 7, 14)), 'back').to.deep.equal(['of 1 -> 0', 'of 15 -> 14', 'of 8 -> 7']);
  });

  it('go by their original starts: the last was out of the window when the series was dragged before, and its time is of then', () => {
    const at = (date: string) => Date.parse(`${date}T12:00:00Z`) / 1000;
    const named = (date: string) => `/c/s.ics#${date.replaceAll('-', '')}T120000Z`;
    const seekers = ['2026-05-04', '2026-05-08', '2026-05-12'].map((date): Lost => ({ pair: date, href: named(date), from: at(date) }));
    seekers[2]!.from = at('2026-05-10');
    const places = ['2026-05-06', '2026-05-10', '2026-05-14'].map((date): Free => ({ href: named(date), uid: 's', from: at(date) }));
    places[2]!.outside = true;
    expect([...pairAgain(seekers, places)].map(([pair, { href }]) => `${pair} -> ${href.slice(-16, -8)}`)).to.deep.equal([
      '2026-05-04 -> 20260506',
      '2026-05-08 -> 20260510',
      '2026-05-12 -> 20260514',
    ]);
  });

  it('go together also where one outside of the window lost its occurrence before, and stands nearer', () => {
    const [stale] = lost(11);
    expect(follow([...lost(1, 8), { ...stale!, outside: true }], free(3, 10))).to.deep.equal(['of 1 -> 3', 'of 8 -> 10']);
    expect(follow([...lost(8), { ...stale!, outside: true }], free(10)), 'one alone, too').to.deep.equal(['of 8 -> 10']);
    expect(follow([...lost(8), { ...stale!, outside: true }], outside(12)), 'out of the window, too').to.deep.equal(['of 8 -> 12']);
    expect(follow([...lost(1), { ...stale!, outside: true }], free(3, 10)), 'what is left is theirs').to.deep.equal(['of 1 -> 3', 'of 11 -> 10']);
  });

  it('go over days that the series keeps, and out of the window in their order', () => {
    // Sunday, Mondays and Wednesdays were dragged by two days: the Wednesdays are where they were before.
    expect(follow(lost(0, 1, 8, 15), [...free(2, 5, 12), ...outside(19, 26)])).to.deep.equal(['of 0 -> 2', 'of 1 -> 5', 'of 15 -> 19', 'of 8 -> 12']);
    expect(follow(lost(1, 8, 15, 16), [...outside(-10, -3), ...free(4, 11, 14)]), 'back').to.deep.equal([
      'of 1 -> -3',
      'of 15 -> 11',
      'of 16 -> 14',
      'of 8 -> 4',
    ]);
    expect(follow(lost(0, 7, 14), [...free(1), ...outside(15, 29)]), 'not where they go every second week from now on').to.deep.equal([
      'of 0 -> 1',
      'of 14 -> 15',
    ]);
  });

  it('do so where the nearest of some lies on the other side', () => {
    // By nearness alone, the second would take what the first moved to.
    expect(follow(lost(0, 5), free(4, 9))).to.deep.equal(['of 0 -> 4', 'of 5 -> 9']);
    expect(follow(lost(0, 5, 10), free(4, 9, 14))).to.deep.equal(['of 0 -> 4', 'of 10 -> 14', 'of 5 -> 9']);
  });

  it('move on rather than back, where both are as far', () => {
    expect(follow(lost(1, 3), free(0, 2, 4))).to.deep.equal(['of 1 -> 2', 'of 3 -> 4']);
    expect(follow(lost(2), free(1, 3))).to.deep.equal(['of 2 -> 3']);
  });

  it('are no drag by more than two weeks: then the nearest are taken, and the rest in order', () => {
    expect(follow(lost(0, 100), free(15, 115))).to.deep.equal(['of 0 -> 15', 'of 100 -> 115']);
    // By a shift of 90 days both would fit; nearness leaves the second where it is.
    expect(follow(lost(0, 90), free(90, 180))).to.deep.equal(['of 0 -> 180', 'of 90 -> 90']);
  });

  it('may differ by a change of the clock, and by no more', () => {
    const hours = (n: number, h: number): Free => ({ href: `/c/s.ics#${n}+${h}`, uid: 's', from: day(n, h) });
    expect(follow(lost(0, 5), [hours(4, 0), hours(9, 2)])).to.deep.equal(['of 0 -> 4+0', 'of 5 -> 9+2']);
    expect(follow(lost(0, 5), [hours(4, 0), hours(9, 3)])).to.deep.equal(['of 0 -> 9+3', 'of 5 -> 4+0']);
    expect(follow(lost(0, 5), [hours(4, 2), hours(9, 0)])).to.deep.equal(['of 0 -> 4+2', 'of 5 -> 9+0']);
  });

  it('take one place each, also where two are as near to it', () => {
    expect(follow(lost(0, 2), free(1))).to.deep.equal(['of 0 -> 1']);
    expect(follow(lost(0, 0.01, 3), free(1, 4))).to.deep.equal(['of 0.01 -> 1', 'of 3 -> 4']);
  });

  it('get what is left over in the order of the times', () => {
    const twenty = Array.from({ length: 20 }, (_, n) => n);
    // Everything near the two others is nearer to one of the twenty.
    const found = follow([...lost(...twenty), ...lost(10.4, 9.4)], [...free(...twenty.map((n) => n + 0.1)), ...free(60, 50)]);
    expect(found).to.include.members(['of 9.4 -> 50', 'of 10.4 -> 60', 'of 0 -> 0.1', 'of 19 -> 19.1']);
    expect(found).to.have.length(22);
    expect(follow([...lost(...twenty), ...lost(10.4)], [...free(...twenty.map((n) => n + 0.1)), ...outside(60)]), 'in the window').to.have.length(20);
  });

  it('leave what nothing is left for', () => {
    expect(follow(lost(1, 2, 3), [])).to.deep.equal([]);
    expect(follow([], free(1, 2))).to.deep.equal([]);
    expect(follow(lost(1, 8, 15), free(8.5))).to.deep.equal(['of 8 -> 8.5']);
  });

  it('go out of the window only as far as the others moved', () => {
    expect(follow(lost(1, 8, 16), [...free(2, 9), ...outside(17)]), 'all by a day').to.deep.equal(['of 1 -> 2', 'of 16 -> 17', 'of 8 -> 9']);
    expect(follow(lost(1, 8, 15), [...free(2, 9.5), ...outside(16.4)])).to.deep.equal(['of 1 -> 2', 'of 15 -> 16.4', 'of 8 -> 9.5']);
    expect(follow(lost(1, 8, 15), [...free(2, 9.5), ...outside(30)]), 'too far').to.deep.equal(['of 1 -> 2', 'of 8 -> 9.5']);
    expect(follow(lost(15), outside(400)), 'alone, it goes anywhere').to.deep.equal(['of 15 -> 400']);
  });

  it('inside of the window come first, also where one outside is nearer', () => {
    expect(follow(lost(10), [...free(14), ...outside(11)])).to.deep.equal(['of 10 -> 14']);
  });

  it('say the same whatever the order they are given in', () => {
    const seekers = lost(3, 1, 9, 5, 7);
    const places = free(2, 8, 4, 10, 6, 40);
    const first = follow(seekers, places);
    expect(first).to.deep.equal(['of 1 -> 2', 'of 3 -> 4', 'of 5 -> 6', 'of 7 -> 8', 'of 9 -> 10']);
    expect(follow([...seekers].reverse(), [...places].reverse())).to.deep.equal(first);
    // Of two at one time, by their names.
    const twins = (names: string[]) => names.map((pair): Lost => ({ pair, href: '/c/s.ics#was-1', from: day(1) }));
    expect(said(pairAgain(twins(['b', 'a']), free(2)))).to.deep.equal(['a -> 2']);
    expect(said(pairAgain(twins(['a', 'b']), free(2)))).to.deep.equal(['a -> 2']);
    const same = (names: string[]) => names.map((href): Free => ({ href: `#${href}`, uid: 's', from: day(2) }));
    expect(said(pairAgain(lost(1), same(['y', 'x'])))).to.deep.equal(said(pairAgain(lost(1), same(['x', 'y']))));
  });

  it('look at the nearest alone, of a series with many', () => {
    const many = free(...Array.from({ length: 400 }, (_, n) => n));
    const found = pairAgain(lost(100.4, 200.4, 300.4), many);
    expect(said(found)).to.deep.equal(['of 100.4 -> 100', 'of 200.4 -> 200', 'of 300.4 -> 300']);
  });
});
