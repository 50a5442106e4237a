import {
  canonical,
  damageToJudge,
  type FieldValue,
  formatWhen,
  guard,
  matchKey,
  pairsThatMatter,
  quietUntil,
  readDateTime,
  sayAny,
  sayValue,
  stateOf,
  toInstant,
  toLocal,
} from '@monsoon/core';
import { keeps, london, records, said, whens } from './approved-fixtures.ts';
import { context, lane, zones } from './engine-fixtures.ts';

describe('what is said and done is as it was approved: values', () => {
  keeps('how values are said and compared', () => {
    const odds: unknown[] = [
      null,
      undefined,
      '',
      'a',
      0,
      1.5,
      true,
      false,
      [],
      ['a', 'b'],
      { name: 'Una' },
      { email: 'una@a.example' },
      { name: 'Una', email: 'u@a.example' },
      { id: 'P-1' },
      { id: 'P-1', label: 'Una' },
      [{ id: 'a' }, { name: 'b' }],
      [15, 30],
      { kind: 'all-day', first: '2026-12-01', end: '2026-12-02' },
      { b: 1, a: [2, { d: 1, c: 2 }] },
    ];
    return [
      ...odds.map((v) => `${JSON.stringify(v)}: ${said(() => sayValue(v as FieldValue))} ${said(() => sayAny(v))} ${said(() => canonical(v))}`),
      ...records.map((r) => `${r.id}: ${stateOf(r)} ${stateOf({ ...r, version: undefined })}`),
      ...[
        '2026-12-01T09:00:00',
        '2026-12-01T09:00',
        '2026-12-01T09:00:00Z',
        '2026-12-01T09:00:00+05:30',
        '2026-12-01T09:00:00[Europe/Athens]',
        '2026-12-01T09:00:00Z[Europe/Athens]',
        '2026-10-25T01:30:00',
        '2026-03-29T01:30:00',
        '2026-12-01',
        '2026-02-30T00:00:00',
        'soon',
        '2026-12-01T09:00:00.5Z',
        '2026-12-01T25:00:00',
        '2026-12-01T09:00:00[Mars/Phobos]',
      ].map((t) => `${t}: ${said(() => ({ ...readDateTime(t, london, zones), zone: readDateTime(t, london, zones).zone.name }))}`),
      ...[
        '2026-10-25T00:59:59',
        '2026-10-25T01:00:00',
        '2026-10-25T01:59:59',
        '2026-10-25T02:00:00',
        '2026-03-29T00:59:59',
        '2026-03-29T01:00:00',
        '2026-03-29T02:00:00',
        '1999-12-31T23:59:59',
        '2040-07-01T12:00:00',
      ].flatMap((t) =>
        ['Europe/London', 'America/Halifax', 'Asia/Kolkata', 'UTC'].map(
          (z) =>
            `${t} ${z}: ${said(() => {
              const { instant, resolution } = toInstant(t, zones.find(z)!);
              return [instant, resolution, toLocal(instant, zones.find(z)!)];
            })}`,
        ),
      ),
      ...whens.map((w) => formatWhen(w)),
      ...whens.flatMap((w) =>
        [{}, { matching: ['title'] }, { matching: ['when', 'location'] }, { matching: [] }, { matching: ['categories', 'title'] }].map(
          (m) =>
            `${JSON.stringify(m)} ${formatWhen(w)}: ${matchKey(context(lane(m)), { title: ' Marsh ', when: w, location: 'Meadow Hall', categories: ['b', 'a'] })}`,
        ),
      ),
      ...[0, 1, 5, 10, 11, 100].flatMap((removals) =>
        [0, 1, 50, 51].flatMap((rewrites) =>
          [1, 9, 10, 100].map((pairs) => {
            const limits = { removals: 10, removedPercent: 20, rewrittenPercent: 50 };
            return `${removals} removals, ${rewrites} rewrites of ${pairs}: ${JSON.stringify(guard({ removals, rewrites }, pairs, limits))} ${JSON.stringify(damageToJudge({ removals, rewrites }, { removals: 5, rewrites: 50 }))} ${pairsThatMatter({ removals, rewrites }, limits)} ${pairsThatMatter({ removals, rewrites }, { removals: 1000, removedPercent: 0, rewrittenPercent: 100 })}`;
          }),
        ),
      ),
      ...['2026-11-23T21:00:00Z', '2026-11-23T23:00:00Z', '2026-11-24T05:59:00Z', '2026-11-24T06:00:00Z'].flatMap((now) =>
        [null, { from: '22:00', until: '06:00' }, { from: '05:00', until: '21:30' }].map(
          (quiet) => `${now} ${JSON.stringify(quiet)}: ${said(() => quietUntil({ quiet, zone: 'Europe/London' } as never, now, zones))}`,
        ),
      ),
    ];
  });
});
