import { type Condition, ConditionTextError, formatCondition, parseCondition, readLane, testNames } from '@monsoon/core';
import { expect } from 'chai';
import fc from 'fast-check';

/** Any name at all, and above all those that are words of the language. */
const field = fc.oneof(
  fc.stringMatching(/^[a-z][\w.-]{0,12}$/),
  fc.constantFrom('and', 'or', 'not', 'all', 'any', 'is', 'words', 'starts', 'within', 'yes', 'no', 'is not', 'two words', '5', '', '"', '(', 'é'),
  fc.string({ unit: 'binary', maxLength: 20 }),
);
const text = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 20 }),
  fc.string({ unit: 'binary', maxLength: 20 }),
  fc.constantFrom('yes', 'and', 'is', '5', 'two words', 'a"b\\c', '-30 days', 'today', '2026-12-01', '', '[x]'),
);
const leaf: fc.Arbitrary<Condition> = fc.oneof(
  fc.record({ field, test: fc.constantFrom('is empty' as const, 'is not empty' as const) }),
  fc.record({
    field,
    test: fc.constantFrom(...testNames.filter((t) => !t.endsWith('empty') && t !== 'one of' && t !== 'none of' && t !== 'within')),
    value: fc.oneof(text, fc.integer(), fc.double({ noNaN: true, noDefaultInfinity: true }), fc.boolean()),
  }),
  fc.record({ field, test: fc.constantFrom('one of' as const, 'none of' as const), value: fc.array(text, { minLength: 1, maxLength: 4 }) }),
);
const { tree } = fc.letrec<{ tree: Condition }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 4 },
    leaf,
    fc.record({ all: fc.array(tie('tree'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ any: fc.array(tie('tree'), { minLength: 1, maxLength: 3 }) }),
    fc.record({ not: tie('tree') }),
  ),
}));

describe('conditions as text', () => {
  it('say every tree, and are read as the same tree', () => {
    fc.assert(
      fc.property(tree, (condition) => {
        const said = formatCondition(condition);
        expect(parseCondition(said).condition, said).to.deep.equal(condition);
        expect(formatCondition(parseCondition(said).condition)).to.equal(said);
      }),
      { numRuns: 500 },
    );
  });

  it('read as a person would write them', () => {
    expect(
      parseCondition('status is booked and (kind one of [tuning, "first tuning"] or not private is yes) and start within [today, 30 days]').condition,
    ).to.deep.equal({
      all: [
        { field: 'status', test: 'is', value: 'booked' },
        { any: [{ field: 'kind', test: 'one of', value: ['tuning', 'first tuning'] }, { not: { field: 'private', test: 'is', value: true } }] },
        { field: 'start', test: 'within', value: ['today', '30 days'] },
      ],
    });
    expect(parseCondition('a is 1 or b is 2 and c is 3').condition, 'and binds closer').to.have.nested.property('any[1].all').with.length(2);
    expect(parseCondition('notes is not empty and length >= 90').condition)
      .to.have.nested.property('all[1]')
      .deep.equal({ field: 'length', test: '>=', value: 90 });
  });

  it('say the column of what is wrong', () => {
    for (const [said, column, words] of [
      ['status', 7, 'a test is missing'],
      ['status is', 10, 'a value is missing'],
      ['status is booked kind is tuning', 18, '"kind" is not expected here'],
      ['(status is booked', 18, '")" is missing'],
      ['status one of [a, b', 20, '"]" is missing'],
      ['status is "open', 11, 'a quoted text is not closed'],
      ['status is and', 11, '"and" is a word of the language'],
      ['and', 1, '"and" is a word of the language; put it in quotes to mean a field of that name'],
      ['', 1, 'a comparison is missing'],
      ['status is "\\x"', 11, 'means nothing'],
    ] as const) {
      expect(() => parseCondition(said), said)
        .to.throw(ConditionTextError, words)
        .with.property('column', column);
    }
    expect(parseCondition('a is 1 and nope is 2').columns.get('/all/1/field')).to.equal(12);
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (s) => {
        try {
          parseCondition(s);
        } catch (error) {
          expect(error).to.be.instanceOf(ConditionTextError);
        }
      }),
    );
  });

  it('may stand in a lane as its filter', () => {
    const lane = {
      name: 'x',
      records: { system: 'a', collection: 'b' },
      calendar: { system: 'c', calendar: 'd' },
      direction: '->',
      zone: 'UTC',
      moments: [{ name: 'm', when: { day: 'd' } }],
      fields: {},
      departures: {},
      guard: {},
    };
    const read = readLane({ ...lane, filter: 'status is booked' });
    expect(read.lane.filter).to.deep.equal({ field: 'status', test: 'is', value: 'booked' });
    expect(read.columns.get('/filter/field')).to.equal(1);
    expect(() => readLane({ ...lane, filter: 'status is' })).to.throw('filter: column 10: a value is missing');
  });
});
