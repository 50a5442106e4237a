import { expect } from 'chai';
import { makeData } from '../../../demo/data.ts';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually } from '../../../test/support/servers.ts';

const today = () => new Date().toISOString().slice(0, 10);
/** A line of the event itself. */
const line = (text: string, name: string) => new RegExp(`^${name}[;:].*`, 'm').exec(text.slice(text.indexOf('BEGIN:VEVENT')))?.[0].trim() ?? null;

describe('the road from the Front desk to the calendar', () => {
  let office: Office;
  before(async function () {
    this.timeout(60_000);
    office = await openOffice({ seed: plainVisits(12) });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
  });
  after(() => office.stop());

  it('puts every visit on the calendar at the first run, and nothing at the second', async () => {
    expect(await office.events()).to.have.length(12);
    const second = await office.run({ sweep: true });
    expect(second.state).to.equal('done');
    expect(second.counts).to.include({ created: 0, changed: 0, removed: 0, adopted: 0, inSync: 0, unchanged: 12 });
    expect((await office.client.journal({ run: second.id })).items).to.deep.equal([]);
  });

  it('follows a visit that is made, moved, renamed, lengthened and deleted, on notice', async () => {
    const { id } = await office.frontDesk.call<{ id: string }>('POST', '/visits', {
      start: '2026-12-01T09:00:00',
      customer_id: 'C-1001',
      instrument: 'Wren grand 170',
      length_minutes: 60,
    });
    const made = await eventually('the event is made', () => office.event(id));
    expect(line(made.text, 'SUMMARY')).to.equal('SUMMARY:Ottoline Marsh: tuning\\, Wren grand 170');
    expect(line(made.text, 'DTSTART')).to.equal('DTSTART;TZID=Europe/London:20261201T090000');

    const patched = async (change: object, name: string, value: string) => {
      await office.frontDesk.call('PATCH', `/visits/${id}`, change);
      await eventually(`${name} becomes ${value}`, async () => line((await office.event(id))!.text, name) === value);
    };
    await patched({ start: '2026-12-02T10:30:00' }, 'DTSTART', 'DTSTART;TZID=Europe/London:20261202T103000');
    await patched({ length_minutes: 150 }, 'DTEND', 'DTEND;TZID=Europe/London:20261202T130000');
    await patched({ instrument: 'square piano of 1841' }, 'SUMMARY', 'SUMMARY:Ottoline Marsh: tuning\\, square piano of 1841');
    await office.frontDesk.call('DELETE', `/visits/${id}`);
    await eventually('the event is removed', async () => (await dav(office.diary, 'GET', made.href)).status === 404);

    // The event is gone a moment before the journal says so.
    await eventually('the removal is in the journal', async () => (await office.client.journal({ record: id })).items[0]?.kind === 'remove');
    const journal = (await office.client.journal({ record: id })).items.map((e) => e.kind);
    expect(journal).to.deep.equal(['remove', 'change', 'change', 'change', 'create']);
    expect((await office.client.why('tuning-visits', id)).why).to.match(/^The record was deleted/);
  });

  it('keeps properties, parameters and components that it does not know', async () => {
    const event = (await office.event('V-1001'))!;
    const foreign = event.text
      .replace(/^SUMMARY:/m, 'SUMMARY;LANGUAGE=en;X-COLOURED=yes:')
      .replace(
        'END:VEVENT',
        'X-CLIENT-THING;X-P="a,b":kept; as, it is\r\nATTENDEE;PARTSTAT=ACCEPTED;CN=Zelda:mailto:zelda@elsewhere.example\r\nBEGIN:VALARM\r\nACTION:DISPLAY\r\nDESCRIPTION:Leave now\r\nTRIGGER:-PT45M\r\nEND:VALARM\r\nEND:VEVENT',
      );
    expect((await dav(office.diary, 'PUT', event.href, { 'content-type': 'text/calendar', 'if-match': event.etag! }, foreign)).status).to.be.oneOf([
      200, 201, 204,
    ]);
    await office.frontDesk.call('PATCH', '/visits/V-1001', { instrument: 'Finch player piano' });
    const after = await eventually('the title changes', async () => {
      const now = await office.event('V-1001');
      return now?.text.includes('Finch player piano') && now;
    });
    expect(line(after.text, 'SUMMARY'))
      .to.match(/LANGUAGE=en/)
      .and.to.match(/X-COLOURED=yes/);
    expect(line(after.text, 'X-CLIENT-THING')).to.include('kept');
    expect(line(after.text, 'ATTENDEE')).to.include('PARTSTAT=ACCEPTED');
    expect(after.text).to.include('TRIGGER:-PT45M').and.to.include('DESCRIPTION:Leave now');
  });

  it('puts a foreign edit back, and says so', async () => {
    const event = (await office.event('V-1002'))!;
    await dav(
      office.diary,
      'PUT',
      event.href,
      { 'content-type': 'text/calendar', 'if-match': event.etag! },
      event.text.replace(/^SUMMARY:.*$/m, 'SUMMARY:Lunch'),
    );
    const run = await office.run();
    expect(run.counts.changed).to.equal(1);
    expect((await office.event('V-1002'))!.text).to.include('Alder upright 1');
    const [entry] = (await office.client.journal({ run: run.id })).items;
    expect(entry).to.include({ kind: 'change', recordId: 'V-1002', cause: 'changed on the calendar: put back' });
    expect(entry!.changes).to.deep.include({
      side: 'event',
      property: 'title',
      before: 'Lunch',
      after: 'Ottoline Marsh: tuning, Alder upright 1',
      cause: 'changed on the calendar: put back',
    });
  });

  it('audits both sides whole: counts that add up, and what differs', async () => {
    const clean = await office.client.audit('tuning-visits');
    expect(clean).to.deep.equal({
      counts: { moments: 12, leftOut: 0, inSync: 12, differing: 0, missing: 0, missingRecords: 0, extra: 0, foreign: 0, events: 12 },
      addsUp: true,
      differences: [],
    });
    const edited = (await office.event('V-1008'))!;
    await dav(
      office.diary,
      'PUT',
      edited.href,
      { 'content-type': 'text/calendar', 'if-match': edited.etag! },
      edited.text.replace(/^SUMMARY:.*$/m, 'SUMMARY:Lunch'),
    );
    await dav(office.diary, 'DELETE', (await office.event('V-1009'))!.href);
    await dav(
      office.diary,
      'PUT',
      `${office.calendar}party.ics`,
      { 'content-type': 'text/calendar' },
      edited.text
        .replace(/^UID:.*$/m, 'UID:party')
        .replace(/^X-MONSOON.*\r?\n/gm, '')
        .replace(/^SUMMARY:.*$/m, 'SUMMARY:Party'),
    );
    const found = await office.client.audit('tuning-visits');
    expect(found.counts).to.deep.equal({
      moments: 12,
      leftOut: 0,
      inSync: 10,
      differing: 1,
      missing: 1,
      missingRecords: 0,
      extra: 0,
      foreign: 1,
      events: 12,
    });
    expect(found.addsUp).to.equal(true);
    expect(found.differences.map((d) => [d.recordId, d.fix])).to.have.deep.members([
      ['V-1008', 'change'],
      ['V-1009', 'hold'],
    ]);
    await office.run();
    const asked = await office.client.audit('tuning-visits');
    expect(
      asked.differences.map((d) => [d.recordId, d.cause]),
      'a question stays a difference',
    ).to.deep.equal([['V-1009', 'it is held until a person decides']]);
    expect(asked).to.include({ addsUp: true }).and.nested.property('counts').include({ inSync: 11, missing: 1, foreign: 1, events: 12 });
    const [hold] = (await office.client.holds()).items;
    await office.client.settle(hold!.id, 'create again');
    await eventually('both sides agree', async () => (await office.client.audit('tuning-visits')).differences.length === 0);
    await dav(office.diary, 'DELETE', `${office.calendar}party.ics`);
  });

  it('holds a deleted event until somebody decides, and then does it', async () => {
    const event = (await office.event('V-1003'))!;
    await dav(office.diary, 'DELETE', event.href);
    const run = await office.run();
    expect(run.counts.held).to.equal(1);
    expect((await office.run()).counts.held, 'held once, not at every run').to.equal(0);
    const [hold] = (await office.client.holds()).items;
    expect(hold).to.include({ recordId: 'V-1003', question: 'event deleted' });
    const detail = await office.client.item('tuning-visits', 'V-1003');
    expect(detail.why).to.include('the event was deleted on the calendar');
    await office.client.settle(hold!.id, 'create again');
    await eventually('it is made again', async () => (await dav(office.diary, 'GET', event.href)).status === 200);
    expect((await office.client.holds()).items).to.deep.equal([]);
  });

  it('removes what the filter leaves out, and makes it again when it comes back', async () => {
    const { href } = (await office.event('V-1004'))!;
    await office.frontDesk.call('PATCH', '/visits/V-1004', { status: 'cancelled' });
    await eventually('the event goes', async () => (await dav(office.diary, 'GET', href)).status === 404);
    const verdict = await eventually('the verdict', async () => (await office.client.item('tuning-visits', 'V-1004')).verdict);
    expect(verdict).to.include({
      reason: 'filtered out',
      condition: 'status none of [cancelled]',
      value: 'cancelled',
    });
    await office.frontDesk.call('PATCH', '/visits/V-1004', { status: 'booked' });
    await eventually('the event is back', async () => (await dav(office.diary, 'GET', href)).status === 200);
  });

  it('saves a new version of the lane only over the version that was edited, and rewrites what it changes', async () => {
    const lane = await office.client.lane('tuning-visits');
    const changed = { ...lane.definition, fields: { ...lane.definition.fields, busy: { fixed: 'free' } } };
    await office.client.changeLane('tuning-visits', lane.version, changed);
    const late = await office.client.changeLane('tuning-visits', lane.version, changed).catch((e: Error) => e);
    expect(late).to.be.instanceOf(Error).with.property('status', 412);

    const held = await eventually('the run is held', async () => {
      const last = (await office.client.lane('tuning-visits')).lastRun;
      return last?.state === 'held' && last;
    });
    expect(held.reason).to.match(/would rewrite 12 of 12 items/);
    expect((await office.event('V-1005'))!.text).to.include('TRANSP:OPAQUE');
    expect((await office.client.today()).heldRuns.map((r) => r.id)).to.deep.equal([held.id]);
    // Six people at once let it through once.
    const releases = await Promise.allSettled(Array.from({ length: 6 }, () => office.client.release(held.id)));
    expect(releases.filter((r) => r.status === 'fulfilled')).to.have.length(1);
    await eventually('the events are rewritten', async () => (await office.event('V-1005'))!.text.includes('TRANSP:TRANSPARENT'));
    await eventually('nothing is held', async () => (await office.client.today()).heldRuns.length === 0);
  });

  it('stops a run that would remove too much, and lets through no more than was seen', async () => {
    for (let i = 1001; i <= 1006; i++) await office.frontDesk.call('PATCH', `/visits/V-${i}`, { private: true });
    const held = await eventually('the run is held', async () => {
      const last = (await office.client.lane('tuning-visits')).lastRun;
      return last?.state === 'held' && last.reason?.includes('6 of') && last;
    });
    const before = await office.events();
    // As many as before, and not the same.
    await office.frontDesk.call('PATCH', '/visits/V-1007', { private: true });
    await office.frontDesk.call('PATCH', '/visits/V-1001', { private: false });
    const again = await office.client.release(held.id);
    const ended = await eventually('it is held again', async () => {
      const run = await office.client.oneRun(again.id);
      return run.state === 'held' && run;
    });
    expect(ended.reason).to.match(/would remove 6 of 12 items/);
    expect(await office.events()).to.have.members(before);
    await office.client.release(ended.id);
    await eventually('six are removed', async () => (await office.events()).length === 6);
    expect(await office.event('V-1007')).to.equal(null);
    expect(await office.event('V-1001')).to.not.equal(null);
  });
});

describe('the awkward visits of Alder & Wren', () => {
  let office: Office;
  let visits: Map<string, string>;
  before(async function () {
    this.timeout(60_000);
    const seed = makeData(today(), 6);
    visits = new Map(seed.filter((r) => r.kind === 'visits').map((r) => [String(r.row['notes'] ?? ''), r.row.id]));
    office = await openOffice({ seed, lane: { window: { behind: 420, ahead: 380 } } });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
  });
  after(() => office.stop());

  const by = (note: string) => [...visits].find(([n]) => n.startsWith(note))![1];
  const verdict = async (note: string) => (await office.client.why('tuning-visits', by(note))).verdict;

  it('says why something is not on the calendar: condition and value', async () => {
    expect(await verdict('Customer will call')).to.include({ reason: 'no date', condition: 'start is not empty', value: '(empty)' });
    expect(await verdict('Surprise')).to.include({ reason: 'private', condition: 'private is no', value: 'yes' });
    const outside = await verdict('Yearly tuning');
    expect(outside).to.include({ reason: 'out of the window' });
    expect(outside!.condition).to.match(/^between \d{4}-\d\d-\d\d and \d{4}-\d\d-\d\d \(420 days behind, 380 ahead\)$/);
    expect(outside!.recheckAt, 'it is looked at again when the window reaches it').to.be.a('string');
    expect(await verdict('Nobody knows')).to.include({ reason: 'unfit value', value: '(empty)' });
  });

  it('puts noon in Vancouver on 15 December at 19:00Z, whatever the runtime believes', async () => {
    const event = (await office.event(by('On tour')))!;
    const year = today().slice(0, 4);
    expect(line(event.text, 'DTSTART')).to.equal(`DTSTART;TZID=America/Vancouver:${year}1215T120000`);
    // The zone that goes along says seven hours behind UTC, for readers whose own tables are old.
    expect(/BEGIN:VTIMEZONE[\s\S]*END:VTIMEZONE/.exec(event.text)![0])
      .to.match(/TZOFFSETTO:-0700/)
      .and.not.to.match(/TZOFFSETTO:-0800/);
  });

  it('tells the two passages through the repeated hour apart', async () => {
    const start = async (note: string) => line((await office.event(by(note)))!.text, 'DTSTART')!;
    expect(await start('Night session, first')).to.match(/^DTSTART:\d{8}T003000Z$/);
    expect(await start('Night session, second')).to.match(/^DTSTART:\d{8}T013000Z$/);
    expect(await start('Night session, after')).to.match(/^DTSTART;TZID=Europe\/London:\d{8}T023000$/);
  });

  it('carries long text with emoji, commas and quotes unharmed', async () => {
    const id = by('Long story');
    const detail = await office.client.item('tuning-visits', id);
    expect((detail.event.values as { description: string }).description).to.equal((detail.record.values as { description: string }).description);
    expect((detail.event.values as { description: string }).description)
      .to.include('🎹')
      .and.to.include('"the good lamp"; tea.');
  });

  it('crosses midnight', async () => {
    const event = (await office.event(by('After the concert')))!;
    expect(line(event.text, 'DTSTART')).to.match(/T231500$/);
    expect(line(event.text, 'DTEND')).to.match(/T011500$/);
  });
});
