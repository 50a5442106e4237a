import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { startFrontDesk } from '../../../test/support/front-desk.ts';
import { furnish, getToken, spawnService } from '../../../test/support/office.ts';
import { guestFields, openPostRoom } from '../../../test/support/post-room.ts';
import { eventually, freshDatabase } from '../../../test/support/servers.ts';

/** How many invitations go out. */
const MANY = Number(process.env['MONSOON_TEST_INVITATIONS'] ?? 100);
const KILLS = Math.ceil(MANY / 33);

describe(`kill -9 while ${MANY} invitations go out`, function () {
  this.timeout(240_000 + MANY * 1000);

  const sendAll = async (faults: string) => {
    const database = await freshDatabase();
    const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
    const frontDesk = await startFrontDesk();
    const room = await openPostRoom(faults);
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
            notify: [],
            fields: { title: guestFields.title, attendees: { copy: 'guests', direction: '->' } },
            invitations: { by: 'mail', wait: 0, perRun: 1000 },
          },
        },
        places,
      );
      await office.client.connect(room.system);
      await office.run();
      for (let i = 0; i < MANY; i++)
        await frontDesk.call('POST', '/visits', {
          instrument: `Piano ${i}`,
          start: '2027-03-02T09:00:00',
          length_minutes: 60,
          guests: [{ email: `guest.${i}@post.example` }],
        });
      await office.client.run('tuning-visits', {});
      for (let kills = 0; kills < KILLS; kills++) {
        // Somewhere in the middle of what goes out next.
        const mails = (await room.mails()).length + 1 + Math.floor((Math.random() * MANY) / KILLS);
        await eventually('some more go out', async () => {
          const { counts } = await office.client.guests('tuning-visits', { limit: 1 });
          return (counts.guests === MANY && counts.waiting === 0) || (await room.mails()).length >= mails;
        });
        service.child.kill('SIGKILL');
        await new Promise((fine) => service.child.once('exit', fine));
        service = await spawnService(places, { port });
      }
      const counts = await eventually(
        'all are sent or doubtful',
        async () => {
          const found = await office.client.guests('tuning-visits', { limit: 500 });
          return (
            found.items.length === MANY &&
            found.counts.waiting === 0 &&
            found.items.every((g) => g.state === 'sent' || g.state === 'doubtful') &&
            found
          );
        },
        120_000 + MANY * 1000,
      );
      const by = new Map<string, number>();
      for (const { to } of await room.mails()) by.set(to[0]!, (by.get(to[0]!) ?? 0) + 1);
      for (const guest of counts.items) {
        const count = by.get(guest.email) ?? 0;
        expect(count, `${guest.email}, ${guest.state}`).to.be.at.most(1);
        if (guest.state === 'sent') expect(count, guest.email).to.equal(1);
      }
      return counts.counts.doubtful;
    } finally {
      service.child.kill('SIGKILL');
      frontDesk.stop();
      room.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    }
  };

  it('sends each once, or lists it as doubtful', async () => {
    expect(await sendAll(''), 'what was on its way when the process died').to.be.at.most(KILLS * 4);
  });

  it('neither doubles nor forgets one where the mail server dies, too', async () => {
    expect(await sendAll('lost-answer=0.08,cut-off=0.08'), 'doubtful').to.be.at.least(1);
  });
});
