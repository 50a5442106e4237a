import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { startFrontDesk } from '../../../test/support/front-desk.ts';
import { furnish, getToken, spawnService } from '../../../test/support/office.ts';
import { guestFields, openPostRoom } from '../../../test/support/post-room.ts';
import { eventually, freshDatabase } from '../../../test/support/servers.ts';

describe('kill -9 while 100 invitations go out', function () {
  this.timeout(240_000);

  it('sends each once, or lists it as doubtful', async () => {
    const database = await freshDatabase();
    const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    const frontDesk = await startFrontDesk();
    const room = await openPostRoom();
    const places = { databaseUrl: database.url, dataFolder };
    let service = await spawnService(places);
    const port = Number(new URL(service.address).port);
    try {
      const token = await getToken(service.address);
      const office = await furnish(
        service.address,
        token,
        frontDesk,
        {
          notices: false,
          lane: {
            filter: null,
            private: null,
            conflicts: { rule: 'hold' },
            tell: [],
            fields: { title: guestFields.title, attendees: { copy: 'guests', direction: '->' } },
            invitations: { by: 'mail', wait: 0, perRun: 1000 },
          },
        },
        places,
      );
      await office.client.connect(room.system);
      await office.run();
      for (let i = 0; i < 100; i++)
        await frontDesk.call('POST', '/visits', {
          instrument: `Piano ${i}`,
          start: '2027-03-02T09:00:00',
          length_minutes: 60,
          guests: [{ email: `guest.${i}@post.example` }],
        });
      await office.client.run('tuning-visits', {});
      for (let kills = 0; kills < 3; kills++) {
        await new Promise((fine) => setTimeout(fine, 300 + Math.random() * 1200));
        service.child.kill('SIGKILL');
        await new Promise((fine) => service.child.once('exit', fine));
        service = await spawnService(places, { port });
      }
      const counts = await eventually(
        'all are sent or doubtful',
        async () => {
          const found = await office.client.guests('tuning-visits', { limit: 500 });
          return (
            found.items.length === 100 &&
            found.counts.waiting === 0 &&
            found.items.every((g) => g.state === 'sent' || g.state === 'doubtful') &&
            found
          );
        },
        120_000,
      );
      const by = new Map<string, number>();
      for (const { to } of await room.mails()) by.set(to[0]!, (by.get(to[0]!) ?? 0) + 1);
      for (const guest of counts.items) {
        const count = by.get(guest.email) ?? 0;
        expect(count, `${guest.email}, ${guest.state}`).to.be.at.most(1);
        if (guest.state === 'sent') expect(count, guest.email).to.equal(1);
      }
      // Only what was on its way when the process died is doubtful.
      expect(counts.counts.doubtful).to.be.at.most(3 * 4);
      const doubtful = counts.items.find((g) => g.state === 'doubtful');
      if (doubtful !== undefined) {
        const settled = await office.client.settleGuest('tuning-visits', doubtful, (by.get(doubtful.email) ?? 0) > 0 ? 'sent' : 'again');
        expect(settled.state).to.be.oneOf(['sent', 'waiting']);
      }
    } finally {
      service.child.kill('SIGKILL');
      frontDesk.stop();
      room.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    }
  });
});
