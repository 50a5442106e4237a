import assert from 'node:assert/strict';
import { type Calendars, OutsideError, wholeChanges } from '@monsoon/systems';
import { collect } from './collect.ts';

/** What a kind of calendar system brings to be tested: itself, against its real counterpart. */
export interface CalendarHarness {
  calendars: Calendars;
  /** the same with credentials that are not accepted; null where there are none */
  stranger: Calendars | null;
  /** stores an event behind the kind's back, as somebody else's program would; returns its href */
  storeForeign(calendar: string, name: string, text: string): Promise<string>;
  close(): Promise<void>;
}

const event = (uid: string, title: string, more = '') =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Monsoon//Acceptance//EN\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:20261101T000000Z\r\nDTSTART:20261201T090000Z\r\nDTEND:20261201T100000Z\r\nSUMMARY:${title}\r\n${more}END:VEVENT\r\nEND:VCALENDAR\r\n`;

const rejects = (trouble: OutsideError['trouble'], work: () => Promise<unknown>) =>
  assert.rejects(work, (e: unknown) => e instanceof OutsideError && e.trouble === trouble);

/**
 * The definition of a calendar system: a kind that passes may be connected. Each test opens its own instance and works in its own
 * calendar. Needs mocha's `describe` and `it`.
 */
export function calendarAcceptance(name: string, open: () => Promise<CalendarHarness>): void {
  describe(`${name} as a calendar system`, () => {
    let harness: CalendarHarness;
    let calendars: Calendars;
    let calendar: string;
    const signal = new AbortController().signal;
    let number = 0;
    const fresh = () => `acceptance-${Date.now().toString(36)}-${number++}`;
    const readOne = async (href: string) => (await calendars.read(calendar, [href], signal)).get(href) ?? null;

    beforeEach(async () => {
      harness = await open();
      calendars = harness.calendars;
      calendar = (await calendars.make(`Acceptance ${fresh()}`, '#12706d', signal)).href;
    });
    afterEach(() => harness?.close());

    it('shows step by step what it found', async () => {
      const steps = await collect(calendars.probe(signal));
      assert.ok(steps.length > 0 && steps.every((s) => s.outcome !== 'failed'));
    });

    it('tells a stranger that the credentials are not accepted', async function () {
      if (harness.stranger === null) return this.skip();
      const refused = await collect(harness.stranger.probe(signal));
      assert.equal(refused.at(-1)?.outcome, 'failed');
      assert.match(refused.at(-1)?.detail ?? '', /credentials/);
      const { stranger } = harness;
      await rejects('not authorised', () => stranger.calendars(signal));
    });

    it('lists a calendar that it made, with its name and address', async () => {
      const title = `Tasks & "visits" <${fresh()}>`;
      const made = await calendars.make(title, null, signal);
      const listed = (await calendars.calendars(signal)).find((c) => c.href === made.href);
      assert.equal(listed?.name, title);
      assert.equal(listed?.writable, true);
      assert.match(made.href, /^\/.*\/$/);
    });

    it('stores an event once, reads it back, and says "exists" the second time', async () => {
      const uid = fresh();
      const { href } = await calendars.create(calendar, uid, event(uid, 'First'), signal);
      assert.equal(href, calendars.hrefFor(calendar, uid));
      assert.match((await readOne(href))?.text ?? '', /SUMMARY:First/);
      await rejects('exists', () => calendars.create(calendar, uid, event(uid, 'Second'), signal));
      assert.match((await readOne(href))?.text ?? '', /SUMMARY:First/);
      const listed = await wholeChanges(calendars.changes(calendar, null, signal));
      assert.deepEqual(
        listed.changed.map((c) => c.href),
        [href],
      );
    });

    it('changes only what is as it was last seen', async () => {
      const uid = fresh();
      const { href } = await calendars.create(calendar, uid, event(uid, 'Before'), signal);
      const first = await readOne(href);
      await calendars.change(href, first!.etag!, event(uid, 'After'), signal);
      await rejects('changed meanwhile', () => calendars.change(href, first!.etag!, event(uid, 'Too late'), signal));
      assert.match((await readOne(href))?.text ?? '', /SUMMARY:After/);
    });

    it('removes only what is as it was last seen; what is gone already is fine', async () => {
      const uid = fresh();
      const { href } = await calendars.create(calendar, uid, event(uid, 'Short-lived'), signal);
      await rejects('changed meanwhile', () => calendars.remove(href, '"not-this"', signal));
      const seen = await readOne(href);
      await calendars.remove(href, seen!.etag!, signal);
      assert.equal(await readOne(href), null);
      await calendars.remove(href, seen!.etag!, signal);
    });

    it('reads many at once, and null for those that are gone', async () => {
      const uids = Array.from({ length: 7 }, fresh);
      const hrefs = [];
      for (const uid of uids) hrefs.push((await calendars.create(calendar, uid, event(uid, uid), signal)).href);
      const missing = calendars.hrefFor(calendar, fresh());
      const found = await calendars.read(calendar, [...hrefs, missing], signal);
      assert.equal(found.size, 8);
      assert.equal(found.get(missing), null);
      for (const [i, href] of hrefs.entries()) assert.match(found.get(href)?.text ?? '', new RegExp(`UID:${uids[i]}`));
    });

    it('reports what changed since: made, changed, removed, by others too', async () => {
      const kept = fresh();
      const dropped = fresh();
      const one = await calendars.create(calendar, kept, event(kept, 'Kept'), signal);
      const two = await calendars.create(calendar, dropped, event(dropped, 'Dropped'), signal);
      const { cursor } = await wholeChanges(calendars.changes(calendar, null, signal));
      const foreign = await harness.storeForeign(calendar, `${fresh()}.ics`, event(fresh(), 'Foreign'));
      await calendars.change(one.href, (await readOne(one.href))!.etag!, event(kept, 'Kept and changed'), signal);
      await calendars.remove(two.href, (await readOne(two.href))!.etag!, signal);
      const news = await wholeChanges(calendars.changes(calendar, cursor, signal));
      const changed = news.changed.map((c) => c.href);
      assert.ok(changed.includes(foreign) && changed.includes(one.href));
      assert.ok(!changed.includes(two.href));
      assert.ok(news.complete || news.removed.includes(two.href));
    });

    it('tells nothing when nothing changed, or lists everything with the ETags of before', async () => {
      const uid = fresh();
      const { href } = await calendars.create(calendar, uid, event(uid, 'At rest'), signal);
      const first = await wholeChanges(calendars.changes(calendar, null, signal));
      const quiet = await wholeChanges(calendars.changes(calendar, first.cursor ?? null, signal));
      if (!quiet.complete) assert.deepEqual([quiet.changed, quiet.removed], [[], []]);
      else assert.deepEqual(quiet.changed, first.changed);
      assert.ok(first.changed.some((c) => c.href === href));
    });

    it('finds an event by its UID, under whatever name it is stored', async () => {
      const uid = fresh();
      const href = await harness.storeForeign(calendar, `named-otherwise-${uid}.ics`, event(uid, 'Found'));
      const found = await calendars.withUid(calendar, uid, signal);
      assert.deepEqual(
        found.map((e) => e.href),
        [href],
      );
      assert.match(found[0]!.text, /SUMMARY:Found/);
      assert.deepEqual(await calendars.withUid(calendar, fresh(), signal), []);
    });

    it('finds the events of a time', async () => {
      const uid = fresh();
      const href = await harness.storeForeign(calendar, `at-${uid}.ics`, event(uid, 'Found'));
      const [start] = /(?<=DTSTART[^:]*:)\d{8}/.exec(event(uid, 'Found'))!;
      const at = Date.parse(start.replace(/(\d{4})(\d\d)(\d\d)/, '$1-$2-$3T00:00:00Z')) / 1000;
      const around = async (from: number, until: number) => (await calendars.between(calendar, from, until, signal)).map((e) => e.href);
      assert.ok((await around(at - 86_400, at + 2 * 86_400)).includes(href));
      assert.ok(!(await around(at + 30 * 86_400, at + 32 * 86_400)).includes(href));
    });

    it('lists everything when the cursor is of no use any more', async () => {
      const uid = fresh();
      const { href } = await calendars.create(calendar, uid, event(uid, 'Still here'), signal);
      const stale = JSON.stringify({ token: 'http://radicale.org/ns/sync/0000', since: new Date().toISOString() });
      const all = await wholeChanges(calendars.changes(calendar, stale, signal));
      assert.equal(all.complete, true);
      assert.ok(all.changed.some((c) => c.href === href));
    });

    it('keeps names with odd characters apart, however the server spells them', async () => {
      const href = await harness.storeForeign(calendar, `it's ${fresh()}@home (50%).ics`, event(fresh(), 'Oddly named'));
      const listed = (await wholeChanges(calendars.changes(calendar, null, signal))).changed.map((c) => c.href);
      assert.ok(listed.includes(href), `${href} in ${listed.join(' ')}`);
      assert.match((await calendars.read(calendar, [href], signal)).get(href)?.text ?? '', /Oddly named/);
    });

    it('carries properties, parameters and alarms that it does not know', async () => {
      const uid = fresh();
      const more = 'X-MONSOON-PAIR:abc-123\r\nBEGIN:VALARM\r\nACTION:DISPLAY\r\nDESCRIPTION:Soon\r\nTRIGGER;X-WHY=because:-PT20M\r\nEND:VALARM\r\n';
      const { href } = await calendars.create(calendar, uid, event(uid, 'Marked 🎹 \\, twice', more), signal);
      const text = (await readOne(href))!.text;
      assert.match(text, /X-MONSOON-PAIR:abc-123/);
      assert.match(text, /TRIGGER.*-PT20M/);
      assert.match(text, /SUMMARY:Marked 🎹 \\, twice/);
    });

    it('fails plainly for a calendar that is not there', async () => {
      const nowhere = `${calendar.replace(/[^/]+\/$/, '')}not-there-${fresh()}/`;
      await assert.rejects(() => wholeChanges(calendars.changes(nowhere, null, signal)), OutsideError);
      await assert.rejects(() => calendars.create(nowhere, 'x', event('x', 'x'), signal), OutsideError);
    });
  });
}
