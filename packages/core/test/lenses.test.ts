import {
  carryWhen,
  type Field,
  type FieldMap,
  type FieldValue,
  type MappableName,
  type PropertyValue,
  type RecordItem,
  readWhen,
  sameProperty,
  show,
  spanOf,
  take,
  takeWhen,
  UnfitValue,
  type When,
  type WhenSource,
} from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { expect } from 'chai';
import fc from 'fast-check';

const zones = loadZones();
const zone = zones.find('Europe/London')!;
const fields: Field[] = [
  { name: 'title', label: 'Title', type: 'text', limit: 200 },
  { name: 'kind', label: 'Kind', type: 'choice', choices: ['tuning', 'voicing', 'assessment'] },
  { name: 'customer', label: 'Customer', type: 'reference' },
  { name: 'labels', label: 'Labels', type: 'choices', choices: ['red', 'green', 'blue'] },
  { name: 'private', label: 'Private', type: 'yes/no' },
  { name: 'guests', label: 'Guests', type: 'people' },
  { name: 'contacts', label: 'Contacts', type: 'references' },
  { name: 'warn', label: 'Warn', type: 'duration', unit: 'minutes' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'end', label: 'End', type: 'date-time' },
  { name: 'length', label: 'Length', type: 'duration', unit: 'minutes' },
  { name: 'hours', label: 'Hours', type: 'duration', unit: 'hours' },
  { name: 'date', label: 'Date', type: 'date' },
  { name: 'time', label: 'Time', type: 'time' },
  { name: 'last', label: 'Last', type: 'date' },
  { name: 'due', label: 'Due', type: 'date-time' },
];
const contacts = {
  byEmail: new Map([['ottoline@post.example', { id: 'C-1', label: 'Ottoline Marsh' }]]),
  emails: new Map([
    ['C-1', 'ottoline@post.example'],
    ['C-2', 'bram@post.example'],
  ]),
};
const at = { fields, directories: new Map([['contacts', contacts]]), zone, zones };
const record = (given: Record<string, FieldValue>): RecordItem => ({
  id: 'V-1',
  fields: { ...Object.fromEntries(fields.map((f) => [f.name, null])), ...given },
});
const after = (r: RecordItem, changed: Record<string, FieldValue>): RecordItem => ({ ...r, fields: { ...r.fields, ...changed } });

const word = fc
  .stringMatching(/^[A-Za-z0-9àéü🎹,;:'"[\]{}()/ -]{1,40}$/u)
  .map((s) => s.trim())
  .filter((s) => s !== '');
const choice = fc.constantFrom('tuning', 'voicing', 'assessment');
const labels = fc.subarray(['red', 'green', 'blue']);
const guest = fc.record({ email: fc.stringMatching(/^[a-z]{3,8}@post\.example$/) });
const guests = fc.uniqueArray(guest, { selector: (g) => g.email, maxLength: 4 });
const some = <T>(of: fc.Arbitrary<T>) => fc.option(of, { nil: null });
const records = fc.record({
  title: some(word),
  kind: choice,
  labels,
  private: fc.boolean(),
  guests,
  warn: some(fc.integer({ min: 0, max: 600 })),
  contacts: fc.constant([{ id: 'C-2' }]),
  customer: fc.constant({ id: 'C-9', label: 'Leopold Brack' }),
});

describe('field maps are lenses: what a record takes it shows, and what it shows changes nothing', () => {
  const none = fc.constant(null);
  for (const [what, property, map, values] of [
    ['a copied text', 'title', { copy: 'title' }, some(word)],
    ['a copied choice', 'title', { copy: 'kind' }, choice],
    ['a join whose one part is free', 'title', { join: '{customer}: {kind}[, {title}]' }, fc.tuple(choice, some(word)).map(([, t]) => t)],
    ['a join whose editable part is named', 'description', { join: '{title}[\nGuests: {guests}]', edit: 'title' }, some(word)],
    [
      'a value table',
      'status',
      { table: 'kind', values: { tuning: 'confirmed', voicing: 'tentative', assessment: 'cancelled' } },
      fc.constantFrom('confirmed', 'tentative', 'cancelled'),
    ],
    ['a table of yes and no', 'visibility', { table: 'private', values: { yes: 'private', no: 'public' } }, fc.constantFrom('private', 'public')],
    ['words of a choice', 'categories', { copy: 'labels' }, labels.map((l) => (l.length === 0 ? null : l))],
    ['people by address', 'attendees', { copy: 'guests' }, guests.map((g) => (g.length === 0 ? null : g))],
    [
      'people of another collection',
      'attendees',
      { people: 'contacts', in: 'contacts' },
      fc.constantFrom(null, [{ email: 'ottoline@post.example' }], [{ email: 'bram@post.example' }, { email: 'Ottoline@post.example' }]),
    ],
    ['a reminder', 'reminders', { copy: 'warn' }, some(fc.integer({ min: 0, max: 600 })).map((n) => (n === null ? null : [n]))],
    ['nothing there', 'title', { copy: 'title' }, none],
  ] as [string, MappableName, FieldMap, fc.Arbitrary<PropertyValue>][])
    it(what, () =>
      fc.assert(
        fc.property(records, values, (given, value) => {
          const r = record(given as never);
          expect(take(property, map, r, show(property, map, r, at), at).fields, 'take(r, show(r)) = r').to.deep.equal({});
          // For a join, the calendar's text is what the other parts say, with another free part.
          const wanted = 'join' in map ? show(property, map, after(r, { title: value as string | null }), at) : value;
          const taken = after(r, take(property, map, r, wanted, at).fields);
          expect(
            sameProperty(property, show(property, map, taken, at), wanted, zones),
            `show(take(r, ${JSON.stringify(wanted)})) is ${JSON.stringify(show(property, map, taken, at))}`,
          ).to.equal(true);
          const others = Object.keys(taken.fields).filter((f) => JSON.stringify(taken.fields[f]) !== JSON.stringify(r.fields[f]));
          expect(others.length).to.be.lessThan(2);
        }),
        { numRuns: 150 },
      ),
    );

  it('keep who is not found on the calendar alone, and list them', () => {
    const r = record({ contacts: [{ id: 'C-2' }, { id: 'C-7', label: 'without an address' }] });
    const taken = take(
      'attendees',
      { people: 'contacts', in: 'contacts' },
      r,
      [{ email: 'bram@post.example' }, { email: 'stranger@post.example' }],
      at,
    );
    expect(taken).to.deep.equal({ fields: {}, notes: ['not found by address, so kept on the calendar alone: stranger@post.example'] });
  });

  it('choose a value by the first word that is found, or the default', () => {
    const map: FieldMap = {
      words: 'kind',
      choose: [
        { word: 'voicing', value: 'voicing' },
        { word: 'look at', value: 'assessment' },
      ],
      default: 'tuning',
    };
    const chosen = (title: string) => take('title', map, record({ kind: null }), title, at).fields['kind'];
    expect([chosen('Look at the Wren, then voicing'), chosen('LOOK AT: the Wren'), chosen('Voicings'), chosen('')]).to.deep.equal([
      'voicing',
      'assessment',
      'tuning',
      'tuning',
    ]);
  });

  it('refuse what the record cannot hold with the field, the value and the limit', () => {
    const refuse = (property: MappableName, map: FieldMap, value: PropertyValue) => () =>
      take(property, map, record({ customer: { id: 'C-9', label: 'Brack' }, kind: 'tuning' }), value, at);
    expect(refuse('title', { copy: 'title' }, 'x'.repeat(201))).to.throw(UnfitValue, 'is 201 characters long, and the field "title" takes 200');
    expect(refuse('title', { copy: 'kind' }, 'lunch')).to.throw(
      UnfitValue,
      '"lunch" is no choice of "kind"; choices are tuning, voicing, assessment',
    );
    expect(refuse('title', { join: '{customer}: {title}', edit: 'title' }, 'Lunch')).to.throw(UnfitValue, 'does not read as "Brack: {title}"');
    expect(refuse('reminders', { copy: 'warn' }, [5, 10])).to.throw(UnfitValue, 'holds one number');
  });
});

const day = fc.integer({ min: 0, max: 900 }).map((n) => new Date(Date.UTC(2026, 0, 1) + n * 86_400_000).toISOString().slice(0, 10));
const clock = fc
  .tuple(fc.integer({ min: 0, max: 23 }), fc.constantFrom(0, 15, 30, 45))
  .map(([h, m]) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}:00`);
const zoneName = fc.constantFrom('Europe/London', 'America/Halifax', 'UTC', 'Asia/Tokyo');
const plus = (text: string, days: number) => new Date(Date.parse(`${text}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
const timed = fc.tuple(day, clock, fc.integer({ min: 1, max: 40 }), zoneName).map(([d, c, quarters, name]): When => {
  const end = new Date(Date.parse(`${d}T${c}Z`) + quarters * 900_000).toISOString().slice(0, 19);
  return { kind: 'timed', start: `${d}T${c}`, end, zone: name };
});
const allDay = fc.tuple(day, fc.integer({ min: 1, max: 9 })).map(([d, n]): When => ({ kind: 'all-day', first: d, end: plus(d, n) }));
const dated = fc.tuple(day, clock, day, zoneName).map(([d, c, l, z]) =>
  record({
    start: `${d}T${c}[${z}]`,
    end: `${plus(d, 1)}T${c}[${z}]`,
    length: 90,
    hours: 1.5,
    date: d,
    time: c,
    last: l < d ? d : l,
    due: `${d}T${c}[${z}]`,
  }),
);

describe("a moment's time is a lens", () => {
  const span = (when: When) => JSON.stringify(spanOf(when, zone, zones));
  const shapes: [WhenSource, fc.Arbitrary<When>, 'span' | 'days' | 'start'][] = [
    [{ start: 'start', end: 'end' }, timed, 'span'],
    [{ start: 'start', length: 'length' }, timed, 'span'],
    [{ start: 'start', length: 'hours' }, timed, 'span'],
    [{ start: 'start', minutes: 60 }, timed, 'start'],
    [{ first: 'date', last: 'last', lastCounts: true }, allDay, 'days'],
    [{ first: 'date', last: 'last', lastCounts: false }, allDay, 'days'],
    [{ day: 'date' }, allDay, 'start'],
    [{ due: 'due', show: 'starting', minutes: 30 }, timed, 'start'],
    [{ due: 'due', show: 'all-day' }, allDay, 'start'],
  ];
  const skippedHour: When = { kind: 'timed', start: '2028-03-26T01:30:00', end: '2028-03-26T02:00:00', zone: 'Europe/London' };
  const unmoved = record({ start: '2026-01-01T00:00:00[Europe/London]', end: '2026-01-02T00:00:00[Europe/London]', length: 90, hours: 1.5 });
  for (const [source, whens, exact] of shapes)
    it(JSON.stringify(source), () =>
      fc.assert(
        fc.property(dated, whens, (r, when) => {
          const shown = readWhen(source, r, fields, zone, zones).when;
          expect(takeWhen(source, r, shown, at).fields, 'take(r, show(r)) = r').to.deep.equal({});
          const taken = after(r, takeWhen(source, r, when, at).fields);
          const back = readWhen(source, taken, fields, zone, zones).when;
          if (exact === 'span') expect(span(back)).to.equal(span(when));
          if (exact === 'days') expect(back).to.deep.equal(when);
          if (exact === 'start' && when.kind === 'timed') expect(spanOf(back, zone, zones).from).to.equal(spanOf(when, zone, zones).from);
          if (exact === 'start' && when.kind === 'all-day') expect((back as typeof when).first).to.equal(when.first);
          expect(takeWhen(source, taken, when, at).fields, 'a second time changes nothing').to.deep.equal({});
        }),
        // An event that begins in the skipped hour of a night and ends right after it.
        { numRuns: 200, examples: exact === 'span' ? [[unmoved, skippedHour] as never] : [] },
      ),
    );

  it('keeps a due time of day, in any zone and on any date', () =>
    fc.assert(
      fc.property(dated, allDay, (r, when) => {
        const moved = takeWhen({ due: 'due', show: 'all-day' }, r, when, at).fields['due'];
        if (moved === undefined) return;
        const tail = (text: FieldValue) => `${String(text).slice(11, 19)} ${/\[.*\]/.exec(String(text))?.[0]}`;
        const read = tail(moved);
        // Only a clock time that the night of the change skips can be another one.
        if (read !== tail(r.fields['due']!)) expect(String(moved)).to.match(/-(03|10)-/);
      }),
    ));

  it('keeps the clock times of a record whose event was made all-day, and says so', () => {
    const r = record({ start: '2026-12-01T09:30:00', end: '2026-12-01T11:00:00', length: 90 });
    const whole: When = { kind: 'all-day', first: '2026-12-04', end: '2026-12-05' };
    const taken = takeWhen({ start: 'start', end: 'end' }, r, whole, at);
    expect(taken.fields).to.deep.equal({ start: '2026-12-04T09:30:00', end: '2026-12-04T11:00:00' });
    expect(taken.notes).to.deep.equal(['the event is all-day: the record keeps its own time of day']);
    expect(takeWhen({ start: 'start', length: 'length' }, r, whole, at).fields).to.deep.equal({ start: '2026-12-04T09:30:00' });
    expect(takeWhen({ start: 'start', end: 'end', allDayFrom: '08:00', allDayUntil: '18:00' }, record({}), whole, at).fields).to.deep.equal({
      start: '2026-12-04T08:00:00+00:00[Europe/London]',
      end: '2026-12-04T18:00:00+00:00[Europe/London]',
    });
  });

  it('moves what people altered on the calendar along, and keeps it', () => {
    const at9: When = { kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' };
    const at14: When = { kind: 'timed', start: '2026-12-08T14:00:00', end: '2026-12-08T15:00:00', zone: 'Europe/London' };
    const longer: When = { ...at9, end: '2026-12-01T12:00:00' };
    expect(carryWhen(at14, at9, longer, at)).to.deep.equal({ ...at14, end: '2026-12-08T17:00:00' });
    expect(carryWhen(at14, at9, { kind: 'all-day', first: '2026-12-01', end: '2026-12-03' }, at)).to.deep.equal({
      kind: 'all-day',
      first: '2026-12-08',
      end: '2026-12-10',
    });
    expect(carryWhen(at14, at9, at9, at)).to.deep.equal(at14);
  });

  it('says both passages of a repeated hour, where the record has room to', () => {
    const second: When = { kind: 'timed', start: '2026-10-25T01:30:00', end: '2026-10-25T02:30:00', zone: 'UTC' };
    const zoned = record({ start: '2026-10-20T09:00:00[Europe/London]', length: 60 });
    expect(takeWhen({ start: 'start', length: 'length' }, zoned, second, at).fields).to.deep.equal({
      start: '2026-10-25T01:30:00+00:00[Europe/London]',
    });
    const naive = record({ start: '2026-10-20T09:00:00', length: 60 });
    expect(() => takeWhen({ start: 'start', length: 'length' }, naive, second, at)).to.throw(UnfitValue, 'comes twice in Europe/London');
  });
});
