import { expect } from 'chai';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually } from '../../../test/support/servers.ts';

type Visit = Record<string, unknown> & { id: string };

describe('a lane both ways, between the Front desk and a calendar server', () => {
  let office: Office;
  const visit = (id: string) => office.frontDesk.call<Visit>('GET', `/visits/${id}`);
  const visits = async () => (await office.frontDesk.call<{ items: Visit[] }>('GET', '/visits')).items;
  const put = (href: string, text: string, etag?: string | null) =>
    dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar', ...(etag == null ? {} : { 'if-match': etag }) }, text);
  /** What a person does to the event of a visit in a calendar program. */
  const edit = async (id: string, change: (text: string) => string) => {
    const event = (await office.event(id))!;
    await put(event.href, change(event.text), event.etag);
  };
  const title = (to: string) => (text: string) => text.replace(/^SUMMARY:.*$/m, `SUMMARY:${to}`);
  const newEvent = (uid: string, more: string) =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Test//EN\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\n${more}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;

  before(async () => {
    office = await openOffice({
      seed: plainVisits(8),
      lane: {
        direction: '<->',
        may: {},
        private: null,
        window: null,
        fields: {
          title: { copy: 'instrument' },
          description: { copy: 'notes' },
          busy: { fixed: 'busy' },
          attendees: { copy: 'guests' },
          reminders: { fixed: ['15'] },
        },
        defaults: { status: 'booked' },
        sets: { eventDeleted: { status: 'cancelled' } },
        guard: { removals: 3, removedPercent: 100, rewrittenPercent: 100 },
      },
    });
    await office.run();
  });
  after(() => office?.stop());

  it('takes a drag, a rename and a guest in the calendar back to the visit, and nothing else of it', async () => {
    const before = await visit('V-1001');
    await edit('V-1001', (text) =>
      title('Wren grand')(text)
        .replace(/^DTSTART;TZID.*$/m, 'DTSTART;TZID=Europe/London:20261222T140000')
        .replace(/^DTEND;TZID.*$/m, 'DTEND;TZID=Europe/London:20261222T160000')
        .replace('END:VEVENT', 'ATTENDEE;CN=Ottoline Marsh;PARTSTAT=ACCEPTED:mailto:ottoline@post.example\r\nEND:VEVENT'),
    );
    const run = await office.run();
    expect(run.counts).to.include({ changed: 1, failed: 0 });
    const { updated_at: _a, ...now } = await visit('V-1001');
    const { updated_at: _b, ...old } = before;
    expect(now).to.deep.equal({
      ...old,
      instrument: 'Wren grand',
      start: '2026-12-22T14:00:00',
      length_minutes: 120,
      guests: [{ name: 'Ottoline Marsh', email: 'ottoline@post.example' }],
    });
    const [entry] = (await office.client.journal({ run: run.id })).items;
    expect(entry!.changes).to.deep.include({
      side: 'record',
      property: 'instrument',
      before: old['instrument'],
      after: 'Wren grand',
      cause: 'changed on the calendar',
    });
    expect((await office.event('V-1001'))!.text).to.match(/PARTSTAT=ACCEPTED.*mailto:ottoline@post.example/);
    expect((await office.run()).counts, 'our own write is no news').to.include({ changed: 0, inSync: 0 });
  });

  it('makes a visit of a new event once, says why of others, and follows both from then on', async () => {
    await put(`${office.calendar}spinet.ics`, newEvent('spinet', 'SUMMARY:Alder spinet\r\nDTSTART:20261215T090000Z\r\nDTEND:20261215T103000Z'));
    await put(`${office.calendar}weekly.ics`, newEvent('weekly', 'SUMMARY:Weekly talk\r\nRRULE:FREQ=WEEKLY\r\nDTSTART:20261215T090000Z'));
    await put(`${office.calendar}secret.ics`, newEvent('secret', 'SUMMARY:Hammer felt, a surprise\r\nCLASS:PRIVATE\r\nDTSTART:20261215T090000Z'));
    await put(`${office.calendar}long.ics`, newEvent('long', `SUMMARY:${'x'.repeat(201)}\r\nDTSTART:20261215T090000Z`));
    const run = await office.run();
    expect(run.counts).to.include({ created: 1 });
    const made = (await visits()).find((v) => v['instrument'] === 'Alder spinet')!;
    expect(made).to.include({ start: '2026-12-15T09:00:00', time_zone: 'Europe/London', length_minutes: 90, status: 'booked' });
    expect((await office.run()).counts).to.include({ created: 0, changed: 0 });
    const reasons = await Promise.all(
      ['weekly', 'secret', 'long'].map(async (uid) => (await office.client.why('tuning-visits', `${office.calendar}${uid}.ics`)).verdict?.reason),
    );
    expect(reasons).to.deep.equal(['repeating', 'private', 'unfit value']);
    expect((await office.client.why('tuning-visits', `${office.calendar}long.ics`)).why).to.match(/takes 200/);
    await office.frontDesk.call('PATCH', `/visits/${made.id}`, { instrument: 'Alder spinet, restrung' });
    await eventually('the event follows', async () => (await dav(office.diary, 'GET', `${office.calendar}spinet.ics`)).text.includes('restrung'));
    const events = await office.events();
    expect(events.filter((href) => href.includes('spinet'))).to.have.length(1);
    expect(await visits()).to.have.length(9);
  });

  it('asks the calendar server for nothing outside of the calendar of the lane', async () => {
    const outside = `${office.calendar}../somebody-elses/secret.ics`;
    const refused = await office.client.run('tuning-visits', { hrefs: [outside] }).catch((e) => e);
    expect(refused).to.include({ status: 422 });
    expect(refused.problems[0].pointer).to.equal('/hrefs/0');
    expect(refused.message).to.include(`is not in the calendar of this lane; addresses there begin with ${office.calendar}`);
    expect(await office.client.item('tuning-visits', outside).catch((e) => e)).to.include({ status: 404 });
  });

  it('asks about a conflict with both values and the baseline, and asks again when a side changes meanwhile', async () => {
    const base = (await visit('V-1002'))['instrument'];
    // No run may see one edit before the other is made.
    await office.client.pause('tuning-visits');
    await edit('V-1002', title('There'));
    await office.frontDesk.call('PATCH', '/visits/V-1002', { instrument: 'Here' });
    await office.client.resume('tuning-visits');
    const first = await eventually('the question', async () => (await office.client.holds()).items[0]);
    expect(first).to.deep.include({
      question: 'conflict',
      choices: ['records win', 'calendar wins'],
      record: { title: 'Here' },
      event: { title: 'There' },
    });
    expect(first.baseline!.record['title']).to.equal(base);
    await edit('V-1002', title('Elsewhere'));
    await office.run();
    const [second] = (await office.client.holds()).items;
    expect(second!.id).to.not.equal(first.id);
    expect(second!.event).to.deep.equal({ title: 'Elsewhere' });
    await office.client.settle(second!.id, 'calendar wins');
    await eventually("the visit has the calendar's word", async () => (await visit('V-1002'))['instrument'] === 'Elsewhere');
    expect((await office.client.holds()).items).to.deep.equal([]);
    const history = (await office.client.item('tuning-visits', 'V-1002')).history;
    expect(history[0]!.changes[0]).to.include({
      side: 'record',
      before: 'Here',
      after: 'Elsewhere',
      cause: 'changed on both sides; settled by a person: calendar wins',
    });
  });

  it('settles all alike, and closes a question whose cause is gone', async () => {
    for (const id of ['V-1003', 'V-1004', 'V-1005']) {
      const event = (await office.event(id))!;
      await dav(office.diary, 'DELETE', event.href);
    }
    await office.run();
    expect((await office.client.holds()).items.map((h) => h.question)).to.deep.equal(Array(3).fill('event deleted'));
    expect((await office.client.holds()).items[0]!.choices).to.deep.equal(['create again', 'delete record', 'set fields', 'unlink']);
    await office.frontDesk.call('DELETE', '/visits/V-1005');
    await eventually('one less', async () => (await office.client.holds()).items.length === 2);
    expect(await office.client.settleAll('event deleted', 'set fields')).to.deep.equal({ settled: 2, skipped: 0 });
    await eventually(
      'both are cancelled',
      async () => (await visit('V-1003'))['status'] === 'cancelled' && (await visit('V-1004'))['status'] === 'cancelled',
    );
    expect((await office.client.holds()).items).to.deep.equal([]);
  });

  it('takes a run back where nobody edited since, lists the rest, and leaves it so', async () => {
    await edit('V-1006', title('Renamed by mistake'));
    await edit('V-1007', title('Renamed too'));
    const run = await office.run();
    expect(run.counts.changed).to.equal(2);
    await office.frontDesk.call('PATCH', '/visits/V-1007', { notes: 'edited since' });
    await eventually('the edit crosses', async () => (await office.event('V-1007'))!.text.includes('edited since'));
    // The event shows it a moment before the journal does.
    await eventually('it is journalled', async () => (await office.client.journal({ record: 'V-1007', limit: 1 })).items[0]!.run !== run.id);
    const plan = await office.client.foreseeUndo({ run: run.id });
    expect(plan.operations.map((o) => o.recordId)).to.deep.equal(['V-1006']);
    expect(plan.impossible.map((i) => [i.recordId, i.reason])).to.deep.equal([['V-1007', 'it was changed again by a later run']]);
    const undone = await office.settled(await office.client.undo({ run: run.id }));
    expect(undone).to.include({ state: 'done' });
    expect((await visit('V-1006'))['instrument']).to.not.equal('Renamed by mistake');
    expect((await visit('V-1007'))['instrument']).to.equal('Renamed too');
    expect((await office.run({ sweep: true })).counts, 'no later run takes it apart again').to.include({ changed: 0, created: 0, removed: 0 });
  });

  it('forecasts a draft against what is there, without saving it, and refuses one that cannot work', async () => {
    const { definition, version } = await office.client.lane('tuning-visits');
    const draft = await office.client.forecast('tuning-visits', { ...definition, filter: 'instrument is "Nobody has this"' });
    expect(draft.counts.removed).to.be.greaterThan(3);
    expect(draft.guard[0]).to.match(/the guard lets 3 through/);
    const moments = [{ name: 'packing', when: { due: 'start', show: 'ending', minutes: 20 } }];
    const other = await office.client.forecast('tuning-visits', { ...definition, moments });
    expect(new Set(other.operations.map((o) => o.kind)))
      .to.include('unlink')
      .and.include('create');
    expect((await office.client.lane('tuning-visits')).version).to.equal(version);
    const wrong = await office.client
      .forecast('tuning-visits', {
        ...definition,
        fields: { title: { join: '{kind}, {customer}' }, status: { table: 'status', values: { booked: 'confirmed', done: 'confirmed' } } },
      })
      .catch((e) => e);
    expect(wrong.problems.map((p: { pointer: string }) => p.pointer)).to.have.members(['/fields/title/direction', '/fields/status/direction']);
    expect(wrong.message).to.match(/make it one-way.*or name the part that may be edited/);
  });
});
