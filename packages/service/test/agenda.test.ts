import type { AgendaItem } from '@monsoon/contract';
import { expect } from 'chai';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav } from '../../../test/support/servers.ts';

/** What stands where: both sides of a lane with their times, what differs, what is on one side only, and a forecast. */
describe('The agenda', () => {
  let office: Office;
  const agenda = (more: object = {}) =>
    office.client.agenda({ from: '2026-12-01', until: '2026-12-31', zone: 'Europe/London', lane: 'tuning-visits', ...more });
  const of = (items: AgendaItem[], visit: string) => items.find((i) => i.recordId === visit);
  const move = (visit: string, start: string) => office.frontDesk.call('PATCH', `/visits/${visit}`, { start, time_zone: 'Europe/London' });

  before(async () => {
    office = await openOffice({
      diary: 'hosted',
      notices: false,
      seed: plainVisits(4),
      lane: {
        direction: '<->',
        may: {},
        private: null,
        filter: 'status is not "cancelled"',
        guard: { removals: 9, removedPercent: 100, rewrittenPercent: 100 },
      },
    });
    for (const [i, day] of ['01', '02', '03', '04'].entries()) await move(`V-100${i + 1}`, `2026-12-${day}T09:00:00`);
    await office.run({ sweep: true });
  });
  after(() => office?.stop());

  it('has each item level, with the days in which it lies', async () => {
    const { items, days, complete, zone } = await agenda();
    expect([zone, complete, days.length]).to.deep.equal(['Europe/London', true, 31]);
    expect(items.map((i) => i.recordId)).to.deep.equal(['V-1001', 'V-1002', 'V-1003', 'V-1004']);
    const [first] = items;
    expect(first).to.deep.include({ state: 'in sync', lane: 'tuning-visits', moment: 'visit', repeating: false });
    expect(first!.record).to.deep.equal(first!.event);
    expect(first!.record!.from).to.equal(Date.parse('2026-12-01T09:00:00Z') / 1000);
    expect(days[0]).to.deep.include({ day: '2026-12-01', items: 1, states: { 'in sync': 1 } });
    expect((await agenda({ counts: true })).items).to.deep.equal([]);
  });

  it('has days of 23 and 25 hours where clocks change, and reads them in the zone that is asked for', async () => {
    const { days } = await agenda({ from: '2026-10-24', until: '2026-10-26' });
    expect(days.map((d) => d.hours.length)).to.deep.equal([24, 25, 24]);
    expect(days[1]!.hours.slice(0, 4)).to.deep.equal(['00:00', '01:00', '01:00', '02:00']);
    const spring = await agenda({ from: '2027-03-28', until: '2027-03-28' });
    expect(spring.days[0]!.hours.slice(0, 3)).to.deep.equal(['00:00', '02:00', '03:00']);
    const elsewhere = await agenda({ zone: 'Pacific/Auckland', until: '2026-12-02' });
    expect(elsewhere.items[0]!.record!.says).to.equal('1 Dec 2026 22:00-23:00 (09:00 Europe/London)');
  });

  it('shows what is on one side only with its verdict, and a question with what both sides say', async () => {
    await office.frontDesk.call('PATCH', '/visits/V-1004', { status: 'cancelled' });
    await dav(office.diary, 'DELETE', (await office.event('V-1003'))!.href);
    await office.run();
    const { items, days } = await agenda();
    const held = of(items, 'V-1003')!;
    expect(held).to.deep.include({ state: 'held', why: 'event deleted' });
    const gone = of(items, 'V-1004')!;
    expect(gone.state).to.be.oneOf(['left out', 'held']);
    expect(days.find((d) => d.day === '2026-12-03')!.states).to.deep.equal({ held: 1 });
  });

  it('shows a forecast as slants: each side where it is, and where it would go', async () => {
    await move('V-1001', '2026-12-01T14:00:00');
    const now = of((await agenda()).items, 'V-1001')!;
    expect(now.record!.from).to.equal(now.event!.from);
    const would = of((await agenda({ forecast: true })).items, 'V-1001')!;
    expect(would.state).to.equal('would change');
    expect(would.record!.from - would.event!.from).to.equal(5 * 3600);
    await office.run();
    expect(of((await agenda({ forecast: true })).items, 'V-1001')!.state).to.equal('in sync');
  });

  it('shows any calendar, each occurrence of a series, and says what it cannot', async () => {
    const text = (await office.event('V-1002'))!.text
      .replace(/UID:.*/, 'UID:weekly')
      .replace(/X-MONSOON.*\r?\n/g, '')
      .replace(/SUMMARY:.*/, 'SUMMARY:Choir\r\nRRULE:FREQ=WEEKLY;COUNT=3');
    await dav(office.diary, 'PUT', `${office.calendar}weekly.ics`, { 'content-type': 'text/calendar' }, text.replace(/\r?\n/g, '\r\n'));
    const { items } = await office.client.agenda({
      from: '2026-12-01',
      until: '2026-12-31',
      zone: 'Europe/London',
      system: 'hosted',
      calendar: office.calendar,
    });
    const choir = items.filter((i) => i.label === 'Choir');
    expect(choir.map((i) => i.event!.says)).to.deep.equal(['2 Dec 2026 09:00-10:00', '9 Dec 2026 09:00-10:00', '16 Dec 2026 09:00-10:00']);
    expect(choir.every((i) => i.repeating && i.record === null && i.state === 'on the calendar')).to.equal(true);
    for (const [wrong, words] of [
      [{ zone: 'Mars/Olympus' }, /not a time zone/],
      [{ lane: 'nowhere' }, /no lane "nowhere"/],
      [{ from: '2027-01-01' }, /lies after/],
      [{ until: '2028-12-31' }, /62 days/],
    ] as const)
      expect(await agenda(wrong).catch((e: Error) => e.message)).to.match(words);
  });
});
