import { execFile } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { stringify } from 'yaml';
import { commandIn } from '../../../test/support/command.ts';
import { plainVisits } from '../../../test/support/front-desk.ts';
import { misbehaving } from '../../../test/support/misbehaving.ts';
import { admin, laneFile, type Office, openOffice } from '../../../test/support/office.ts';
import { account, dav, eventually, radicale } from '../../../test/support/servers.ts';

describe('the command line', function () {
  // Each command is a process of its own, which a busy machine starts slowly.
  this.timeout(180_000);
  let office: Office;
  const folder = mkdtempSync(join(tmpdir(), 'cli-'));
  before(async function () {
    this.timeout(240_000);
    office = await openOffice({ seed: plainVisits(5) });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
  });
  after(async () => {
    await office.stop();
    rmSync(folder, { recursive: true, force: true });
  });

  const monsoon = commandIn(folder, () => office);

  it('shows what needs attention when called alone, and says by its exit code whether something does', async () => {
    const { code, out } = await monsoon([]);
    expect(out)
      .to.match(/^Nothing needs you\./)
      .and.match(/tuning-visits {2}Front desk: visits {2}-> {2}Diary: Visits/);
    expect(code).to.equal(0);
  });

  it('names a word that is no command, and those there are', async () => {
    for (const group of ['lanes', 'holds', 'feeds', 'calendars', 'devices', 'systems']) {
      const { code, out, err } = await monsoon([group, 'bogus']);
      expect([code, out]).to.deep.equal([2, '']);
      expect(err).to.match(new RegExp(`${group} has no command "bogus"; it has list, `));
    }
  });

  it('forecasts, runs, and says when nothing was written', async () => {
    await office.client.pause('tuning-visits');
    await office.frontDesk.call('PATCH', '/visits/V-1001', { instrument: 'Wren grand 212' });
    const forecast = await monsoon(['forecast', 'tuning-visits']);
    expect(forecast.out)
      .to.match(/1 changed, 4 unchanged/)
      .and.include('title: "Ottoline Marsh: tuning, Alder upright 0" -> "Ottoline Marsh: tuning, Wren grand 212"');
    const run = await monsoon(['run', 'tuning-visits']);
    expect(run)
      .to.include({ code: 0 })
      .and.property('out')
      .match(/done\. 1 changed/);
    expect((await monsoon(['run', 'tuning-visits', '--sweep'])).out).to.match(/5 unchanged\. Nothing was written\./);
    await office.client.resume('tuning-visits');
    const audit = await monsoon(['audit', 'tuning-visits']);
    expect(audit)
      .to.include({ code: 0 })
      .and.property('out')
      .match(/in all +5 +5/)
      .and.match(/Both sides agree\./);
  });

  it('says of the events that are there why none of them becomes a record', async () => {
    const href = `${office.calendar}by-hand.ics`;
    const lines = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'BEGIN:VEVENT', 'UID:by-hand', 'DTSTAMP:20261101T000000Z', 'DTSTART:20261215T090000Z'];
    const text = [...lines, 'DURATION:PT1H', 'SUMMARY:Staff meeting', 'END:VEVENT', 'END:VCALENDAR', ''].join('\r\n');
    await dav(radicale(), 'PUT', href, { 'content-type': 'text/calendar' }, text);
    // The first sample of these tests: what was sampled is shown again for a minute.
    expect((await monsoon(['sample', 'tuning-visits'])).out)
      .to.match(/0 of 6 that were read would become records, 5 are this lane's/)
      .and.match(/not made here +the lane makes records +1 +Staff meeting/);
    await dav(radicale(), 'DELETE', href);
  });

  it('explains any item, by id or by words', async () => {
    await office.frontDesk.call('PATCH', '/visits/V-1002', { private: true });
    await eventually('the verdict', async () => (await office.client.item('tuning-visits', 'V-1002')).verdict?.reason === 'private');
    expect((await monsoon(['why', 'tuning-visits', 'V-1002'])).out).to.match(/It is private, and the lane leaves private items out/);
    expect((await monsoon(['why', 'tuning-visits', 'upright 3'])).out).to.match(/V-1004 {2}in sync[\s\S]*It is on both sides/);
  });

  it('gives JSON for programs, and nothing but', async () => {
    for (const args of [
      ['systems', 'list'],
      ['lanes', 'list'],
      ['items', 'tuning-visits'],
      ['runs', 'list'],
      ['journal'],
      ['holds', 'list'],
      ['why', 'tuning-visits', 'V-1001'],
      ['forecast', 'tuning-visits'],
      ['audit', 'tuning-visits'],
      ['systems', 'check', 'diary'],
      ['systems', 'calendars', 'diary'],
      ['systems', 'collections', 'front-desk'],
      ['tokens'],
      ['lanes', 'starters'],
      ['lanes', 'versions', 'tuning-visits'],
      ['lanes', 'export', 'tuning-visits'],
      ['lanes', 'schema'],
      ['sample', 'tuning-visits'],
      [],
    ]) {
      const { out } = await monsoon([...args, '--json']);
      expect(() => JSON.parse(out), `${args.join(' ')}: ${out.slice(0, 80)}`).to.not.throw();
    }
  }).timeout(240_000);

  it('makes a lane from a file, and saves the file again as the next version', async () => {
    await office.client.makeCalendar('diary', 'From a file', '#12706d');
    const file = join(folder, 'from-file.yaml');
    writeFileSync(file, `# a comment\n${stringify({ ...laneFile(), calendar: { system: 'diary', calendar: 'From a file' } })}`);
    expect((await monsoon(['lanes', 'apply', '-f', file, '--paused'])).out).to.match(/Made the lane from-file. It is paused./);
    expect((await monsoon(['lanes', 'apply', '-f', file])).out).to.match(/from-file is as the file says already \(version 1\)/);
    writeFileSync(
      file,
      stringify({ ...laneFile(), calendar: { system: 'diary', calendar: 'From a file' }, filter: 'kind is voicing or notes contains "early bird"' }),
    );
    const unasked = await monsoon(['lanes', 'apply', '-f', file]);
    expect(unasked)
      .to.include({ code: 2 })
      .and.property('err')
      .match(/nothing was saved; say --yes to save it as version 2/);
    expect(unasked.out)
      .to.match(/filter +status none of \[cancelled\] +kind is voicing or notes contains "early bird"/)
      .and.match(/A run of from-file now:/);
    expect((await monsoon(['lanes', 'apply', '-f', file, '--yes'])).out).to.match(/Saved version 2 of from-file/);
    expect((await monsoon(['lanes', 'export', 'from-file', '1'])).out).to.match(/^# a comment\nname: Tuning visits/);
    expect((await monsoon(['lanes', 'compare', 'from-file', '--from', '1', '--to', '2'])).out).to.match(
      /^Setting +Before +After\nfilter +status none of/,
    );
    expect((await monsoon(['lanes', 'bring-back', 'from-file', '1', '--yes'])).out).to.match(
      /from-file is at version 3, which says what version 1 said/,
    );
    writeFileSync(file, stringify({ ...laneFile(), fields: { title: { copy: 'instrumnt' } }, zone: 'Mars/Olympus' }));
    for (const verb of ['apply', 'check'])
      expect(await monsoon(['lanes', verb, '-f', file]), verb)
        .to.include({ code: 2 })
        .and.property('err')
        .match(/from-file\.yaml:\d+:1: \/zone: the zone "Mars\/Olympus" is not known/)
        .and.match(/from-file\.yaml:\d+:5: \/fields\/title\/copy: there is no field "instrumnt".*did you mean "instrument"\?/);
    expect((await monsoon(['lanes', 'remove', 'from-file', '--yes'])).code).to.equal(0);
  });

  it('drafts a lane file, tries one record for real, starts the lane and stops it again', async () => {
    await office.client.makeCalendar('diary', 'Drafted', null);
    const file = join(folder, 'drafted.yaml');
    expect(await monsoon(['lanes', 'draft', '--calendar', 'diary/Drafted', '--direction', '->']))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/say --records SYSTEM\/COLLECTION; there are .*front-desk\/visits/);
    const drafted = await monsoon([
      'lanes',
      'draft',
      '--records',
      'front-desk/visits',
      '--calendar',
      'diary/Drafted',
      '--starter',
      'activities',
      '--zone',
      'Europe/London',
    ]);
    expect(drafted.err).to.match(/fields\/title: .*Instrument sounds like the title/);
    writeFileSync(file, drafted.out);
    expect((await monsoon(['lanes', 'check', '-f', file])).out)
      .to.match(/kept alike, both ways/)
      .and.match(/It would make the lane drafted/);
    expect((await monsoon(['sample', file, '--record', 'V-1004'])).out).to.match(/title +\S.*Alder upright 3/);
    expect((await monsoon(['lanes', 'apply', '-f', file, '--paused'])).out).to.match(/Made the lane drafted. It is paused/);
    const tried = await monsoon(['try', 'drafted', 'V-1004', '--undo']);
    expect(tried.out)
      .to.match(/V-1004 {2}in sync/)
      .and.match(/Taken back: done/);
    expect((await office.client.lane('drafted')).pairs).to.equal(0);
    await monsoon(['lanes', 'start', 'drafted']);
    // What was only tried belongs to the first run all the same.
    const { pairs } = await eventually('the first run', async () => {
      const lane = await office.client.lane('drafted');
      return lane.lastRun?.state === 'done' && lane.lastRun.scope === 'sweep' && lane;
    });
    expect(pairs).to.be.greaterThan(2);
    expect((await monsoon(['lanes', 'stop', 'drafted', '--events', 'remove'])).err).to.match(/nothing was done; say --yes/);
    expect((await monsoon(['lanes', 'stop', 'drafted', '--events', 'remove', '--yes'])).out).to.match(
      new RegExp(`Stopping drafted: ${pairs} removed, 0 unlinked`),
    );
    await eventually('the end', async () => (await office.client.lane('drafted')).pairs === 0);
    expect((await monsoon(['lanes', 'remove', 'drafted', '--yes'])).code).to.equal(0);
  });

  it('shows holds with exit code 3, and settles them', async () => {
    const event = (await office.event('V-1003'))!;
    await fetch(new URL(event.href, office.diary), { method: 'DELETE', headers: { authorization: `Basic ${btoa('alderwren:well-tempered')}` } });
    await office.run();
    const { code, out } = await monsoon(['holds']);
    expect(code).to.equal(3);
    expect(out)
      .to.match(/event deleted/)
      .and.match(/create again, unlink/);
    expect((await monsoon([])).code).to.equal(3);
    const [hold] = (await office.client.holds()).items;
    expect((await monsoon(['holds', 'settle', hold!.id, 'burn it'])).err).to.match(
      /"burn it" is no answer to "event deleted"; answers are create again, unlink/,
    );
    expect((await monsoon(['holds', 'settle', hold!.id, 'create again'])).code).to.equal(0);
    await eventually('it is made again', () => office.event('V-1003'));
  });

  it('answers wrong usage with the reason and exit code 2, and trouble with 1', async () => {
    for (const [args, words] of [
      [['run', 'nosuch'], /there is no lane "nosuch"; there are tuning-visits/],
      [['run'], /missing required argument 'lane'/],
      [['lanes', 'apply', '-f', 'none.yaml'], /none\.yaml: there is no such file; check the path/],
      [['items', 'tuning-visits', '--limit', 'many'], /whole number from 1 to 500/],
      [['frobnicate'], /there is no command "frobnicate"; there are systems, lanes/],
      [['runs', 'list', '--limit', 'many'], /whole number from 1 to 500/],
      [['runs', 'show', 'x'], /there is no run "x"/],
      [['why', 'tuning-visits', 'V-9999'], /there is no item "V-9999"/],
      [['--surprise'], /unknown option/],
    ] as [string[], RegExp][]) {
      const { code, err } = await monsoon(args);
      expect(err, args.join(' ')).to.match(words);
      expect(code, args.join(' ')).to.equal(2);
    }
    expect(await monsoon(['lanes'], { MONSOON_URL: 'http://127.0.0.1:9' }))
      .to.include({ code: 1 })
      .and.property('err')
      .match(/Monsoon does not answer at http:\/\/127\.0\.0\.1:9/);
    expect(await monsoon(['lanes'], { MONSOON_TOKEN: 'wrong' }))
      .to.include({ code: 1 })
      .and.property('err')
      .match(/sign in, or give a token/);
  }).timeout(240_000);

  it('connects systems of any kind: says what is asked for, checks before and after, tries, and drafts a descriptor', async () => {
    expect((await monsoon(['systems', 'kinds'])).out).to.match(/postgresql {2}Database \(PostgreSQL\)/);
    expect((await monsoon(['systems', 'kinds', 'caldav'])).out).to.match(/settings\.address +yes/);
    const file = join(folder, 'second.yaml');
    const system = {
      slug: 'second',
      name: 'Second diary',
      kind: 'caldav',
      settings: { address: radicale(), user: account.user },
      secretsFrom: { password: 'SECOND_PASSWORD' },
    };
    writeFileSync(file, stringify(system));
    expect(await monsoon(['systems', 'check', '-f', file]))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/environment variable SECOND_PASSWORD, which is not set/);
    const wrong = await monsoon(['systems', 'check', '-f', file], { SECOND_PASSWORD: 'wrong' });
    expect(wrong)
      .to.include({ code: 1 })
      .and.property('out')
      .match(/failed {3}credentials: .* does not accept the credentials/);
    const right = { SECOND_PASSWORD: account.password };
    expect(await monsoon(['systems', 'check', '-f', file], right)).to.include({ code: 0 });
    expect((await monsoon(['systems', 'list'])).out).to.not.include('second');
    expect((await monsoon(['systems', 'connect', '-f', file], right)).out).to.match(/Next: monsoon systems check second/);
    expect((await monsoon(['systems', 'try', 'second'])).out).to.match(/PROPFIND http.*\n.*207/);
    expect((await monsoon(['systems', 'calls', 'second'])).out).to.match(/Nothing was asked|PROPFIND/);
    const made = JSON.parse((await monsoon(['systems', 'make-calendar', 'second', 'To be renamed', '--json'])).out) as { href: string };
    expect((await monsoon(['systems', 'change-calendar', 'second', 'To be renamed', '--name', 'Renamed', '--colour', '#123456'])).out).to.match(
      /"Renamed" now, with the colour #123456/,
    );
    expect((await monsoon(['systems', 'make-calendar', 'second', 'Errands', '--tasks'])).out).to.match(/task list "Errands"/);
    expect((await monsoon(['systems', 'collections', 'second'])).out).to.match(/due day/);
    expect(await monsoon(['systems', 'tracking', 'second', 'x']))
      .to.include({ code: 2 })
      .and.property('err')
      .match(/is no database/);
    await dav(radicale(), 'DELETE', made.href);
    expect((await monsoon(['systems', 'disconnect', 'second'])).out).to.match(/Disconnected/);
    const api = join(folder, 'api.json');
    const list = {
      responses: {
        200: {
          content: {
            'application/json': {
              schema: { type: 'array', items: { type: 'object', properties: { id: { type: 'string' }, due: { type: 'string', format: 'date' } } } },
            },
          },
        },
      },
    };
    writeFileSync(api, JSON.stringify({ openapi: '3.0.0', paths: { '/jobs': { get: list }, '/jobs/{id}': {} } }));
    const draft = await monsoon(['systems', 'draft-descriptor', '-f', api]);
    expect(draft.out)
      .to.match(/# jobs: no parameter asks for the next page/)
      .and.match(/- name: due\n {10}type: date/);
  });

  it('signs in and keeps a token that only its owner can read', async () => {
    const signed = await monsoon(['sign-in', '--email', admin.email], { MONSOON_PASSWORD: admin.password, MONSOON_TOKEN: '' });
    expect(signed.out).to.match(/Signed in as ines@alder-wren.example/);
    const { stdout } = await new Promise<{ stdout: string }>((fine) =>
      execFile('stat', ['-c', '%a', join(folder, '.monsoon', 'cli.json')], (_e, stdout) => fine({ stdout })),
    );
    expect(stdout.trim()).to.equal('600');
  });

  it('sends a token only to the service that it is for, and obeys no terminal code from outside', async () => {
    const seen: (string | undefined)[] = [];
    const stranger = await misbehaving((asked, response) => {
      seen.push(asked.headers.authorization);
      response
        .writeHead(404, { 'content-type': 'application/problem+json' })
        .end(JSON.stringify({ title: 'x', status: 404, detail: 'gone\u001b]0;owned\u0007\u001b[2J\u009b1m' }));
      return true;
    });
    const below = join(folder, 'below');
    mkdirSync(join(below, '.monsoon'), { recursive: true });
    writeFileSync(join(below, '.monsoon', 'cli.json'), JSON.stringify({ address: stranger.address }), { mode: 0o600 });
    const there = commandIn(below, () => ({ address: '', token: '' }));
    const bare = { MONSOON_URL: undefined as never, HOME: folder };
    // The token of the home folder stays there, whatever names another service.
    const planted = await there(['lanes'], { ...bare, MONSOON_TOKEN: '' });
    const named = await there(['--url', stranger.address, 'lanes'], { ...bare, MONSOON_TOKEN: '' });
    const given = await there(['lanes'], { ...bare, MONSOON_TOKEN: office.token });
    expect(given).to.include({ code: 2 });
    expect(given.err).to.match(/say which service the token is for/);
    expect(seen.length).to.be.greaterThan(1);
    expect(seen.filter((s) => s !== undefined)).to.deep.equal([]);
    for (const { out, err } of [planted, named]) expect(`${out}${err}`).not.to.match(/(?!\n)\p{Cc}/u);
    // A file that others may write is ignored.
    chmodSync(join(below, '.monsoon', 'cli.json'), 0o666);
    expect((await there(['lanes'], { ...bare, MONSOON_TOKEN: '' })).code).to.equal(0);
    await stranger.close();
  });

  it('has help with examples', async () => {
    expect((await monsoon(['--help'])).out).to.match(/Exit codes: 0 fine, 1 failed, 2 wrong usage, 3 something is held/);
    expect((await monsoon(['why', '--help'])).out).to.match(/Examples:/);
  });
});
