import type { PreviewAnswer } from '@monsoon/contract';
import { expect } from 'chai';
import { parse } from 'yaml';
import { plainVisits, startStandin } from '../../../test/support/front-desk.ts';
import { laneFile, type Office, openOffice } from '../../../test/support/office.ts';
import { account, cyrus, dav, eventually, listEvents } from '../../../test/support/servers.ts';

const by = <T>(items: T[], name: keyof T, value: unknown): T => items.find((i) => i[name] === value)!;

import { sayFields } from '../src/lanes/samples.ts';

describe('arranging a lane', () => {
  let office: Office;
  before(async () => {
    office = await openOffice({ seed: plainVisits(12) });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
  });
  after(() => office.stop());

  const refused = async (work: Promise<unknown>): Promise<{ status: number; message: string }> =>
    work.then(
      () => ({ status: 200, message: '' }),
      (error: { status: number; message: string }) => error,
    );

  it('previews whatever part of a lane is arranged: counts, reasons, real records as events, and what is missing', async () => {
    const look = (definition: object, more: object = {}) => office.client.preview({ definition, ...more });
    expect((await look({})).problems.map((p) => p.pointer)).to.include.members(['/name', '/records', '/direction', '/zone', '/moments']);
    const { calendar: _calendar, ...noCalendar } = laneFile();
    const half = await look({ ...noCalendar, filter: 'kind is "tuning"' });
    expect(half.records).to.deep.include({ name: 'Tuning visits', read: 12, complete: true });
    expect(half.problems.every((p) => p.pointer.startsWith('/calendar'))).to.equal(true);
    await office.frontDesk.call('PATCH', '/visits/V-1002', { start: null });
    const whole = await eventually('the sample is fresh', async () => {
      const found: PreviewAnswer = await look({ ...laneFile(), zone: 'Europe/London', name: `T${Math.random()}` });
      return found.records !== null && found;
    });
    const item = by(whole.items, 'recordId', whole.items[0]!.recordId);
    expect(item.moments[0]!.values)
      .to.have.property('title')
      .that.includes(String((item.fields as { instrument: string }).instrument));
    expect(whole.says[0]).to.match(/Tuning visits go to/);
    const wrong = await look({ ...laneFile(), filter: 'kynd is tuning', records: { system: 'front-desk', collection: 'visist' } });
    expect(wrong.problems.map((p) => p.reason).join()).to.match(/no collection "visist".*did you mean "visits"\?/);
    const people = await look({ ...laneFile(), fields: { title: { copy: 'instrument' }, attendees: { people: 'guests' } } });
    expect(people.people).to.deep.equal([{ field: 'guests', named: 0, found: 0 }]);
    expect((await look({ ...laneFile(), filter: 'kynd is tuning' })).problems).to.deep.include({
      pointer: '/filter/field',
      reason:
        'column 1: there is no field "kynd"; there are customer, email, invited, instrument, kind, start, length, status, technician, private, venue, address, site, guests, replies, notes; did you mean "kind"?',
    });
  });

  it('shows the times of records by the clock that they name', () => {
    const said = (time: string) => sayFields({ fields: { time } })['time'];
    expect(said('2026-10-24T09:00:00Z[Europe/London]')).to.equal('2026-10-24 09:00 UTC');
    expect(said('2026-10-24T10:00:00+01:00[Europe/London]')).to.equal('2026-10-24 10:00 Europe/London');
    expect(said('2026-10-24T10:00:00[Europe/London]')).to.equal('2026-10-24 10:00 Europe/London');
    expect(said('2026-10-24T10:00:00+01:00')).to.equal('2026-10-24 10:00 +01:00');
    expect(said('2026-10-24')).to.equal('2026-10-24');
  });

  it('warns of what people do by mistake', async () => {
    const warnings = async (change: object) => (await office.client.preview({ definition: { ...laneFile(), ...change } })).warnings.join('\n');
    expect(await warnings({ calendar: { system: 'diary', calendar: office.calendar } })).to.match(/"Tuning visits" ties the same two sides/);
    const { href } = await office.client.makeCalendar('diary', 'Personal', null);
    expect(await warnings({ calendar: { system: 'diary', calendar: href } }))
      .to.match(/uses these records too/)
      .and.match(/looks like somebody's main calendar/);
    expect(await warnings({ filter: 'kind is empty' })).to.match(/the filter lets nothing through/);
    expect(await warnings({ filter: 'kind is not empty' })).to.match(/the filter lets everything through/);
  });

  it('goes on when credentials lapse half-way: what cannot be read is named, the rest is shown, and the draft is kept', async () => {
    const draft = await office.client.makeDraft({ slug: 'half-way', definition: laneFile() });
    await office.client.changeSystem('diary', { secrets: { password: 'lapsed' } });
    const found = await office.client.preview({ definition: draft.definition });
    expect(found.problems.map((p) => `${p.pointer} ${p.reason}`).join('\n')).to.match(/does not accept|credentials|password/);
    expect((await office.client.saveDraft(draft.id, { version: draft.version, definition: draft.definition })).version).to.equal(2);
    await office.client.changeSystem('diary', { secrets: { password: account.password } });
    const { href } = await office.client.makeCalendar('diary', 'After the lapse', null);
    const again = await office.client.preview({ definition: { ...draft.definition, calendar: { system: 'diary', calendar: href } } });
    expect(again).to.deep.include({ problems: [] }).and.property('records').property('read').equal(12);
    await office.client.dropDraft(draft.id);
  });

  it('tells what an edit on the calendar would change in the record, or why nothing', async () => {
    const back = async (property: string, value: string, change: object = {}) =>
      (
        await office.client.preview({
          definition: { ...laneFile(), direction: '<->', ...change },
          edit: { record: 'V-1004', moment: 'visit', property, value },
        })
      ).back!;
    const title =
      (by((await office.client.preview({ definition: laneFile() })).items.concat(), 'recordId', 'V-1004') ?? null)?.label ??
      'Ottoline Marsh: tuning, Alder upright 3';
    expect((await back('title', title.replace(/, [^,]*$/, ', Wren grand 170'))).fields).to.deep.equal({ instrument: 'Wren grand 170' });
    expect((await back('title', 'Something else')).reason).to.match(/does not read as/);
    expect((await back('location', 'Elsewhere')).reason).to.match(/only goes to the calendar/);
    expect((await back('conference', 'x')).reason).to.match(/not mapped/);
  });

  it('keeps drafts, one beside each lane, and overwrites nobody', async () => {
    const draft = await office.client.makeDraft({ slug: 'mine', definition: { name: 'Mine' } });
    const saved = await office.client.saveDraft(draft.id, { version: draft.version, definition: { name: 'Mine, better', anything: [1, null] } });
    expect(saved).to.deep.include({ version: 2, name: 'Mine, better', definition: { name: 'Mine, better', anything: [1, null] } });
    expect(await refused(office.client.saveDraft(draft.id, { version: 1, definition: {} }))).to.include({ status: 412 });
    await office.client.dropDraft(draft.id);
    expect(await refused(office.client.draft(draft.id))).to.include({ status: 404 });
    const beside = await office.client.makeDraft({ slug: '', lane: 'tuning-visits', definition: { name: 'A' } });
    expect((await office.client.makeDraft({ slug: '', lane: 'tuning-visits', definition: { name: 'B' } })).id).to.equal(beside.id);
    expect(beside).to.include({ lane: 'tuning-visits', laneVersion: 1 });
    await office.client.dropDraft(beside.id);
  });

  it('keeps the words of a lane file: exported and applied again it is no change, and later changes leave its comments', async () => {
    const { href } = await office.client.makeCalendar('diary', 'By file', null);
    const text = `# Why this lane is there.\nname: By file\nrecords: { system: front-desk, collection: visits } # the CRM\ncalendar: { system: diary, calendar: By file }\ndirection: "->"\nzone: Europe/London\n# Not the cancelled ones.\nfilter: status none of [cancelled]\nmoments:\n  - name: visit\n    when: { start: start, length: length }\nfields:\n  title: { copy: instrument } # short\n  busy: { fixed: busy }\n`;
    const made = await office.client.applyLaneFile('by-file', text, { start: false });
    expect(made).to.include({ version: 1, state: 'paused' });
    expect((await office.client.laneFile('by-file')).text).to.equal(text);
    expect(await office.client.checkLaneFile('by-file', text)).to.deep.include({ problems: [], version: 1, changes: [] });
    const changed = await office.client.changeLane('by-file', 1, {
      ...made.definition,
      checkEvery: 7,
      fields: { ...made.definition.fields, title: { copy: 'customer' } },
    });
    expect(changed.version).to.equal(2);
    const { text: now } = await office.client.laneFile('by-file');
    expect(now)
      .to.include('# Why this lane is there.')
      .and.include('# the CRM')
      .and.include('# Not the cancelled ones.')
      .and.match(/title: \{ copy: customer \} # short/);
    expect(parse(now)).to.deep.include({ checkEvery: 7, calendar: { system: 'diary', calendar: 'By file' } });
    expect((await office.client.applyLaneFile('by-file', now)).version).to.equal(2);
    expect((await office.client.versions('by-file')).items[0]!.changes.map((c) => c.pointer)).to.have.members(['/checkEvery', '/fields/title/copy']);
    expect((await office.client.laneFile('by-file', 1)).text).to.equal(text);
    // A lane that never was a file becomes one that says the same.
    const plain = (await office.client.laneFile('tuning-visits')).text;
    expect(await office.client.checkLaneFile('tuning-visits', plain)).to.deep.include({ problems: [], changes: [] });
    expect(href).to.equal(made.definition.calendar.calendar);
  });

  it('brings an earlier word of a lane file up to date with the next change', async () => {
    await office.client.makeCalendar('diary', 'Earlier', null);
    const text = `name: Earlier\nrecords: { system: front-desk, collection: visits }\ncalendar: { system: diary, calendar: Earlier }\ndirection: "->"\nzone: Europe/London\nmoments:\n  - name: visit\n    when: { start: start, length: length }\nfields: { title: { copy: instrument } }\n# When it asks.\ntell: [una@alder-wren.example]\n`;
    const { definition } = await office.client.applyLaneFile('earlier', text, { start: false });
    expect(definition.notify).to.deep.equal(['una@alder-wren.example']);
    await office.client.changeLane('earlier', 1, { ...definition, notify: ['una@alder-wren.example', 'bram@alder-wren.example'] });
    const { text: now } = await office.client.laneFile('earlier');
    expect(now)
      .to.match(/# When it asks\.\nnotify:\n {2}- una@alder-wren\.example\n {2}- bram@alder-wren\.example\n/)
      .and.not.include('tell');
    expect(await office.client.checkLaneFile('earlier', now)).to.deep.include({ problems: [], changes: [] });
    const [wrong] = (await office.client.checkLaneFile('earlier', text.replace('una@alder-wren.example', 'una'))).problems;
    expect(wrong).to.deep.include({ line: 11 });
  });

  it('says line and column of what is wrong in a lane file, and applies nothing of it', async () => {
    const check = async (text: string) => (await office.client.checkLaneFile('x', text)).problems[0]!;
    expect(await check('name: [a'))
      .to.deep.include({ line: 1 })
      .and.property('reason')
      .match(/no YAML/);
    expect(await check('- a'))
      .to.property('reason')
      .match(/it holds no settings/);
    const { text } = await office.client.laneFile('by-file');
    const misspelt = await check(text.replace('filter: status', 'filtr: status'));
    expect(misspelt).to.include({ pointer: '/filtr', line: 8, column: 1 });
    expect(misspelt.reason).to.match(/"filtr" is not known here; there are name, .*; did you mean "filter"\?/);
    expect(await check(text.replace('calendar: By file', 'calendar: By fiel')))
      .to.deep.include({ pointer: '/calendar/calendar', line: 4, column: 28 })
      .and.property('reason')
      .match(/did you mean "By file"\?/);
    const { status, message } = await refused(office.client.applyLaneFile('by-file', text.replace('customer', 'custmer')));
    expect(status).to.equal(422);
    expect(message).to.match(/line 13, column 12: there is no field "custmer".*did you mean "customer"\?/);
    expect((await office.client.lane('by-file')).version).to.equal(2);
    expect(await check(`a: &a [x]\n${Array.from({ length: 200 }, (_, i) => `b${i}: *a`).join('\n')}`))
      .to.property('reason')
      .match(/alias|part of a lane file/i);
  });

  it('stops a first run safely when the lane is paused, and goes on from there', async () => {
    const many = await openOffice({ seed: plainVisits(600), notices: false, diary: cyrus() });
    try {
      const lane = await eventually('it has begun', async () => {
        const now = await many.client.lane('tuning-visits');
        return now.pairs > 0 && now;
      });
      await many.client.pause('tuning-visits');
      const run = await many.settled(lane.lastRun!);
      expect(run).to.deep.include({ state: 'failed', reason: 'paused while it ran; the lane goes on from here when it is resumed' });
      const { pairs } = await many.client.lane('tuning-visits');
      expect(pairs).to.be.lessThan(600);
      expect(await many.events()).to.have.length(pairs);
      await many.client.resume('tuning-visits');
      await eventually('all are there', async () => (await many.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
      expect(new Set(await many.events()).size).to.equal(600);
    } finally {
      await many.stop();
    }
  }).timeout(60_000);

  it('lets nothing cross by itself in quiet hours, and what a person asks for at once', async () => {
    const clock = (minutes: number) => new Date(Date.now() + minutes * 60_000).toISOString().slice(11, 16);
    const quiet = { from: clock(-60), until: clock(90) };
    const before = await office.client.lane('tuning-visits');
    await office.client.changeLane('tuning-visits', before.version, { ...before.definition, zone: 'UTC', quiet });
    const resting = await eventually('it rests', async () => {
      const lane = await office.client.lane('tuning-visits');
      return lane.nextRunAt?.slice(11, 16) === quiet.until && lane;
    });
    expect(resting.lastRun!.state).to.equal('done');
    await office.frontDesk.call('PATCH', '/visits/V-1006', { instrument: 'Harrow studio upright' });
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect((await office.event('V-1006'))!.text).to.not.include('Harrow');
    await office.run();
    expect((await office.event('V-1006'))!.text).to.include('Harrow');
  });

  it('keeps a mail until a mail server is connected', async () => {
    const { href } = await office.client.makeCalendar('diary', 'Unsent', null);
    const definition = { ...laneFile(), name: 'Unsent', notify: ['bram@alder-wren.example'], calendar: { system: 'diary', calendar: href } };
    await office.client.makeLane('unsent', definition);
    await eventually('the first run', async () => (await office.client.lane('unsent')).lastRun?.state === 'done');
    const [item] = (await office.client.items('unsent', { state: 'in sync', limit: 1 })).items;
    await dav(office.diary, 'DELETE', item!.href!);
    await office.settled(await office.client.run('unsent', { sweep: true }));
    const unsent = () => office.app.pool.query(`select from notifications where "to" like 'bram@%' and sent_at is null`);
    await eventually('it was tried', async () => {
      const jobs = await office.app.pool.query(`select from graphile_worker.jobs where key like 'tell:bram@%'`);
      return (await unsent()).rowCount === 1 && jobs.rowCount === 0;
    });
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    const address = `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`;
    const settings = { address, from: 'monsoon@alder-wren.example', user: 'monsoon' };
    await office.client.connect({ slug: 'late-post', name: 'Late post', kind: 'mail', settings, secrets: { password: 'post' } });
    const mail = await eventually('the mail', async () => {
      const { items } = (await (await fetch(`${room.address}/api/mails`)).json()) as { items: { to: string[]; subject: string }[] };
      return items.find((m) => m.to.includes('bram@alder-wren.example'));
    });
    expect(mail.subject).to.equal('Unsent: 1 question waits for you');
    await office.client.disconnect('late-post');
    room.stop();
  });

  it('tells those who are named when a person is needed, once for each cause', async () => {
    const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post']);
    // Other lanes of this office name Ines: what they could not send yet goes out as soon as a mail server is connected.
    const mails = async () => {
      const answer = await fetch(`${room.address}/api/mails`);
      const { items } = (await answer.json()) as { items: { to: string[]; subject: string; text: string }[] };
      return items.filter((mail) => mail.to.includes('edda@alder-wren.example'));
    };
    const notified = { ...laneFile(), name: 'Notified', notify: ['edda@alder-wren.example'] };
    expect((await office.client.preview({ definition: notified })).warnings).to.include('no mail can be sent: no mail server is connected');
    const settings = {
      address: `smtp://127.0.0.1:${/smtp:\/\/127\.0\.0\.1:(\d+)/.exec(room.said)![1]}`,
      from: 'monsoon@alder-wren.example',
      user: 'monsoon',
    };
    await office.client.connect({ slug: 'post', name: 'Post', kind: 'mail', settings, secrets: { password: 'post' } });
    const { href } = await office.client.makeCalendar('diary', 'Notified', null);
    await office.client.makeLane('notified', { ...notified, calendar: { system: 'diary', calendar: href } });
    await eventually('the first run', async () => (await office.client.lane('notified')).lastRun?.state === 'done');
    expect(await mails()).to.deep.equal([]);
    const [item] = (await office.client.items('notified', { state: 'in sync', limit: 1 })).items;
    await dav(office.diary, 'DELETE', item!.href!);
    await office.settled(await office.client.run('notified', { sweep: true }));
    await office.settled(await office.client.run('notified', { sweep: true }));
    const [mail, ...more] = await eventually('the mail', async () => ((await mails()).length > 0 ? mails() : null));
    expect(more).to.deep.equal([]);
    expect(mail).to.include({ subject: 'Notified: 1 question waits for you' });
    expect(mail!.text).to.include(`${office.address}/holds`);
    room.stop();
  });

  it('stops a lane: what it made is removed where nobody edited it, the rest stays, and a new start makes it again', async () => {
    const { href } = await office.client.makeCalendar('diary', 'To be stopped', null);
    await office.client.makeLane('short', { ...laneFile(), calendar: { system: 'diary', calendar: href } });
    const made = await eventually('the first run', async () => {
      const lane = await office.client.lane('short');
      return lane.lastRun?.state === 'done' && lane.pairs;
    });
    const mine = (await office.client.items('short', { state: 'in sync', limit: 1 })).items[0]!;
    const event = await dav(office.diary, 'GET', mine.href!);
    await dav(office.diary, 'PUT', mine.href!, { 'content-type': 'text/calendar' }, event.text.replace(/SUMMARY:.*/, 'SUMMARY:Mine now'));
    const foreseen = await office.client.foreseeStop('short', 'remove');
    expect(foreseen).to.include({ removed: made - 1, unlinked: 1 });
    expect(foreseen.impossible[0]!.reason).to.match(/its event was edited since/);
    expect(await office.client.stopLane('short', 'remove')).to.include({ state: 'paused', nextRunAt: null });
    const end = await eventually('the last run', async () => {
      const { lastRun } = await office.client.lane('short');
      return lastRun?.cause === 'stop' && lastRun.state === 'done' && lastRun;
    });
    expect(end.counts).to.include({ removed: made - 1, unlinked: 1 });
    expect(end.reason).to.match(/1 of what it made was edited since, and stays/);
    expect((await dav(office.diary, 'GET', mine.href!)).text).to.include('Mine now');
    await office.client.resume('short');
    await eventually('made again', async () => (await office.client.lane('short')).pairs === made - 1);
    await office.client.stopLane('short', 'unlink');
    await eventually('unlinked', async () => (await office.client.lane('short')).pairs === 0);
    expect((await dav(office.diary, 'GET', mine.href!)).status).to.equal(200);
  });

  it('makes nothing twice when a lane is removed, or stopped for good, and arranged again', async () => {
    const { href } = await office.client.makeCalendar('diary', 'Arranged again', null);
    const first = async (slug: string) => {
      await office.client.makeLane(slug, { ...laneFile(), calendar: { system: 'diary', calendar: href } });
      await eventually('the first run', async () => (await office.client.lane(slug)).lastRun?.state === 'done');
      return (await office.client.runs({ lane: slug, limit: 5 })).items.at(-1)!.counts;
    };
    const { created: made } = await first('once');
    expect(await office.client.audit('once')).to.deep.include({ addsUp: true, differences: [] });
    await office.client.removeLane('once');
    expect(await first('twice')).to.include({ created: 0, adopted: made });
    // Nothing differed, so nothing was written, and the old mark still stands there: it claims nothing.
    await office.client.stopLane('twice', 'unlink');
    await eventually('unlinked', async () => (await office.client.lane('twice')).pairs === 0);
    expect(await first('thrice')).to.include({ created: 0, adopted: made });
    expect(await listEvents(office.diary, href)).to.have.length(made);
  });
});
