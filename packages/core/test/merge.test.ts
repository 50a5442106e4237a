import { mergeLink, momentLinks, newBaseline, noValues, sameProperty } from '@monsoon/core';
import { expect } from 'chai';
import { context, record, values, zones } from './engine-fixtures.ts';

describe('merging one link', () => {
  const same = {
    record: (a: unknown, b: unknown) => a === b,
    event: (a: unknown, b: unknown) => a === b,
    across: (a: unknown, b: unknown) => a === b,
  };
  const merged = (
    ways: '->' | '<-' | '<->' | 'none',
    record: string,
    event: string,
    base?: [string, string],
    foreignEdits: 'put back' | 'leave' = 'put back',
  ) =>
    mergeLink(
      { record, event, base: base === undefined ? undefined : { record: base[0], event: base[1] } },
      { toEvent: ways === '->' || ways === '<->', toRecord: ways === '<-' || ways === '<->', foreignEdits },
      same,
      false,
    ).outcome;
  for (const [ways, record, event, base, foreign, outcome] of [
    ['->', 'a', 'A', ['a', 'A'], 'put back', 'unchanged'],
    ['->', 'b', 'a', ['a', 'a'], 'put back', 'to event'],
    ['->', 'a', 'b', ['a', 'a'], 'put back', 'to event'],
    ['->', 'a', 'b', ['a', 'a'], 'leave', 'left'],
    ['->', 'b', 'c', ['a', 'a'], 'put back', 'to event'],
    ['<-', 'a', 'b', ['a', 'a'], 'put back', 'to record'],
    ['<-', 'b', 'a', ['a', 'a'], 'put back', 'to record'],
    ['<-', 'b', 'a', ['a', 'a'], 'leave', 'left'],
    ['<->', 'b', 'a', ['a', 'a'], 'leave', 'to event'],
    ['<->', 'a', 'b', ['a', 'a'], 'leave', 'to record'],
    ['<->', 'b', 'b', ['a', 'a'], 'leave', 'agreed'],
    ['<->', 'b', 'c', ['a', 'a'], 'leave', 'conflict'],
    ['<->', 'a', 'b', undefined, 'leave', 'conflict'],
    ['<->', 'a', '', undefined, 'leave', 'to event'],
    ['none', 'b', 'a', ['a', 'a'], 'put back', 'left'],
  ] as const)
    it(`${ways}: record ${record}, event ${event || '(empty)'}, agreed on ${base ?? 'nothing'}: ${outcome}`, () =>
      expect(merged(ways, record, event, base as [string, string] | undefined, foreign)).to.equal(outcome));

  it('merges sets by what came and went on each side', () => {
    const sets = {
      record: ['red', 'new here'],
      event: ['red', 'blue', 'new there'],
      base: { record: ['red', 'green'], event: ['red', 'green', 'blue'] },
    };
    const across = (a: unknown, b: unknown) => sameProperty('categories', a, b, zones);
    const outcome = mergeLink(sets, { toEvent: true, toRecord: true, foreignEdits: 'leave' }, { record: across, event: across, across }, true);
    expect(outcome).to.deep.include({
      outcome: 'to both',
      event: ['red', 'blue', 'new there', 'new here'],
      record: ['red', 'new here', 'new there'],
    });
  });
});

describe('the new baseline after a write', () => {
  const made = (written: object, changed: object, fields: object = {}) => {
    const item = record();
    const { definition } = context();
    const at = context({ ...definition, fields: { ...definition.fields, ...fields } });
    const links = momentLinks(at, at.definition.moments[0]!).filter((l) => l.key in values || l.key in fields);
    const intended = {
      planned: item,
      record: item,
      eventBefore: noValues,
      eventEdits: { ...values, ...written },
      settled: Object.keys(values),
      again: false,
    };
    const stored = { record: item, event: { ...noValues, ...values, ...changed } };
    return newBaseline(links, { before: null, intended, stored }, context());
  };
  it('takes what a server makes of our values for agreement', () => {
    expect(made({}, {}).foreign).to.deep.equal([]);
    expect(made({ title: 'Marsh:  tuning ' }, {}).foreign).to.deep.equal([]);
    expect(made({ description: 'a long text that goes on' }, { description: 'a long text' }).foreign).to.deep.equal([]);
    expect(made({}, { when: { ...values.when, zone: 'UTC' } }).foreign, 'in December, London and UTC agree').to.deep.equal([]);
  });
  it("takes what a server cannot have made of them for somebody's edit, and keeps it visible", () => {
    expect(made({}, { title: 'Lunch' }).foreign).to.deep.equal(['title']);
    expect(made({}, { when: { ...values.when, start: '2026-12-01T08:00:00' } }).foreign).to.deep.equal(['when']);
    expect(made({ description: null }, { description: 'of the server' }).foreign).to.deep.equal([]);
    expect(made({ recurrence: null }, { recurrence: 'RRULE:FREQ=WEEKLY' }, { recurrence: { rule: 'notes' } }).foreign).to.deep.equal(['recurrence']);
    expect(made({}, { title: 'Lunch' }).baseline.event['title']).to.equal('Marsh: tuning');
  });
});
