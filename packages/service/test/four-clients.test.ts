import { expect } from 'chai';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { type Office, openOffice } from '../../../test/support/office.ts';
import { cyrus, dav, eventually } from '../../../test/support/servers.ts';

/** Seconds for which everybody works; MONSOON_CROWD=60 npm test -- --grep "four clients" */
const SECONDS = Number(process.env['MONSOON_CROWD'] ?? 8);
const VISITS = 40;

for (const [name, diary] of [
  ['a calendar server', cyrus],
  ['a hosted calendar', () => 'hosted'],
] as const)
  describe(`four clients in one calendar of ${name} while the lane runs`, () => {
    let office: Office;
    before(async function () {
      this.timeout(60_000);
      office = await openOffice({
        seed: plainVisits(VISITS),
        diary: diary(),
        lane: { direction: '<->', window: null, guard: { removals: 0, removedPercent: 0, rewrittenPercent: 100 } },
      });
      await eventually('everything is there', async () => (await office.events()).length === VISITS, 40_000);
    });
    after(() => office?.stop());

    it('lose nothing: what they wrote last stands on both sides, and the audit adds up', async function () {
      this.timeout((SECONDS + 120) * 1000);
      const hrefs = await office.events();
      const until = Date.now() + SECONDS * 1000;
      /** by event: the start that was last taken, and how often each client's own property was moved on */
      const starts = new Map<string, string>();
      const counts = new Map<string, number>();
      const notes = new Map<string, string>();
      let [edits, refused] = [0, 0];
      const pick = <T>(from: T[]): T => from[Math.floor(Math.random() * from.length)]!;

      // Each client reads an event, moves it, moves its own property on, and writes it back if it still is as it was.
      const client = async (name: string): Promise<void> => {
        while (Date.now() < until) {
          const href = pick(hrefs);
          const { text, etag, status } = await dav(office.diary, 'GET', href);
          if (status !== 200) throw new Error(`GET ${href}: ${status}`);
          const property = `X-CLIENT-${name}`;
          const count = Number(new RegExp(`^${property}:(\\d+)`, 'm').exec(text)?.[1] ?? 0) + 1;
          const start = `202705${String(1 + Math.floor(Math.random() * 28)).padStart(2, '0')}T${String(8 + Math.floor(Math.random() * 9)).padStart(2, '0')}${pick(['00', '15', '30', '45'])}00`;
          const end = `${start.slice(0, 9)}${String(Number(start.slice(9, 11)) + 1).padStart(2, '0')}${start.slice(11)}`;
          // Its zone has a DTSTART, too: only the event itself is edited.
          const at = text.indexOf('BEGIN:VEVENT');
          const event = text
            .slice(at)
            .replace(/^DTSTART.*$/m, `DTSTART;TZID=Europe/London:${start}\r`)
            .replace(/^DTEND.*$/m, `DTEND;TZID=Europe/London:${end}\r`)
            .replace(new RegExp(`^${property}:.*\r?\n`, 'm'), '')
            .replace(/^END:VEVENT/m, `${property}:${count}\r\nEND:VEVENT`);
          const moved = text.slice(0, at) + event;
          const put = await dav(office.diary, 'PUT', href, { 'content-type': 'text/calendar; charset=utf-8', 'if-match': etag! }, moved);
          if (put.status === 412) refused++;
          else if (put.status >= 300) throw new Error(`PUT ${href}: ${put.status} ${put.text}`);
          else {
            edits++;
            starts.set(href, start);
            counts.set(`${href} ${name}`, count);
          }
        }
      };
      const desk = async (): Promise<void> => {
        for (let n = 0; Date.now() < until; n++) {
          const id = `V-${1001 + Math.floor(Math.random() * VISITS)}`;
          await office.frontDesk.call('PATCH', `/visits/${id}`, { notes: `note ${n}` });
          notes.set(id, `note ${n}`);
          await new Promise((fine) => setTimeout(fine, 30));
        }
      };
      const lane = async (): Promise<void> => {
        while (Date.now() < until) await office.run();
      };
      await Promise.all([...['A', 'B', 'C', 'D'].map(client), desk(), lane()]);
      // What kept changing under its hands a run leaves for a minute; a sweep looks at everything.
      for (let i = 0; i < 3; i++) expect((await office.run({ sweep: true })).state).to.equal('done');

      expect(edits, 'they did something').to.be.greaterThan(20);
      const { items } = await office.frontDesk.call<{ items: { id: string; start: string; notes: string | null }[] }>('GET', '/visits?limit=500');
      for (const visit of items) {
        const event = (await office.event(visit.id))!;
        const start = /BEGIN:VEVENT[\s\S]*?^DTSTART[^:]*:(\d{8}T\d{6})/m.exec(event.text)![1]!;
        const wanted = starts.get(event.href);
        if (wanted !== undefined) {
          expect(start, `${visit.id} stands where it was last put`).to.equal(wanted);
          expect(visit.start.replace(/[-:]/g, '').slice(0, 15), `${visit.id} moved in the Front desk`).to.equal(wanted);
        }
        const note = notes.get(visit.id);
        if (note !== undefined) {
          expect(visit.notes).to.equal(note);
          expect(event.text).to.include(`DESCRIPTION:${note}`);
        }
        for (const name of ['A', 'B', 'C', 'D']) {
          const count = counts.get(`${event.href} ${name}`);
          if (count !== undefined)
            expect(event.text, `${visit.id}: nothing of client ${name} was overwritten`).to.match(new RegExp(`X-CLIENT-${name}:${count}\\b`));
        }
      }
      expect(await office.events()).to.have.length(VISITS);
      expect((await office.client.holds()).items, 'nothing was edited on both sides').to.deep.equal([]);
      expect(await office.client.audit('tuning-visits')).to.deep.include({ addsUp: true, differences: [] });
      if (SECONDS > 30) console.log(`      ${edits} edits by four clients, ${refused} met another's, ${notes.size} visits noted, nothing lost`);
    });
  });
