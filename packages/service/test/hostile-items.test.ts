import { expect } from 'chai';
import { MemoryCalendar, MemoryRecords } from '../../../test/simulation/memory-systems.ts';
import { plainLane } from '../../../test/simulation/plain-lane.ts';
import { collection, fields, zones } from '../../../test/simulation/reference/lanes.ts';
import { openLaneStore } from '../../../test/support/lane-store.ts';
import { execute } from '../src/run/execute.ts';

const event = (uid: string, more = 'SUMMARY:Tuning') =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20261201T090000Z\r\nDTEND:20261201T100000Z\r\n${more}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;

describe('items that no run was made for', () => {
  it('are set aside one by one with the reason, and everything else crosses, once', async () => {
    const opened = await openLaneStore();
    const calendar = new MemoryCalendar();
    const records = new MemoryRecords(fields);
    const good = { title: 'Tuning', start: '2026-12-02T09:00:00', end: '2026-12-02T10:00:00' };
    const long = 'x'.repeat(3000);
    for (const id of ['R-1', `nul\0in it`, long, 'ü'.repeat(600), 'half \ud800']) records.put(id, { ...good, title: `Visit ${id.slice(0, 6)}` });
    records.put('R-2', { ...good, title: 'with U+0000 \0 in a field', memo: 'half \ud800, and \0' });
    records.put('no fields', good);
    records.rows.get('no fields')!.item!.fields = null as never;
    calendar.put(`/c/${long}.ics`, event('at-a-long-address'));
    calendar.put('/c/long-uid.ics', event(long));
    calendar.put('/c/odd-length.ics', event('odd-length', 'SUMMARY:Odd').replace(/DTEND.*/, 'DURATION:garbage'));
    calendar.put('/c/ends-early.ics', event('ends-early').replace(/DTEND:.*/, 'DTEND:20261201T080000Z'));
    calendar.put(
      '/c/many-alarms.ics',
      event('many-alarms', `SUMMARY:Alarms\r\n${'BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER:-PT5M\r\nEND:VALARM\r\n'.repeat(3000).trimEnd()}`),
    );
    calendar.put('/c/good.ics', event('good', 'SUMMARY:Good'));
    const lane = plainLane({ direction: '<->', moments: [{ name: 'visit', when: { start: 'start', end: 'end' } }], window: null });
    const context = {
      lane: opened.lane,
      definition: lane,
      version: 1,
      collection: collection('key'),
      zone: zones.find('Europe/London')!,
      zones,
      now: '2026-11-23T08:00:00Z',
    };
    for (const scope of ['sweep', 'changes', 'sweep'] as const) {
      const ended = await execute({
        context,
        sides: { records, calendars: calendar },
        store: opened.store,
        scope,
        signal: new AbortController().signal,
      });
      expect(ended.state, ended.reason ?? '').to.equal('done');
    }
    const made = calendar.writes.filter((w) => w.call === 'create').map((w) => /SUMMARY:(.*)/.exec(w.after!)![1]);
    expect(made).to.have.members(['Visit R-1', 'with U+0000  in a field']);
    expect(records.writes.map((w) => JSON.parse(w.after!).title)).to.have.members(['Good']);
    const { rows } = await opened.open.pool.query<{ name: string; reason: string; value: string }>(
      `select coalesce(nullif(record_id, ''), href) as name, reason, value from verdicts order by 1`,
    );
    const said = (part: string) => rows.find((r) => r.name.startsWith(part));
    expect(said('no fields')).to.include({ reason: 'unexpected error' });
    for (const [part, value] of [
      ['nul', /with U\+0000/],
      ['xxx', /^3000 bytes/],
      ['üüü', /^1200 bytes/],
      ['half', /bytes/],
      ['/c/long-uid', /its UID has 3000 bytes/],
      ['/c/xxx', /^30\d\d bytes/],
      ['/c/odd-length', /not a length/],
      ['/c/ends-early', /before it starts/],
      ['/c/many-alarms', /more than 200 alarms/],
    ] as const)
      expect(said(part)?.value, part).to.match(value);
    await opened.close();
  }).timeout(60_000);
});
