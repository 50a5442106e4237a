import { type Condition, checkCondition, checkLane, judgeCondition, parseJoin, show, UnfitValue } from '@monsoon/core';
import { expect } from 'chai';
import { collection, lane, record, zones } from './engine-fixtures.ts';

describe('field maps', () => {
  it('join fields, and let optional parts vanish', () => {
    const at = { fields: collection.fields };
    const join = (text: string, fields = {}) => show('title', { join: text }, record(fields), at);
    expect(join('{customer}[, {notes}]')).to.equal('Marsh');
    expect(join('{customer}[, {notes}]', { notes: 'ring\r\nfirst' })).to.equal('Marsh, ring\nfirst');
    expect(join('\\[{kind}\\]')).to.equal('[tuning]');
    expect(show('title', { copy: 'notes', default: 'Visit' }, record(), at)).to.equal('Visit');
    expect(show('categories', { copy: 'kind' }, record(), at)).to.deep.equal(['tuning']);
    expect(() => parseJoin('a {b')).to.throw('column 3: "{" is not closed');
    expect(() => parseJoin('a]')).to.throw('column 2: "]" closes nothing');
  });
  it('turn values by a table, and link back to the record', () => {
    const at = { fields: collection.fields };
    const table = { table: 'kind', values: { tuning: 'confirmed', voicing: 'tentative' } };
    expect(show('status', table, record(), at)).to.equal('confirmed');
    expect(show('status', table, record({ kind: 'other' }), at)).to.equal(null);
    expect(show('status', { ...table, default: 'tentative' }, record({ kind: null }), at)).to.equal('tentative');
    expect(show('link', { page: true }, { ...record(), url: 'https://desk.alder-wren.example/V-1' }, at)).to.equal(
      'https://desk.alder-wren.example/V-1',
    );
    const wrong = checkLane(
      lane({
        fields: {
          title: { page: true },
          status: { table: 'kind', values: { eaten: 'confirmed', tuning: 'gone' } },
          busy: { table: 'nope', values: { a: 'busy' } },
        },
      }),
      collection,
      zones,
    );
    expect(wrong.map((p) => p.pointer)).to.have.members([
      '/fields/title/page',
      '/fields/status/values/eaten',
      '/fields/status/values/tuning',
      '/fields/busy/table',
    ]);
    expect(() => lane({ fields: { status: { table: 'kind' } } })).to.throw('a table has values');
  });
  it('take control characters out, and refuse what is too long with field, value and limit', () => {
    expect(show('title', { copy: 'notes' }, record({ notes: 'a\u0007b\u0000c\ud800' }), { fields: collection.fields })).to.equal('abc\ufffd');
    expect(() => show('title', { copy: 'notes' }, record({ notes: 'x'.repeat(1001) }), { fields: collection.fields })).to.throw(
      UnfitValue,
      'notes: is 1001 characters long, and title takes 1000',
    );
    expect(() => show('busy', { copy: 'kind' }, record(), { fields: collection.fields })).to.throw(UnfitValue, 'values are busy, free');
  });
});

describe('conditions', () => {
  const at = { now: '2026-11-23T08:00:00Z', zone: zones.find('Europe/London')!, zones };
  const holds = (condition: Condition, fields = {}) => judgeCondition(condition, record(fields), at).holds;
  it('judge every kind of test', () => {
    expect(holds({ field: 'customer', test: 'is', value: 'marsh' })).to.equal(true);
    expect(holds({ field: 'customer', test: 'is', value: 'C-1' })).to.equal(true);
    expect(holds({ field: 'kind', test: 'none of', value: ['voicing'] })).to.equal(true);
    expect(holds({ field: 'private', test: 'is', value: false })).to.equal(true);
    expect(holds({ field: 'score', test: '>=', value: 3 })).to.equal(true);
    expect(holds({ field: 'notes', test: 'is empty' })).to.equal(true);
    expect(holds({ field: 'notes', test: 'words', value: 'art' }, { notes: 'a fresh start' })).to.equal(false);
    expect(holds({ field: 'notes', test: 'words', value: 'fresh start' }, { notes: 'a Fresh, start' })).to.equal(true);
    expect(holds({ field: 'start', test: 'after', value: 'today' })).to.equal(true);
    expect(holds({ field: 'start', test: 'within', value: ['today', '8 days'] })).to.equal(true);
    expect(holds({ field: 'start', test: 'within', value: ['today', '7 days'] })).to.equal(false);
    expect(holds({ field: 'guests', test: 'contains', value: 'zelda' }, { guests: [{ name: 'Zelda', email: 'z@elsewhere.example' }] })).to.equal(
      true,
    );
    expect(holds({ not: { any: [{ field: 'kind', test: 'is', value: 'tuning' }] } })).to.equal(false);
  });
  it('judge numbers and times to the last one that fits, and texts whatever their case and spaces', () => {
    const numbers: [test: '<' | '<=' | '>' | '>=', below: boolean, equal: boolean, above: boolean][] = [
      ['<', true, false, false],
      ['<=', true, true, false],
      ['>', false, false, true],
      ['>=', false, true, true],
    ];
    for (const [test, ...expected] of numbers) {
      expect(
        [2, 3, 4].map((score) => holds({ field: 'score', test, value: 3 }, { score })),
        test,
      ).to.deep.equal(expected);
      for (const score of [null, '3']) expect(holds({ field: 'score', test, value: 3 }, { score }), `${test} ${score}`).to.equal(false);
    }
    // A day is the lane's: in London, 1 July begins at 23:00 UTC.
    const start = (moment: string) => ({ start: moment });
    const times: [moment: string, before: boolean, after: boolean, within: boolean][] = [
      ['2026-06-30T22:59:59Z', true, false, false],
      ['2026-06-30T23:00:00Z', false, false, true],
      ['2026-07-01T22:59:59Z', false, false, true],
      ['2026-07-01T23:00:00Z', false, true, true],
      ['2026-07-02T22:59:59Z', false, true, true],
      ['2026-07-02T23:00:00Z', false, true, false],
    ];
    for (const [moment, before, after, within] of times) {
      expect(holds({ field: 'start', test: 'before', value: '2026-07-01' }, start(moment)), `before, ${moment}`).to.equal(before);
      expect(holds({ field: 'start', test: 'after', value: '2026-07-01' }, start(moment)), `after, ${moment}`).to.equal(after);
      expect(holds({ field: 'start', test: 'within', value: ['2026-07-01', '2026-07-02'] }, start(moment)), `within, ${moment}`).to.equal(within);
    }
    // Today is a day of the lane's zone, too: just after midnight there it is still yesterday in UTC.
    const night = { ...at, now: '2026-07-01T23:30:00Z' };
    const onDay = (value: string, moment: string) =>
      judgeCondition({ field: 'start', test: 'within', value: [value, value] }, record(start(moment)), night);
    for (const [value, moment] of [
      ['today', '2026-07-02T12:00:00Z'],
      ['1 day', '2026-07-03T12:00:00Z'],
      ['-1 days', '2026-07-01T12:00:00Z'],
      ['+10 days', '2026-07-12T12:00:00Z'],
    ] as const)
      expect(onDay(value, moment).holds, value).to.equal(true);
    expect(holds({ field: 'kind', test: 'one of', value: ['voicing', ' Tuning '] })).to.equal(true);
    expect(holds({ field: 'kind', test: 'one of', value: ['voicing'] })).to.equal(false);
    expect(holds({ field: 'notes', test: 'starts with', value: ' A Fresh' }, { notes: '  a fresh start ' })).to.equal(true);
    expect(holds({ field: 'notes', test: 'words', value: ' fresh -- start ' }, { notes: '(fresh)   start!' })).to.equal(true);
    expect(holds({ field: 'notes', test: 'is not', value: 'x' }, { notes: null })).to.equal(true);
  });
  it('name the leaf that failed', () => {
    const result = judgeCondition(
      { all: [{ field: 'score', test: '>', value: 1 }, { any: [{ field: 'kind', test: 'is', value: 'voicing' }] }] },
      record(),
      at,
    );
    expect(result).to.deep.equal({ holds: false, failed: { field: 'kind', test: 'is', value: 'voicing' }, value: 'tuning' });
  });
  it('are refused with a pointer when they cannot be judged', () => {
    const wrong = (c: Condition) => checkCondition(c, collection.fields)[0];
    expect(wrong({ all: [{ field: 'nope', test: 'is', value: 'x' }] })).to.include({ pointer: '/all/0/field' });
    expect(wrong({ field: 'start', test: 'contains', value: 'x' })!.reason).to.match(
      /does not fit the field "start" of type date-time; fitting tests are/,
    );
    expect(wrong({ field: 'kind', test: 'is', value: 'tunning' })!.reason).to.equal('"tunning" is no choice of "kind"; choices are tuning, voicing');
    expect(wrong({ field: 'score', test: '<', value: 'many' })!.reason).to.match(/takes a number/);
    expect(wrong({ field: 'start', test: 'before', value: 'someday' })!.reason).to.match(/no date/);
    expect(wrong({ field: 'private', test: 'is', value: 'yes' })!.reason).to.match(/true or false/);
    expect(wrong({ any: [{ field: 'kind', test: 'is', value: 'tuning' }, { not: { field: 'nope', test: 'is', value: 'x' } }] })).to.include({
      pointer: '/any/1/not/field',
    });
    for (const value of ['today', '1 day', '3 days', '-2 days', '+1 days', '2026-12-15', '2026-12-15T12:00:00'])
      expect(wrong({ field: 'start', test: 'before', value }), value).to.equal(undefined);
    for (const value of ['x today', 'today x', '1 dayx', 'x2026-12-15', '2026-12-15x', 'days'])
      expect(wrong({ field: 'start', test: 'before', value })!.reason, value).to.match(/no date/);
  });
});

describe('checking a lane', () => {
  it('finds every fault at once, each at its setting', () => {
    const faulty = lane({
      zone: 'Mars/Olympus',
      moments: [{ name: 'visit', when: { start: 'notes', length: 'kind' } }],
      fields: { location: { copy: 'guests' } },
      filter: { field: 'nope', test: 'is', value: 'x' },
    });
    expect(checkLane(faulty, collection, zones).map((p) => p.pointer)).to.have.members([
      '/zone',
      '/filter/field',
      '/fields/location/copy',
      '/moments/0/when/start',
      '/moments/0/when/length',
      '/fields/title',
    ]);
  });
  it('refuses what is not a lane', () => {
    expect(() => lane({ direction: '<>' })).to.throw('direction');
    expect(() => lane({ surprise: 1 })).to.throw('surprise');
    expect(() => lane({ fields: { title: { copy: 'a', join: 'b' } } })).to.throw(
      'exactly one of copy, join, fixed, table, words, people, page, rule, repeats, replies and rows',
    );
    expect(() => lane({ filter: { all: [] } })).to.throw('at least one condition');
    let deep: Condition = { field: 'kind', test: 'is empty' };
    for (let i = 0; i < 50; i++) deep = { not: deep };
    expect(() => lane({ filter: deep })).to.throw('nested deeper');
  });
});
