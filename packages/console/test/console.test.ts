import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { makeData } from '../../../demo/data.ts';
import { openBrowser } from '../../../test/support/browser.ts';
import { admin, type Office, openOffice } from '../../../test/support/office.ts';
import { account, dav, eventually } from '../../../test/support/servers.ts';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('the console in Chromium', function () {
  this.timeout(180_000);
  let office: Office;
  let browser: Browser;
  let page: Page;
  const errors: string[] = [];
  before(async () => {
    office = await openOffice({ seed: makeData(new Date().toISOString().slice(0, 10), 24) });
    await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 30_000);
    browser = await openBrowser();
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('console', (message) => message.type() === 'error' && !message.text().includes('401') && errors.push(message.text()));
  });
  after(async () => {
    await browser?.close();
    await office?.stop();
  });

  const audit = async (what: string) => {
    // A page comes in its own time; before it, there is nothing to judge.
    await page.locator('h1').first().waitFor();
    const found = await page.evaluate(
      `${axe}; axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] }).then((r) => r.violations.map((v) => v.id + ': ' + v.nodes.map((n) => n.html).join(' | ').slice(0, 300)))`,
    );
    expect(found, what).to.deep.equal([]);
  };
  const go = (path: string) => page.goto(office.address + path);

  it('lets nobody in without a password, and signs in by keyboard alone', async () => {
    await go('/lanes/tuning-visits');
    await page.getByRole('button', { name: 'Sign in' }).waitFor();
    await audit('sign in');
    await page.getByLabel('E-mail').focus();
    await page.keyboard.type(admin.email);
    await page.keyboard.press('Tab');
    await page.keyboard.type('wrong');
    await page.keyboard.press('Enter');
    await page.getByRole('alert').filter({ hasText: 'do not go together' }).waitFor();
    await page.getByLabel('Password').fill(admin.password);
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Tuning visits' }).waitFor();
  });

  it('shows a visit that was rescheduled at the Front desk move, within a second and without a reload', async () => {
    const { items } = await office.client.items('tuning-visits', { state: 'in sync', limit: 1 });
    const visit = items[0]!;
    await go('/lanes/tuning-visits');
    const row = page.getByRole('row', { name: visit.label }).first();
    await row.waitFor();
    await page.evaluate('window.stillHere = true');
    const asked = Date.now();
    await office.frontDesk.call('PATCH', `/visits/${visit.recordId}`, { start: '2026-12-24T07:45:00', time_zone: 'Europe/London' });
    await page.getByRole('row', { name: /24 Dec 2026 07:45/ }).waitFor({ timeout: 5_000 });
    const took = Date.now() - asked;
    expect(await page.evaluate('window.stillHere'), 'no reload').to.equal(true);
    expect((await office.event(visit.recordId!))!.text).to.include('20261224T074500');
    // A bound for a busy machine; the bench says how long it really takes.
    expect(took).to.be.lessThan(3_000);
  });

  it('has every page clean for axe, in light and dark, and without errors', async () => {
    const [run] = (await office.client.runs({ limit: 50 })).items.slice(-1);
    const left = (await office.client.items('tuning-visits', { state: 'left out', limit: 1 })).items[0]!;
    const agreed = (await office.client.items('tuning-visits', { state: 'in sync', limit: 1 })).items[0]!;
    const event = (await office.event(agreed.recordId!))!;
    await dav(office.diary, 'DELETE', event.href);
    await office.run();
    const when = agreed.when as { start: string };
    const visitDay = when.start.slice(0, 10);
    await office.client.makeHostedCalendar({ name: 'Rehearsals', slug: 'rehearsals' });
    await office.client.makeFeed({ name: 'Visits to subscribe to', lane: 'tuning-visits' });
    const pages: [string, string][] = [
      ['/', 'Needs you'],
      ['/systems', 'Front desk'],
      ['/systems/new', 'Business application'],
      ['/systems/front-desk', 'Tuning visits'],
      ['/lanes', 'Tuning visits'],
      ['/lanes/tuning-visits', agreed.label],
      ['/lanes/tuning-visits?tab=runs', 'sweep'],
      ['/lanes/tuning-visits?tab=settings', 'Regular check'],
      [`/lanes/tuning-visits/items/${left.recordId}`, 'Next:'],
      [`/lanes/tuning-visits/items/${agreed.recordId}/visit`, 'History'],
      ['/runs', 'asked'],
      [`/runs/${run!.id}`, 'What it did'],
      ['/holds', 'event deleted'],
      [`/lanes/tuning-visits?tab=calendar&day=${visitDay}`, agreed.label],
      [`/calendar?day=${visitDay}`, agreed.label],
      [`/calendar?view=day&day=${visitDay}`, agreed.label],
      [`/calendar?view=month&day=${visitDay}`, 'Week of'],
      [`/calendar?view=list&day=${visitDay}`, agreed.label],
      ['/feeds', 'Address for calendar programs'],
      ['/counts', 'week from'],
      ['/people', 'Your notifications by mail'],
      ['/activity', 'Newest first'],
      ['/nowhere', 'no such page'],
    ];
    for (const theme of ['light', 'dark']) {
      await page.evaluate((t) => localStorage.setItem('theme', t), theme);
      for (const [path, words] of pages) {
        await go(path);
        await page.getByText(words).first().waitFor();
        await audit(`${path} in ${theme}`);
      }
    }
    await page.evaluate(() => localStorage.setItem('theme', 'light'));
    expect(errors).to.deep.equal([]);
  });

  it('settles a hold by keyboard, and the event is there again', async () => {
    await go('/holds');
    const button = page.getByRole('button', { name: /^create again/ });
    await button.waitFor();
    for (let i = 0; i < 40 && !(await button.evaluate((b) => b === document.activeElement)); i++) await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await page.getByText('Nothing is held.').waitFor();
    // A lane is serial: when the run asked for now is done, so is the one that carried out the answer.
    await office.run();
    expect((await office.client.holds()).items).to.deep.equal([]);
  });

  it('forecasts before it runs, by keyboard alone, and shows what the run did', async () => {
    await office.client.pause('tuning-visits');
    // A run that was under way when the lane was paused would take the edit along.
    await eventually('nothing runs', async () => (await office.client.runs({ limit: 20 })).items.every((r) => r.endedAt !== null));
    const visit = (await office.client.items('tuning-visits', { state: 'in sync', limit: 1 })).items[0]!;
    await office.frontDesk.call('PATCH', `/visits/${visit.recordId}`, { instrument: 'Alder spinet' });
    await go('/lanes/tuning-visits');
    const opens = page.getByRole('button', { name: 'Forecast and run' });
    await opens.focus();
    await page.keyboard.press('Enter');
    const dialog = page.getByRole('dialog');
    await dialog.getByText(/1 changed/).waitFor();
    await dialog.getByText('Alder spinet').first().waitFor();
    await audit('forecast');
    expect((await office.event(visit.recordId!))!.text).to.not.include('Alder spinet');
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'detached' });
    // A dialog gives the focus back a moment after it is gone.
    await eventually('the focus is back', () => opens.evaluate((button) => button === document.activeElement));
    await page.keyboard.press('Enter');
    const runIt = dialog.getByRole('button', { name: 'Run it now' });
    await dialog.getByText(/1 changed/).waitFor();
    for (let i = 0; i < 20 && !(await runIt.evaluate((b) => b === document.activeElement)); i++) await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Run of Tuning visits' }).waitFor();
    await page.getByText(/1 changed/).waitFor();
    expect((await office.event(visit.recordId!))!.text).to.include('Alder spinet');
    await office.client.resume('tuning-visits');
  });

  it('audits both sides, and shows what differs', async () => {
    await go('/lanes/tuning-visits');
    await page.getByRole('button', { name: 'Audit' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByText('Both sides agree.').waitFor();
    await audit('audit');
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'detached' });
  });

  it('pauses everything with its reason, on every page, and goes on', async () => {
    await go('/');
    await page.getByRole('button', { name: 'Pause everything' }).click();
    const now = page.getByRole('button', { name: 'Pause everything now' });
    expect(await now.isDisabled(), 'not without a reason').to.equal(true);
    await page.getByLabel('Why').fill('the office moves');
    await audit('pause everything');
    await now.click();
    await page.getByRole('status').filter({ hasText: 'by ines@alder-wren.example: the office moves' }).waitFor();
    await go('/runs');
    await page.getByRole('heading', { name: 'Runs' }).waitFor();
    await page.getByText('Everything is paused').waitFor();
    await audit('everything is paused');
    await page.getByRole('button', { name: 'Resume everything' }).click();
    await page.getByText('Everything is paused').waitFor({ state: 'detached' });
    expect(await office.client.paused()).to.equal(null);
  });

  it('makes an answer the rule from now on, after showing what that would do', async () => {
    const { items } = await office.client.items('tuning-visits', { state: 'in sync', limit: 3 });
    await dav(office.diary, 'DELETE', items[2]!.href!);
    await office.run();
    await go('/holds');
    await page.getByLabel('and from now on').check();
    await page.getByRole('button', { name: /^create again/ }).click();
    await page.getByRole('heading', { name: '1. What it would do' }).waitFor();
    await office.run();
    const [draft] = (await office.client.drafts()).items;
    expect((draft!.definition as { departures: object }).departures).to.deep.include({ eventDeleted: 'create again' });
    expect((await office.client.lane('tuning-visits')).definition.departures.eventDeleted, 'nothing is changed before it is started').to.equal(
      'hold',
    );
    await office.client.dropDraft(draft!.id);
    expect((await office.client.holds()).items).to.deep.equal([]);
  });

  it('shows a viewer everything, and lets them press nothing that they may not', async () => {
    await office.client.addPerson({ email: 'vera@alder-wren.example', name: 'Vera', role: 'viewer', password: 'let-in-by-somebody-else' });
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const theirs = await context.newPage();
    await theirs.goto(`${office.address}/lanes/tuning-visits`);
    await theirs.getByLabel('E-mail').fill('vera@alder-wren.example');
    await theirs.getByLabel('Password').fill('let-in-by-somebody-else');
    await theirs.keyboard.press('Enter');
    await theirs.getByRole('heading', { name: 'Choose a password' }).waitFor();
    await theirs.getByLabel('Current password').fill('let-in-by-somebody-else');
    for (const label of ['New password', 'New password, again']) await theirs.getByLabel(label, { exact: true }).fill('a-quiet-metronome');
    await theirs.getByRole('button', { name: 'Change password' }).click();
    await theirs.getByRole('heading', { name: 'Tuning visits' }).waitFor();
    for (const name of ['Pause', 'Change', 'Stop']) expect(await theirs.getByRole('button', { name, exact: true }).isDisabled(), name).to.equal(true);
    expect(await theirs.getByRole('button', { name: 'Audit' }).isDisabled()).to.equal(false);
    await context.close();
    await office.client.removePerson('vera@alder-wren.example');
  });

  it('finds items by words and state, and says why one is left out', async () => {
    await go('/lanes/tuning-visits');
    await page.getByLabel('State').selectOption('left out');
    await page
      .getByRole('row', { name: /no date: start is not empty/ })
      .getByRole('link')
      .click();
    await page.getByText('No date, so nothing to put on the calendar (start is not empty).').waitFor();
    await page.getByText('Next: Give the record a start.').waitFor();
    await go('/lanes/tuning-visits');
    await page.getByLabel('Search').fill('zzz');
    await page.getByText('Nothing fits.').waitFor();
  });

  it('connects a system: says which setting is wrong, checks step by step before anything is kept, and connects', async () => {
    await go('/systems/new');
    await page.getByRole('button', { name: /Calendar server/ }).click();
    await page.getByLabel('Name (needed)').fill('Second diary');
    await page.getByLabel('Address (needed)').fill('ftp://nowhere');
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.getByText('is not an address such as').first().waitFor();
    // The browser calls an answer that says no an error.
    errors.splice(0, errors.length, ...errors.filter((e) => !e.includes('422')));
    await audit('connect');
    await page.getByLabel('Address (needed)').fill(office.diary);
    await page.getByLabel('User').fill(account.user);
    await page.getByLabel('Password').fill('wrong');
    await page.getByRole('button', { name: 'Check first' }).click();
    await page.getByText('does not accept the credentials').waitFor();
    expect((await office.client.systems()).items.map((s) => s.slug)).to.not.include('second-diary');
    await page.getByLabel('Password').fill(account.password);
    await page.getByRole('button', { name: 'Check first' }).click();
    await page.getByText('Everything was found').waitFor();
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.getByRole('heading', { name: 'Second diary' }).waitFor();
    await page.getByText('nothing speaks against it').waitFor();
    await page.getByRole('button', { name: 'Disconnect' }).click();
    await page.getByRole('heading', { name: 'Systems' }).waitFor();
    expect((await office.client.systems()).items.map((s) => s.slug).sort()).to.deep.equal(['diary', 'front-desk', 'hosted']);
    // While it goes, the page may ask once more for what is disconnected.
    await page.waitForTimeout(500);
    errors.splice(0, errors.length, ...errors.filter((e) => !e.includes('404')));
  });

  it('makes an address to subscribe to of records, without any calendar server, and shows it as a whole', async () => {
    await go('/lanes/new');
    await page.getByRole('button', { name: /Records to an address/ }).click();
    await page.getByLabel('Records are in').selectOption({ label: 'Front desk' });
    await page.getByLabel('Collection 1').selectOption('visits');
    const label = (await page.getByLabel('Collection 1').locator('option:checked').textContent())!;
    await page.getByRole('button', { name: 'Arrange it' }).click();
    const notice = page.getByText('Anyone who has this address can read these events');
    await notice.waitFor({ timeout: 20_000 });
    const address = (await notice.locator('code').textContent())!;
    await page.getByRole('tab', { name: 'Prove it' }).click();
    await page.getByRole('button', { name: /^Make it/ }).click();
    await page.getByRole('button', { name: 'Start the lane' }).click();
    await page.getByRole('heading', { name: label, exact: true }).waitFor();
    const shown = await eventually('the feed shows the visits', async () => {
      const text = await (await fetch(address)).text();
      return text.includes('BEGIN:VEVENT') && text;
    });
    expect(shown).to.contain(`NAME:${label}`).and.contain('SUMMARY:');
    await go('/feeds');
    await page.getByRole('cell', { name: label, exact: true }).first().waitFor();
    await page
      .getByRole('row')
      .filter({ has: page.getByRole('cell', { name: label, exact: true }) })
      .first()
      .getByRole('button', { name: 'Open' })
      .click();
    const dialog = page.getByRole('dialog');
    await dialog.getByAltText('The address, for the camera').waitFor();
    await audit('a feed');
    await dialog.getByRole('button', { name: 'Revoke the address' }).click();
    await dialog.getByText('It has no address').waitFor();
    expect((await fetch(address)).status).to.equal(404);
    await page.keyboard.press('Escape');
  });

  it('pauses and resumes a lane, checks a system, and signs out by menu', async () => {
    await go('/lanes/tuning-visits');
    await page.getByRole('button', { name: 'Pause', exact: true }).click();
    await page.getByRole('button', { name: 'Resume', exact: true }).click();
    await page.getByRole('button', { name: 'Pause', exact: true }).waitFor();
    await go('/systems');
    await page.getByRole('link', { name: 'Diary' }).click();
    await page.getByRole('button', { name: 'Check now' }).click();
    await page.getByText('nothing speaks against it').waitFor();
    await page.getByRole('button', { name: 'Try' }).click();
    await page.getByRole('dialog').getByText('PROPFIND').first().waitFor({ state: 'attached' });
    await audit('try');
    await page.keyboard.press('Escape');
    const menu = page.getByRole('button', { name: 'ines' });
    await menu.focus();
    await page.keyboard.press('Enter');
    await page.getByRole('menuitem', { name: 'Sign out' }).waitFor();
    await audit('menu');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Sign in' }).waitFor();
    expect(errors).to.deep.equal([]);
  });
});
