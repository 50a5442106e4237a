import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { LaneAnswer, RunAnswer } from '@monsoon/contract';
import { type MonsoonClient, ServiceProblem } from '@monsoon/contract/client';
import { consent } from './consent.ts';
import { makeData, type SeedRow } from './data.ts';
import { type HireBook, openHireBook } from './hire-book.ts';
import { attendance, concerts, HALL_BOOKINGS, hallBookings, holidays, workbenchData } from './more-data.ts';
import { countEvents, diary, enterByHand, frontDesk, signIn, workbench } from './office.ts';
import { arranged, at, claimFolder, data, email, ports, readSecrets, root, type Secrets, say, startOver, step, Trouble, yaml } from './places.ts';
import { holidaysAddress, isStopping, needPorts, publish, run, standin, start, stop } from './processes.ts';
import { leaveQuestions } from './questions.ts';

/** Starts Alder & Wren: their systems, and Monsoon between them. `--once`: sums up and ends; `--again`: throws away what is there, and begins again. */

const once = process.argv.includes('--once');
const started = Date.now();
const day = new Date().toISOString().slice(0, 10);

/** Each lane with its calendar in the Diary, if it has one there, and the calendar's colour. */
const LANES: [string, string | null, string][] = [
  ['tuning-visits', 'Tuning visits', '#12706d'],
  ['calls', 'Calls', '#5f584f'],
  ['restoration-tasks', 'Restoration', '#7a4f9a'],
  ['bench-time', 'Bench time', '#8a7f70'],
  ['hire-dates', 'Hires', '#1f5f8a'],
  ['leave', 'Leave', '#3f7a3a'],
  ['maintenance', 'Maintenance', '#6b6a1f'],
  ['hall-bookings', 'Meadow Hall', '#9a5f2f'],
  ['concerts', 'Concerts', '#8a2f4f'],
  ['attendance-board', 'Attendance', '#4f6f8a'],
  ['holidays', null, ''],
  // Reads the spreadsheet that the lane before it fills.
  ['closed-days', null, ''],
];

/** Somebody at the desk lets Monsoon in. */
async function letIn(url: string): Promise<void> {
  const landed = new URL(await consent(url, `${at(ports.service)}/systems`));
  const refused = landed.searchParams.get('refused');
  if (refused !== null) throw new Trouble(`the Front desk did not let Monsoon in: ${refused}`);
}

/** The settings as they are where the system stands now: its pages are there, too. */
function movedTo(address: string, settings: Record<string, unknown>): Record<string, unknown> {
  const written = String(settings['address']);
  if (!URL.canParse(written) || !URL.canParse(address)) return settings;
  return JSON.parse(JSON.stringify(settings).replaceAll(new URL(written).host, new URL(address).host)) as Record<string, unknown>;
}

/** @param elsewhere settings that name other ports than the usual ones */
async function connect(
  client: MonsoonClient,
  file: string,
  address: string,
  secrets: Record<string, string>,
  elsewhere: Record<string, unknown> = {},
): Promise<void> {
  const { secretsFrom: _named, ...system } = yaml(`systems/${file}.yaml`) as unknown as {
    secretsFrom?: unknown;
    slug: string;
    name: string;
    kind: string;
    settings: Record<string, unknown>;
  };
  const made = await client.connect({ ...system, settings: { ...movedTo(address, system.settings), ...elsewhere, address }, secrets });
  if (made.consent === 'needed') await letIn((await client.authorise(made.slug)).url);
  const { ok, steps } = await client.checkSystem(system.slug);
  if (!ok)
    throw new Trouble(
      `${system.name}: ${steps
        .filter((s) => s.outcome === 'failed')
        .map((s) => s.detail)
        .join('; ')}`,
    );
}

async function arrange(client: MonsoonClient, secrets: Secrets, hireBook: HireBook, seed: SeedRow[]): Promise<void> {
  const hooks = `${at(ports.service)}/hooks`;
  const desk = await frontDesk<{ secret: string }>(secrets, 'POST', '/webhooks', { url: `${hooks}/front-desk` });
  const events = ['task', 'entry'].flatMap((of) => ['made', 'moved', 'changed', 'removed'].map((what) => `${of}.${what}`));
  const bench = await workbench<{ secret: string }>(secrets, 'POST', '/hooks', { url: `${hooks}/workbench`, events });
  await connect(client, 'front-desk', `${at(ports.frontDesk)}/api/v1`, { clientSecret: secrets.client, webhook: desk.secret });
  await connect(client, 'workbench', `${at(ports.workbench)}/api`, { token: secrets.workbench, webhook: bench.secret });
  await connect(client, 'hire-book', hireBook.address, { password: secrets.hireBook });
  // Monsoon may not put triggers on these tables; the database's administrator reads the statements, and does.
  for (const table of ['hire', 'leave']) await hireBook.administer((await client.tracking('hire-book', table)).install);
  await connect(client, 'diary', `${at(ports.diary)}/`, { password: secrets.diary });
  await connect(client, 'public-holidays', holidaysAddress, {});
  await connect(client, 'closed-days', join(data, 'files', 'closed-days.csv'), {});
  await connect(client, 'post-room', `smtp://127.0.0.1:${ports.smtp}`, { password: secrets.postRoom }, { mailbox: `imap://127.0.0.1:${ports.imap}` });
  const calendars = new Map<string, string>();
  for (const [, name, colour] of LANES) if (name !== null) calendars.set(name, (await client.makeCalendar('diary', name, colour)).href);
  await enterByHand(secrets, calendars.get('Tuning visits')!);
  const put = async (calendar: string, entries: [string, string][]) => {
    for (const [file, text] of entries)
      await diary(secrets, 'PUT', `${calendars.get(calendar)}${file}`, { 'content-type': 'text/calendar; charset=utf-8' }, text);
  };
  const guests = seed.filter((s) => s.kind === 'contacts').map(({ row }) => ({ name: String(row['name']), email: String(row['email']) }));
  await put('Concerts', concerts(day, guests));
  await put('Attendance', attendance(day));
  await put('Meadow Hall', hallBookings(day));
  await client.makeHostedCalendar({ name: 'Closed days', slug: 'closed-days', colour: '#7a3f3a' });
  for (const [lane] of LANES) await client.applyLaneFile(lane, readFileSync(join(root, 'demo', `lanes/${lane}.yaml`), 'utf8'));
}

/** What others may read: when the tuners are taken, and when the workshops are closed. */
async function share(client: MonsoonClient): Promise<void> {
  await client.makeFeed({ name: 'Tuners, busy or free', lane: 'tuning-visits', shows: 'busy only' });
  await client.makeFeed({ name: 'Closed days', lane: 'closed-days', shows: ['title'], colour: '#7a3f3a' });
}

async function followRun(client: MonsoonClient, lane: string, started: RunAnswer | null): Promise<RunAnswer> {
  for (let shown = 0, tries = 0; tries < 1200; tries++) {
    // Of a new lane its first run; notices may have caused others since.
    const current = started === null ? (await client.runs({ lane, limit: 50 })).items.at(-1) : await client.oneRun(started.id);
    if (current !== undefined && current.state !== 'waiting' && current.state !== 'running') return current;
    if (current !== undefined && current.done > shown) step(`  ${lane}: ${current.done} of ${current.planned}`);
    shown = current?.done ?? shown;
    await new Promise((fine) => setTimeout(fine, 100));
  }
  throw new Trouble('the run did not end within two minutes');
}

/** A visit is booked: the customer is invited by mail, and accepts as a calendar program does. */
async function inviteSomebody(client: MonsoonClient, secrets: Secrets, seed: SeedRow[]): Promise<void> {
  const customer = seed.find((s) => s.kind === 'contacts')!.row;
  const start = new Date(Date.now() + 8 * 86_400_000).toISOString().slice(0, 10);
  const { id } = await frontDesk<{ id: string }>(secrets, 'POST', '/visits', {
    customer_id: customer.id,
    instrument: 'Wren grand 170',
    start: `${start}T10:00:00`,
    time_zone: 'Europe/London',
    length_minutes: 90,
    status: 'booked',
  });
  const wait = async (ready: () => Promise<boolean>): Promise<boolean> => {
    for (let tries = 0; tries < 150; tries++) {
      if (await ready()) return true;
      await new Promise((fine) => setTimeout(fine, 200));
    }
    return false;
  };
  const mails = async () => ((await (await fetch(`${at(ports.postRoom)}/api/mails`)).json()) as { items: { to: string[] }[] }).items;
  const invited = await wait(async () => (await mails()).some((m) => m.to.includes(String(customer['email']))));
  const number = (await mails()).findIndex((m) => m.to.includes(String(customer['email'])));
  if (invited) await fetch(`${at(ports.postRoom)}/mails/${number}`, { method: 'POST', body: new URLSearchParams({ answer: 'ACCEPTED' }) });
  const replied = await wait(async () => (await client.guests('tuning-visits')).items.some((g) => g.item === id && g.reply === 'accepted'));
  say(
    replied
      ? `\n${String(customer['name'])} was invited to visit ${id}, and has accepted: npx monsoon guests list tuning-visits`
      : `\nVisit ${id}: its guest was not invited, or has not replied.`,
  );
}

/** @param counted is its calendar in the Diary, where it can be counted independently? */
async function sumUp(client: MonsoonClient, secrets: Secrets, lane: LaneAnswer, last: RunAnswer, counted: boolean): Promise<boolean> {
  // A series is one object of the Diary; the choir's is made of twelve weeks, one of them cancelled.
  const apart = lane.definition.events.repeating === 'each occurrence';
  const events = !counted ? lane.pairs : apart ? HALL_BOOKINGS : await countEvents(secrets, lane.definition.calendar.calendar);
  const { counts } = last;
  const left = (await client.items(lane.slug, { state: 'left out', limit: 500 })).items;
  const failed = (await client.items(lane.slug, { state: 'failed', limit: 500 })).items;
  const reasons = new Map<string, number>();
  for (const item of left) reasons.set(item.verdict?.reason ?? '', (reasons.get(item.verdict?.reason ?? '') ?? 0) + 1);
  say(
    `\n${lane.definition.name}, records ${lane.definition.direction} calendar: ${counts.created} created, ${counts.adopted} found on the calendar already, ${counts.changed} changed, ${counts.unchanged} as they were.`,
  );
  say(
    `Counts: ${lane.pairs} pairs here, ${events} ${apart ? 'occurrences and events' : 'events'} ${counted ? 'in the Diary' : `in ${lane.calendarName}`}.`,
  );
  say(`Left out: ${[...reasons].map(([reason, n]) => `${n} ${reason}`).join(', ') || 'nothing'}.`);
  for (const item of failed) say(`Needs fixing: ${item.recordId} ${item.label}: ${item.verdict?.condition ?? ''}`);
  const right = last.state === 'done' && events === lane.pairs && lane.pairs > 0;
  const reason = last.reason === null ? '' : `: ${last.reason}`;
  if (last.state === 'held') say(`Its run waits for a person${reason}.`);
  else if (!right) say(`Not right: the run is ${last.state}${reason}.`);
  return right;
}

async function main(): Promise<void> {
  if (process.argv.includes('--again')) startOver();
  claimFolder();
  const secrets = readSecrets();
  await needPorts();
  step('starting the Diary (radicale), the Hire book (PostgreSQL), the Front desk, the Workbench, the Post room and Monsoon');
  const keep = (file: string, make: () => string): string => {
    const path = join(data, file);
    if (!existsSync(path)) writeFileSync(path, make());
    return path;
  };
  const seedFile = keep('seed.json', () => JSON.stringify(makeData(day)));
  const benchFile = keep('workbench.json', () => JSON.stringify(workbenchData(day)));
  const seed = JSON.parse(readFileSync(seedFile, 'utf8')) as SeedRow[];
  mkdirSync(join(data, 'files'), { recursive: true });
  keep('files/closed-days.csv', () => 'id;day;name\r\n');
  await publish(holidays(Number(day.slice(0, 4))));
  const [, hireBook] = await Promise.all([
    run('bash', ['scripts/radicale.sh', 'start', join(data, 'diary'), String(ports.diary), 'alderwren', secrets.diary], { cwd: root }).catch(
      (error: { stderr?: string }) => {
        throw new Trouble(`the Diary did not start: ${error.stderr ?? ''}`);
      },
    ),
    openHireBook(secrets.hireBook, day, seed).catch((error: { stderr?: string; message?: string }) => {
      throw new Trouble(`the Hire book did not start: ${error.stderr ?? error.message ?? ''}`);
    }),
    start('the Front desk', [
      standin('front-desk'),
      ...['--port', String(ports.frontDesk), '--data', join(data, 'front-desk.jsonl'), '--token', secrets.frontDesk, '--seed', seedFile],
      // A real desk's refresh tokens last for weeks; access tokens for minutes.
      ...[
        '--client',
        `monsoon:${secrets.client}`,
        '--redirect',
        `${at(ports.service)}/oauth/back`,
        '--access',
        '300',
        '--refresh',
        String(30 * 86_400),
      ],
    ]),
    start('the Workbench', [
      standin('workbench'),
      '--port',
      String(ports.workbench),
      '--data',
      join(data, 'workbench.jsonl'),
      '--key',
      secrets.workbench,
      '--seed',
      benchFile,
    ]),
    start('the Post room', [
      standin('post-room'),
      '--port',
      String(ports.postRoom),
      '--smtp-port',
      String(ports.smtp),
      '--imap-port',
      String(ports.imap),
      '--data',
      join(data, 'post-room.jsonl'),
      '--user',
      `monsoon:${secrets.postRoom}`,
    ]),
    start('Monsoon', ['packages/service/dist/main.js'], {
      MONSOON_DATA: data,
      MONSOON_PORT: String(ports.service),
      MONSOON_ALLOW_ADDRESSES: '127.0.0.1',
      MONSOON_ADMIN_EMAIL: email,
      MONSOON_ADMIN_PASSWORD: secrets.admin,
      MONSOON_LOG: 'warn',
    }),
  ]);
  const client = await signIn(secrets);
  const fresh = !existsSync(arranged);
  const known = (await client.lanes()).items;
  const connected = (await client.systems()).items.filter((s) => s.kind !== 'hosted');
  if (fresh && known.length + connected.length > 0)
    throw new Trouble(`the demo in ${data} was interrupted before it was complete. Begin again with: npm run demo -- --again`);
  const missing = LANES.filter(([lane]) => !known.some((l) => l.slug === lane)).map(([lane]) => lane);
  if (!fresh && missing.length > 0)
    throw new Trouble(
      `the demo in ${data} has no lane ${missing.join(', ')}: it is of an older version, or was changed. Begin again with: npm run demo -- --again`,
    );
  if (fresh) step('connecting seven systems and starting twelve lanes');
  if (fresh) await arrange(client, secrets, hireBook, seed);
  let right = true;
  for (const [lane, calendar] of LANES) {
    const last = await followRun(client, lane, fresh && lane !== 'closed-days' ? null : await client.run(lane));
    right = (await sumUp(client, secrets, await client.lane(lane), last, calendar !== null)) && right;
  }
  if (fresh) await share(client);
  if (fresh) await inviteSomebody(client, secrets, seed);
  if (fresh) await leaveQuestions(client, secrets, hireBook, followRun);
  if (fresh) writeFileSync(arranged, '');
  say(`\nUp in ${((Date.now() - started) / 1000).toFixed(1)} s${fresh ? '' : ', with the data of last time'}.`);
  if (once) return void (await stop(right ? 0 : 1));
  const visit = (await client.items('tuning-visits', { state: 'in sync', limit: 1 })).items[0]?.recordId ?? 'V-1001';
  const undated =
    (await client.items('tuning-visits', { state: 'left out', limit: 500 })).items.find((i) => i.verdict?.reason === 'no date')?.recordId ?? 'V-1105';
  say(`
Console     ${at(ports.service)}/    ${email}    ${secrets.admin}
Front desk  ${at(ports.frontDesk)}/    Workbench  ${at(ports.workbench)}/    Post room  ${at(ports.postRoom)}/

Try next, in another terminal in this folder:
  npx monsoon demo reschedule ${visit} ${new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10)}T09:30    and watch it move in the console
  npx monsoon why tuning-visits ${undated}              why a visit is not on the calendar
  npx monsoon forecast tuning-visits          what a run would do now
  npx monsoon holds                           the four questions that wait
  npx monsoon guests list tuning-visits       who was invited, and what they replied; answer in the Post room
  npx monsoon agenda                          this week, records left and calendar right
  npx monsoon feeds                           what others can read, and at which address
  npx monsoon systems try workbench           how a business application is described, request by request

Ctrl-C stops everything.`);
}

process.on('SIGINT', () => void (isStopping() || stop(0)));
process.on('SIGTERM', () => void (isStopping() || stop(0)));
try {
  await main();
} catch (error) {
  console.error(`demo: ${error instanceof Trouble || error instanceof ServiceProblem ? error.message : (error as Error).stack}`);
  await stop(1);
}
