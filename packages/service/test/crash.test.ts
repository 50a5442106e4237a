import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { plainVisits, startFrontDesk } from '../../../test/support/front-desk.ts';
import { furnish, getToken, laneFile, spawnService } from '../../../test/support/office.ts';
import { cyrus, eventually, freshDatabase, listEvents } from '../../../test/support/servers.ts';

for (const kind of ['a calendar server', 'a hosted calendar'])
  describe(`kill -9 in the middle of a first run onto ${kind}`, () => {
    it('is followed by a run that completes by itself, every visit once, at 5 random moments of 300 visits', async function () {
      this.timeout(300_000);
      const frontDesk = await startFrontDesk(plainVisits(300));
      const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
      const database = await freshDatabase();
      const hosted = kind === 'a hosted calendar';
      const places = { databaseUrl: database.url, dataFolder };
      let service = await spawnService(places);
      const port = Number(new URL(service.address).port);
      try {
        const token = await getToken(service.address);
        const office = await furnish(
          service.address,
          token,
          frontDesk,
          { diary: hosted ? 'hosted' : cyrus(), withLane: false, notices: false },
          places,
        );
        const system = hosted ? 'hosted' : 'diary';
        const base = hosted ? service.address : cyrus();
        for (let round = 0; round < 5; round++) {
          const { href } = await office.client.makeCalendar(system, `Crash ${round} ${Date.now()}`, null);
          const slug = `crash-${round}`;
          await office.client.makeLane(slug, { ...laneFile(), calendar: { system, calendar: href } });
          await new Promise((resolve) => setTimeout(resolve, 50 + Math.random() * 1800));
          service.child.kill('SIGKILL');
          await new Promise((resolve) => service.child.once('exit', resolve));
          const midway = hosted ? 'some' : (await listEvents(base, href)).length;
          service = await spawnService(places, { port });
          await eventually(
            `round ${round} completes (killed at ${midway} events)`,
            async () => {
              const { items } = await office.client.runs({ lane: slug });
              if (items.some((r) => r.state === 'done')) return true;
              throw new Error(`runs so far: ${items.map((r) => `${r.state} ${r.reason}`).join('; ')}`);
            },
            60_000,
          );
          const events = await listEvents(base, href);
          expect(new Set(events).size, `round ${round}`).to.equal(300);
          expect(events).to.have.length(300);
          expect((await office.client.lane(slug)).pairs).to.equal(300);
          const calm = await eventually('a calm run', async () => {
            const asked = await office.client.run(slug, { sweep: true });
            return eventually('its end', async () => {
              const run = await office.client.oneRun(asked.id);
              return run.state === 'done' && run;
            });
          });
          expect(calm.counts).to.include({ created: 0, changed: 0, removed: 0, unchanged: 300 });
          const made = await office.client.journal({ lane: slug, limit: 500 });
          expect(new Set(made.items.map((e) => e.recordId)).size, 'every event has a journal entry').to.equal(300);
          await office.client.removeLane(slug);
        }
      } finally {
        service.child.kill('SIGKILL');
        frontDesk.stop();
        await database.drop();
        rmSync(dataFolder, { recursive: true, force: true });
      }
    });
  });
