import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { commandIn, main } from '../../../test/support/command.ts';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually, freePort } from '../../../test/support/servers.ts';

describe('living with it by command', function () {
  // Each command is a process of its own, which a busy machine starts slowly.
  this.timeout(180_000);
  let office: Office;
  const folder = mkdtempSync(join(tmpdir(), 'monsoon-cli-'));
  before(async () => {
    office = await openOffice({ seed: plainVisits(5) });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done');
  });
  after(async () => {
    await office.stop();
    rmSync(folder, { recursive: true, force: true });
  });
  const monsoon = commandIn(folder, () => office);

  it('lets people in, says who owns what, and keeps passwords out of arguments', async () => {
    const add = ['people', 'add', 'tom@alder-wren.example', '--name', 'Tom', '--role', 'operator', '--password'];
    expect(await monsoon(add))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/put the password into the variable MONSOON_NEW_PASSWORD/);
    expect((await monsoon(add, { MONSOON_NEW_PASSWORD: 'a-quiet-metronome' })).out).to.equal(
      'tom@alder-wren.example may sign in now, as operator.\n',
    );
    const asTom = { MONSOON_TOKEN: '', MONSOON_PASSWORD: 'a-quiet-metronome' };
    const signIn = ['sign-in', '--email', 'tom@alder-wren.example'];
    expect(await monsoon(signIn, asTom))
      .to.include({ code: 1 })
      .and.property('err')
      .match(/no password: set MONSOON_NEW_PASSWORD/);
    expect((await monsoon(signIn, { ...asTom, MONSOON_NEW_PASSWORD: 'a-louder-metronome' })).out).to.match(
      /Somebody else chose this password: choose one of your own.*\nSigned in as tom@/,
    );
    const changing = { MONSOON_PASSWORD: admin.password, MONSOON_NEW_PASSWORD: 'another-tuned-password' };
    expect((await monsoon(['change-password'], changing)).out).to.equal('The password of ines@alder-wren.example is changed.\n');
    expect((await monsoon(['people', 'own', 'tuning-visits', 'tom@alder-wren.example'])).out).to.match(/arranged by tom@/);
    expect((await monsoon(['people'])).out).to.match(/tom@alder-wren\.example +Tom +operator +tuning-visits/);
    expect(await monsoon(['people', 'change', 'tom@alder-wren.example'])).to.include({ code: 2 });
    const token = JSON.parse((await monsoon(['tokens', 'make', 'reader', '--may', 'read', '--days', '1', '--json'])).out) as { token: string };
    const reader = { MONSOON_TOKEN: token.token };
    expect(await monsoon(['run', 'tuning-visits'], reader))
      .to.include({ code: 1 })
      .and.property('err')
      .match(/this token may only look/);
    expect((await monsoon(['activity', '--by', 'ines@alder-wren.example'])).out)
      .to.match(/Let somebody in +tom@alder-wren\.example as operator/)
      .and.match(/token reader +Run a lane now .*refused/);
    expect((await monsoon(['sessions'])).out, 'they ended with the password').to.equal('No browser is signed in.\n');
  });

  it('pauses everything with its reason, and goes on', async () => {
    expect(await monsoon(['pause-everything'])).to.include({ code: 2 });
    expect((await monsoon(['pause-everything', '--why', 'the office moves'])).out).to.match(/Everything is paused, by ines@.*: the office moves/);
    expect((await monsoon([])).out).to.match(/^Everything is paused since .*: the office moves\. Go on: monsoon resume-everything/);
    expect(await monsoon(['run', 'tuning-visits']))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/everything is paused since/);
    expect((await monsoon(['resume-everything'])).out).to.equal('Everything goes on.\n');
  });

  it('shows failures, tries them again, counts, and gives the journal out', async () => {
    await office.client.pause('tuning-visits');
    await office.frontDesk.call('PATCH', '/visits/V-1001', { length_minutes: null });
    await office.run();
    expect(await monsoon(['failures', 'tuning-visits']))
      .to.include({ code: 1 })
      .and.property('out')
      .match(/1 unfit value: length: nothing there.*\n +V-1001/);
    await office.frontDesk.call('PATCH', '/visits/V-1001', { length_minutes: 30 });
    expect((await monsoon(['retry', 'tuning-visits'])).out).to.match(/^done\. 1 changed/);
    expect((await monsoon(['failures', 'tuning-visits'])).out).to.equal('Nothing failed.\n');
    const csv = await monsoon([
      'counts',
      'tuning-visits',
      '--by',
      'month',
      '--from',
      '2026-01-01',
      '--until',
      '2027-12-31',
      '--zone',
      'Europe/London',
      '--csv',
    ]);
    expect(csv.out).to.match(/^month from,Tuning visits\r\n/);
    await monsoon(['audit', 'tuning-visits']);
    expect((await monsoon(['audits', 'tuning-visits'])).out).to.match(/asked +5 +0 +0 +0 +both sides agree/);
    await monsoon(['export-journal', '--lane', 'tuning-visits', '-o', 'journal.csv']);
    expect(readFileSync(join(folder, 'journal.csv'), 'utf8'))
      .to.match(/^at,run,lane/)
      .and.match(/V-1001/);
    await office.client.resume('tuning-visits');
  });

  it('makes an answer the rule from now on when somebody says yes', async () => {
    await dav(office.diary, 'DELETE', (await office.event('V-1002'))!.href);
    await office.run();
    const [hold] = (await office.client.holds()).items;
    const settled = await monsoon(['holds', 'settle', hold!.id, 'create again', '--from-now-on', '--yes']);
    expect(settled.out)
      .to.match(/With that rule a run of tuning-visits would do this now: /)
      .and.match(/A rule of tuning-visits from now on, in version 2/);
    expect((await office.client.lane('tuning-visits')).definition.departures.eventDeleted).to.equal('create again');
    await eventually('it is there again', async () => (await office.event('V-1002')) !== null);
  });

  it('says what is kept how long and who is notified, and changes both', async () => {
    const { out } = await monsoon(['settings']);
    expect(out)
      .to.match(/^# Days/)
      .and.match(/journal: 400/);
    writeFileSync(join(folder, 'settings.yaml'), out.replace('journal: 400', 'journal: 0'));
    expect(await monsoon(['settings', 'apply', '-f', 'settings.yaml']))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/keep\.journal: at least 1 day/);
    writeFileSync(join(folder, 'settings.yaml'), out.replace('journal: 400', 'journal: 200'));
    expect((await monsoon(['settings', 'apply', '-f', 'settings.yaml'])).out).to.match(/journal: 200/);
    const set = await monsoon(['notifications', 'set', '--of', 'needs a person, allowance', '--digest', '7', '--zone', 'Europe/London']);
    expect(set.out).to.equal('Notified at once of needs a person, allowance; a digest at 7:00 Europe/London.\n');
    expect(await monsoon(['told', 'set', '--of', 'everything']))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/"everything" is not an occasion/);
    const added = await monsoon(['webhooks', 'add', 'chat', 'https://chat.alder-wren.example/monsoon']);
    expect(added.out).to.match(/^whsec_/);
    expect((await monsoon(['webhooks'])).out).to.match(/chat +https:\/\/chat\.alder-wren\.example\/monsoon/);
    expect(await monsoon(['reseal'])).to.include({ code: 0 });
  });

  it('starts a process that only works, which says how it is, and stops it in order', async () => {
    const port = await freePort();
    const child = spawn(process.execPath, ['--no-warnings', ...main, 'serve', '--role', 'worker', '--health-port', String(port)], {
      cwd: folder,
      env: { ...process.env, DATABASE_URL: office.databaseUrl, MONSOON_DATA: office.dataFolder, MONSOON_LOG: 'error' },
      stdio: 'ignore',
    });
    const ended = new Promise<number | null>((fine) => child.once('exit', fine));
    await eventually('it is ready', async () => (await fetch(`http://127.0.0.1:${port}/readyz`)).status === 200);
    expect((await fetch(`http://127.0.0.1:${port}/api/v1/lanes`)).status).to.equal(404);
    child.kill('SIGTERM');
    expect(await ended).to.equal(0);
  });
});

describe('an installation without lanes', () => {
  it('gets the next step', async () => {
    const office = await openOffice({ seed: [], withLane: false });
    const folder = mkdtempSync(join(tmpdir(), 'first-'));
    const monsoon = commandIn(folder, () => office);
    expect((await monsoon([])).out).to.equal(
      'Both sides are connected, and there is no lane yet.\nNext: monsoon lanes draft, or New lane in the console.\n',
    );
    await office.client.disconnect('front-desk');
    expect((await monsoon([])).out).to.match(/^Connected: Diary\.\nNext: connect the program whose records belong on the calendar\.\n/);
    await office.client.disconnect('diary');
    expect((await monsoon([])).out).to.match(/^Nothing is connected yet\.\nNext: connect the program .*\n {2}monsoon systems kinds/);
    await office.stop();
    rmSync(folder, { recursive: true, force: true });
  });
});
