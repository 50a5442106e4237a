import { resolve } from 'node:path';
import { type Directory, type Field, type RecordItem, UnfitValue, type When } from '@monsoon/core';
import { compareApproved } from '../../../test/support/approved.ts';
import { zones } from './engine-fixtures.ts';

export const london = zones.find('Europe/London')!;
export const people: Directory = {
  byEmail: new Map([['una@alder-wren.example', { id: 'P-1', label: 'Una Marsh' }]]),
  emails: new Map([['P-1', 'una@alder-wren.example']]),
};
const field = (name: string, type: Field['type'], more: Partial<Field> = {}): Field => ({ name, label: name, type, ...more });
export const fields: Field[] = [
  field('text', 'text', { limit: 12 }),
  field('long', 'long text'),
  field('number', 'number'),
  field('flag', 'yes/no'),
  field('choice', 'choice', { choices: ['tuning', 'voicing'] }),
  field('choices', 'choices', { choices: ['red', 'green', 'blue'] }),
  field('free', 'choices'),
  field('date', 'date'),
  field('time', 'time'),
  field('start', 'date-time'),
  field('end', 'date-time'),
  field('length', 'duration', { unit: 'minutes' }),
  field('hours', 'duration', { unit: 'hours' }),
  field('person', 'person'),
  field('people', 'people'),
  field('reference', 'reference'),
  field('references', 'references'),
  field('address', 'web address'),
  field('place', 'place'),
  field('fixed', 'text', { readOnly: true }),
  field('first', 'date'),
  field('last', 'date'),
  field('due', 'date-time'),
];
export const item = (id: string, values: Record<string, unknown>, more: Partial<RecordItem> = {}): RecordItem => ({
  id,
  fields: { ...Object.fromEntries(fields.map((f) => [f.name, null])), ...values } as RecordItem['fields'],
  ...more,
});
export const full = item(
  'full',
  {
    text: 'Marsh',
    long: 'two\r\nlines\u0007, and "more"',
    number: 30,
    flag: true,
    choice: 'tuning',
    choices: ['red', 'blue'],
    free: ['one', 'two'],
    date: '2026-12-01',
    time: '09:30:00',
    start: '2026-12-01T09:00:00',
    end: '2026-12-01T10:30:00',
    length: 90,
    hours: 2,
    person: { name: 'Bram Quill', email: 'Bram@alder-wren.example' },
    people: [{ email: 'una@alder-wren.example', name: 'Una Marsh' }, { name: 'without address' }],
    reference: { id: 'P-1', label: 'Una Marsh' },
    references: [{ id: 'P-1', label: 'Una Marsh' }, { id: 'P-9' }],
    'guests in visitors': [
      { email: 'Tom@alder-wren.example', response: 'needs action' },
      { email: 'bo@alder-wren.example', name: 'Bo', response: 'comes' },
    ],
    address: 'https://alder-wren.example/visits/1',
    place: 'Meadow Hall',
    fixed: 'as it is',
    first: '2026-12-01',
    last: '2026-12-03',
    due: '2026-12-04T17:00:00Z',
  },
  { version: 'v1', url: 'https://desk.alder-wren.example/full' },
);
export const odd = item('odd', {
  text: '  blanks around  ',
  long: `x${'y'.repeat(1200)}`,
  number: -4,
  flag: false,
  choice: 'other',
  choices: [],
  time: '09:30',
  start: '2026-10-25T01:30:00',
  end: '2026-10-25T01:15:00',
  length: 0,
  hours: 0.5,
  person: { name: 'no address' },
  people: [{ email: 'not an address' }],
  address: 'not an address',
  first: '2026-12-03',
  last: '2026-12-01',
  due: '2026-02-30T10:00:00',
});
export const records = [full, odd, item('empty', {})];
export const said = (work: () => unknown): string => {
  try {
    const result = work();
    return result === undefined ? 'undefined' : JSON.stringify(result);
  } catch (error) {
    const unfit = error instanceof UnfitValue ? ` [${error.field}: ${error.value.slice(0, 60)}]` : '';
    return `${(error as Error).name}: ${(error as Error).message}${unfit}`.replaceAll('\n', '\\n');
  }
};

export const whens: When[] = [
  { kind: 'timed', start: '2026-12-01T09:00:00', end: '2026-12-01T10:30:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-12-02T11:00:00', end: '2026-12-02T11:40:30', zone: 'Europe/Athens' },
  { kind: 'timed', start: '2026-12-02T23:30:00', end: '2026-12-04T00:30:00', zone: 'UTC' },
  { kind: 'timed', start: '2026-12-02T11:00:00', end: '2026-12-02T11:00:00', zone: null },
  { kind: 'timed', start: '2026-10-25T01:30:00', end: '2026-10-25T02:30:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-03-29T01:30:00', end: '2026-03-29T03:00:00', zone: 'Europe/London' },
  { kind: 'timed', start: '2026-07-01T09:00:00', end: '2026-07-01T10:00:00', zone: 'America/Halifax' },
  { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' },
  { kind: 'all-day', first: '2026-12-05', end: '2026-12-08' },
  { kind: 'all-day', first: '2026-12-04', end: '2026-12-05' },
];
/** One table of what the core says, read and approved as a whole. `MONSOON_APPROVE=1` replaces it. */
export const keeps = (name: string, lines: () => string[]) =>
  it(name, () => compareApproved(resolve(import.meta.dirname, `approved/${name.replaceAll(' ', '-')}.txt`), lines())).timeout(20_000);
