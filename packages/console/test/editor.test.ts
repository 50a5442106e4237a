import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect } from 'chai';
import pg from 'pg';
import type { Browser, Page } from 'playwright-core';
import { makeData } from '../../../demo/data.ts';
import { openBrowser } from '../../../test/support/browser.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';
import { dav, eventually, freshDatabase, listEvents } from '../../../test/support/servers.ts';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

const TABLES = `
  create table hire (id int primary key, customer text not null, instrument text not null, delivery_at timestamptz, collection_at timestamptz, renewal_on date,
    status text not null check (status in ('booked', 'out', 'returned')));
  insert into hire select n, 'Ottoline Marsh ' || n, 'Wren grand ' || n, now() + n * interval '1 day', now() + n * interval '9 days', current_date + n + 30,
    case when n = 1 then 'returned' else 'booked' end from generate_series(1, 6) n;
  create table board (id serial primary key, note text, starts timestamptz not null, ends timestamptz not null,
    status text not null default 'workshop' check (status in ('workshop', 'away', 'visiting')));
  create table task (id int primary key, title text not null, details text, due date, state text not null check (state in ('open', 'done')));
  insert into task select n, 'Order felts ' || n, null, current_date + n, case when n > 5 then 'done' else 'open' end from generate_series(1, 7) n;`;

describe('the lane editor in Chromium', function () {
  this.timeout(180_000);
  let office: Office;
  let database: { url: string; drop: () => Promise<void> };
  let client: pg.Client;
  let browser: Browser;
  let page: Page;
  const errors: string[] = [];
  before(async () => {
    office = await openOffice({ seed: makeData(new Date().toISOString().slice(0, 10), 24), withLane: false });
    database = await freshDatabase();
    client = new pg.Client({ connectionString: database.url });
    await client.connect();
    await client.query(TABLES);
    const url = new URL(database.url);
    const settings = {
      address: `postgresql://${url.host}${url.pathname}`,
      user: url.username,
      tls: 'off',
      collections: { board: { write: ['note', 'starts', 'ends', 'status'], create: true } },
    };
    await office.client.connect({ slug: 'book', name: 'Hire book', kind: 'postgresql', settings, secrets: { password: url.password } });
    browser = await openBrowser();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.setDefaultTimeout(20_000);
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('console', (message) => message.type() === 'error' && !message.text().includes('401') && errors.push(message.text()));
    await page.goto(office.address);
    await page.getByLabel('E-mail').fill(admin.email);
    await page.getByLabel('Password').fill(admin.password);
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Today' }).waitFor();
  });
  after(async () => {
    await browser?.close();
    await client?.end();
    await office?.stop();
    await database?.drop();
  });
  afterEach(() => expect(errors.splice(0), 'errors of the page').to.deep.equal([]));

  const audit = async (what: string) => {
    await page.locator('h1').first().waitFor();
    const found = await page.evaluate(
      `${axe}; axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] }).then((r) => r.violations.map((v) => v.id + ': ' + v.nodes.map((n) => n.html).join(' | ').slice(0, 300)))`,
    );
    expect(found, what).to.deep.equal([]);
  };
  const tab = (name: string) => page.getByRole('tab', { name }).click();
  const button = (name: string | RegExp) => page.getByRole('button', { name }).first().click();
  /** From a starter to its draft. @param calendar by name; a new one unless said */
  const begin = async (starter: string, system: string, collection: string, calendar?: string) => {
    await page.goto(`${office.address}/lanes/new`);
    await button(new RegExp(`^${starter}`));
    await page.getByLabel('Records are in').selectOption(system);
    await page.getByLabel('Calendars are in').selectOption('diary');
    await page.getByLabel('Collection 1').selectOption(collection);
    if (calendar !== undefined) await page.getByLabel('Calendar 1').selectOption({ label: calendar });
    await button('Arrange it');
    await page.getByRole('tab', { name: 'Which' }).waitFor();
  };
  const started = (slug: string) =>
    eventually(
      `the first run of ${slug}`,
      async () => {
        const lane = await office.client.lane(slug);
        return lane.lastRun?.state === 'done' && lane.lastRun.scope === 'sweep' && lane;
      },
      30_000,
    );
  const textsOf = async (calendar: string) =>
    Promise.all((await listEvents(office.diary, calendar)).map(async (href) => (await dav(office.diary, 'GET', href)).text));

  it('takes activities from a starter to a proven, running lane: one item for real, taken back, then everything', async () => {
    await begin('Activities, both ways', 'front-desk', 'visits');
    await page
      .getByText(/records cross, as/)
      .first()
      .waitFor();
    await page.getByLabel('Days ahead').fill('90');
    await page
      .getByText(/90 days ahead/)
      .first()
      .waitFor();
    await tab('Fields');
    await page.getByLabel('Another record, by its id').fill('V-1003');
    await button('Show');
    await eventually('the record of one’s choice', async () => (await page.getByLabel('Sample').inputValue()) === 'V-1003');
    await page.getByLabel('New title').waitFor();
    await page.getByLabel('New title').fill(`${(await page.getByLabel('New title').inputValue()).split(':')[0]}: Wren grand 999`);
    await page.getByText('instrument becomes Wren grand 999').waitFor();
    for (const section of ['Sides', 'Direction', 'Which', 'Fields', 'Removals and conflicts', 'Timetable']) {
      await tab(section);
      await audit(section);
    }
    await tab('Prove it');
    await button(/^Make it/);
    await button(/^Only this one/);
    await audit('the forecast');
    await button('Let this one cross');
    await button('Take it back');
    await page.getByText('Taken back.').waitFor();
    await button('Start the lane');
    await page.getByRole('heading', { name: 'Tuning visits' }).waitFor();
    const lane = await started('tuning-visits');
    expect(lane.pairs).to.be.greaterThan(10);
    expect(await listEvents(office.diary, lane.definition.calendar.calendar)).to.have.length(lane.pairs);
    expect(lane.definition).to.deep.include({ direction: '<->', window: { behind: 30, ahead: 90 } });
    expect((await office.client.drafts()).items).to.deep.equal([]);
  });

  it('makes several dates of one record several events', async () => {
    await begin('Several dates', 'book', 'hire');
    await button('Add a condition');
    await page.getByLabel('Test').selectOption('none of');
    await page.getByLabel(/^booked/).uncheck();
    await page.getByLabel(/^returned/).check();
    await page.getByText('15 events').waitFor();
    await tab('Prove it');
    await button(/^Make it/);
    await page
      .getByText(/15 created/)
      .first()
      .waitFor();
    await button('Start the lane');
    const lane = await started('hire');
    const texts = await textsOf(lane.definition.calendar.calendar);
    expect(texts).to.have.length(15);
    expect(texts.filter((t) => t.includes('SUMMARY:Ottoline Marsh 2: Wren grand 2'))).to.have.length(3);
    expect(texts.some((t) => t.includes('Marsh 1:'))).to.equal(false);
  });

  it('lets words of a title choose a status in a table', async () => {
    const { href } = await office.client.makeCalendar('diary', 'Board', null);
    const day = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10).replaceAll('-', '');
    const event = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//a person\r\nBEGIN:VEVENT\r\nUID:b1\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:${day}T090000Z\r\nDTEND:${day}T100000Z\r\nSUMMARY:Ines away in Halifax\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
    await dav(office.diary, 'PUT', `${href}b1.ics`, { 'content-type': 'text/calendar' }, event);
    await begin('Words of a title', 'book', 'board', 'Board');
    await tab('Fields');
    await page.getByLabel('Try a title').fill('Visiting Larkfield House');
    await page.getByText('chooses visiting').waitFor();
    await tab('Prove it');
    await button(/^Make it/);
    await page
      .getByText(/1 created/)
      .first()
      .waitFor();
    await button('Start the lane');
    await started('board');
    expect((await client.query('select status, starts is not null as dated from board')).rows).to.deep.equal([{ status: 'away', dated: true }]);
  });

  it('arranges a lane from nothing by keyboard alone, keeps what was typed when the page is left, and starts it', async () => {
    /** Goes on by Tab until the thing of that name has the focus. */
    const reach = async (name: RegExp) => {
      for (let i = 0; i < 90; i++) {
        const here = await page.evaluate(() => {
          const e = document.activeElement as HTMLInputElement | null;
          return e === null
            ? ''
            : (e.getAttribute('aria-label') ??
                [...(e.labels ?? [])]
                  .map((l) => l.textContent)
                  .join(' ')
                  .trim()) ||
                e.textContent ||
                '';
        });
        if (name.test(here)) return;
        await page.keyboard.press('Tab');
      }
      throw new Error(`Tab does not come to ${name}`);
    };
    const press = async (name: RegExp) => {
      await reach(name);
      await page.keyboard.press('Enter');
    };
    const choose = async (name: RegExp, words: string) => {
      await reach(name);
      await page.keyboard.type(words);
    };
    await page.goto(`${office.address}/lanes/new`);
    await page.getByRole('button', { name: /From nothing/ }).waitFor();
    await press(/^From nothing/);
    await page.getByLabel('System of the records').waitFor();
    await reach(/^Name$/);
    await page.keyboard.type('Felts');
    await choose(/^System of the records/, 'Hire');
    await eventually('the collections', async () => (await page.getByLabel('Collection').locator('option').count()) > 3);
    await choose(/^Collection/, 'task');
    await choose(/^System of the calendar/, 'Diary');
    await press(/^Make a new calendar/);
    await press(/^Make it/);
    await eventually('the new calendar', async () => (await page.locator('select[aria-label="Calendar"] option:checked').textContent()) === 'Felts');
    await page.getByText('Saved as a draft').waitFor();
    await eventually(
      'it is saved',
      async () =>
        (await office.client.drafts()).items[0]?.definition !== undefined &&
        JSON.stringify((await office.client.drafts()).items[0]).includes('calendar":"/'),
    );
    await page.reload();
    await page.getByRole('heading', { name: 'Felts' }).waitFor();
    await press(/^Next: Direction/);
    await reach(/^Records to calendar/);
    await page.keyboard.press('Space');
    await press(/^Next: Which/);
    await press(/^Next: Fields/);
    await page.getByRole('button', { name: /^Take all/ }).waitFor();
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await press(/^Take all/);
    for (const next of ['Guests', 'Removals', 'Timetable', 'Prove']) await press(new RegExp(`^Next: ${next}`));
    await page.getByRole('button', { name: /^Make it/ }).waitFor();
    await press(/^Make it/);
    await page
      .getByText(/7 created/)
      .first()
      .waitFor();
    await press(/^Start the lane/);
    const lane = await started('felts');
    expect(await textsOf(lane.definition.calendar.calendar)).to.have.length(7);
    expect(lane.definition.direction).to.equal('->');
  });

  it('changes a running lane as a draft beside it, shows what that would do, and brings an earlier version back', async () => {
    await page.goto(`${office.address}/lanes/felts`);
    await page.getByRole('button', { name: 'Change', exact: true }).click();
    await tab('Which');
    await button('As text');
    await page.getByLabel('Records that cross, as text').fill('state is dnoe');
    await page
      .getByText(/"dnoe" is no choice of "state"/)
      .first()
      .waitFor();
    await page.getByLabel('Records that cross, as text').fill('state is open');
    await tab('Removals and conflicts');
    await page
      .getByLabel(/no longer passes the filter/)
      .first()
      .selectOption('remove');
    await tab('Prove it');
    await page.getByText('Against version 1').waitFor();
    await page
      .getByText(/2 removed/)
      .first()
      .waitFor();
    expect((await office.client.lane('felts')).version).to.equal(1);
    await audit('a draft beside a live lane');
    await button('Save as version 2');
    await eventually('two are removed', async () => (await office.client.lane('felts')).pairs === 5, 20_000);
    await page.goto(`${office.address}/lanes/felts?tab=settings`);
    await button('Bring version 1 back');
    await page.getByText('Against version 2').waitFor();
    await button('Throw the draft away');
    await page.getByRole('heading', { name: 'Felts' }).waitFor();
    await button('Stop');
    await page.getByLabel(/^Remove\./).check();
    await audit('stopping a lane');
    await button(/Stop it: remove 5/);
    await eventually(
      'all are gone',
      async () => (await textsOf((await office.client.lane('felts')).definition.calendar.calendar)).length === 0,
      20_000,
    );
  });

  it('is clean in the dark, too', async () => {
    await begin('Tasks by due date', 'book', 'task');
    await page
      .getByText(/records cross, as/)
      .first()
      .waitFor();
    await button(/Change to dark/);
    for (const section of ['Which', 'Fields', 'Removals and conflicts']) {
      await tab(section);
      await audit(`${section}, dark`);
    }
  });
});
